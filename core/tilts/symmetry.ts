import { BufferAttribute, BufferGeometry, Vector3 } from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import { boundsOf, cross, dot, triangleArea, unit, type Mesh, type Vec3 } from '../mesh'
import { acrossOf, turnedAbout } from './directions'

/** An axis about which a part looks the same: after any turn, or after one part in `order` of a whole one. Order 1 is none. */
export interface Symmetry {
  readonly axis: Vec3
  readonly order: number
}

export const NO_SYMMETRY: Symmetry = { axis: [0, 0, 1], order: 1 }

/** Skin that lies off by more than this after a turn is another skin, mm. */
const SAME_WITHIN_MM = 0.1
const SAMPLES = 1500, QUICK_SAMPLES = 40
/** Turns that no regular shape of few sides comes back to itself by, degrees. */
const ANY_TURN = [47, 101, 137.5]
const ORDERS = [6, 5, 4, 3, 2]
/** Images of a direction about an axis of any turn. */
const IMAGES = 48

/** The axis of symmetry of a part, if it has one: looked for among the axes of its skin's inertia and those of its file. */
export function symmetryOf(mesh: Mesh): Symmetry {
  if (mesh.triangles.length === 0) return NO_SYMMETRY
  const { middle, axes } = inertia(mesh), geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
  geometry.setIndex(new BufferAttribute(mesh.triangles, 1))
  const samples = samplesOf(mesh), target = { point: new Vector3(), distance: 0, faceIndex: 0 }, at = new Vector3()
  let tree: MeshBVH | null = null
  const corner = boundsOf(mesh.positions), reach = Math.hypot(...[0, 1, 2].map(c => corner.max[c] - corner.min[c]))
  const holds = (axis: Vec3, deg: number, count: number): boolean => {
    tree ??= new MeshBVH(geometry, { targetLeafSize: 8, indirect: true } as object)
    const step = Math.max(1, Math.floor(samples.length / count))
    for (let i = 0; i < samples.length; i += step) {
      const p = samples[i]
      const q = turnedAbout([p[0] - middle[0], p[1] - middle[1], p[2] - middle[2]], axis, (deg * Math.PI) / 180)
      const found = tree.closestPointToPoint(at.set(q[0] + middle[0], q[1] + middle[1], q[2] + middle[2]), target, 0, reach)
      if (!found || found.distance > SAME_WITHIN_MM) return false
    }
    return true
  }
  const same = (axis: Vec3, deg: number): boolean => holds(axis, deg, QUICK_SAMPLES) && holds(axis, deg, SAMPLES)
  let best = NO_SYMMETRY
  for (const axis of axes) {
    if (ANY_TURN.every(deg => same(axis, deg))) return { axis, order: Infinity }
    const order = ORDERS.find(n => same(axis, 360 / n))
    if (order !== undefined && order > best.order) best = { axis, order }
  }
  return best
}

/** Points of the skin, evenly by area. The same ones every time. */
function samplesOf(mesh: Mesh): Vec3[] {
  const { positions: p, triangles: t } = mesh, n = t.length / 3
  let total = 0
  for (let i = 0; i < n; i++) total += triangleArea(mesh, i)
  const step = total / SAMPLES, out: Vec3[] = []
  let next = step / 2, sum = 0
  for (let i = 0; i < n; i++) {
    sum += triangleArea(mesh, i)
    for (; next < sum && out.length < SAMPLES; next += step) {
      // a point within the triangle that differs from sample to sample
      const a = (out.length * 0.618034) % 1, b = (out.length * 0.754878) % 1, [u, v] = a + b > 1 ? [1 - a, 1 - b] : [a, b]
      const at = (c: number): number => p[3 * t[3 * i] + c] * (1 - u - v) + p[3 * t[3 * i + 1] + c] * u + p[3 * t[3 * i + 2] + c] * v
      out.push([at(0), at(1), at(2)])
    }
  }
  return out
}

/** Middle of the skin by area, and the axes that an axis of symmetry can lie along. */
function inertia(mesh: Mesh): { middle: Vec3; axes: Vec3[] } {
  const { positions: p, triangles: t } = mesh, middle: [number, number, number] = [0, 0, 0], m = [0, 0, 0, 0, 0, 0, 0, 0, 0]
  let area = 0
  for (let i = 0; i < t.length; i += 3) {
    const a = triangleArea(mesh, i / 3)
    area += a
    for (let d = 0; d < 3; d++) middle[d] += (a * (p[3 * t[i] + d] + p[3 * t[i + 1] + d] + p[3 * t[i + 2] + d])) / 3
  }
  for (let d = 0; d < 3; d++) middle[d] /= area || 1
  for (let i = 0; i < t.length; i += 3) {
    const a = triangleArea(mesh, i / 3) / 12
    for (let r = 0; r < 3; r++) {
      const x = p[3 * t[i] + r] - middle[r], y = p[3 * t[i + 1] + r] - middle[r], z = p[3 * t[i + 2] + r] - middle[r]
      for (let c = r; c < 3; c++) {
        const u = p[3 * t[i] + c] - middle[c], v = p[3 * t[i + 1] + c] - middle[c], w = p[3 * t[i + 2] + c] - middle[c]
        // exact second moment of a triangle: (Σ corner² + (Σ corner)²) / 12
        m[3 * r + c] += a * (x * u + y * v + z * w + (x + y + z) * (u + v + w))
      }
    }
  }
  for (let r = 0; r < 3; r++) for (let c = 0; c < r; c++) m[3 * r + c] = m[3 * c + r]
  const { values, vectors } = eigen(m)
  // where two of them are alike only the third is told by them
  const alike = (a: number, b: number): boolean => Math.abs(values[a] - values[b]) <= 0.005 * Math.max(...values)
  const own = [0, 1, 2].filter(i => ![0, 1, 2].some(j => j !== i && alike(i, j))).map(i => vectors[i])
  const axes = [...own]
  for (const file of [[0, 0, 1], [1, 0, 0], [0, 1, 0]] as Vec3[]) if (!axes.some(a => Math.abs(dot(a, file)) > 0.99999)) axes.push(file)
  return { middle, axes }
}

/** Eigenvalues and eigenvectors of a symmetric 3 × 3 matrix. Source: Jacobi's rotations (Golub and Van Loan, Matrix Computations, 8.5). */
function eigen(matrix: readonly number[]): { values: number[]; vectors: Vec3[] } {
  const a = [...matrix], v = [1, 0, 0, 0, 1, 0, 0, 0, 1]
  for (let sweep = 0; sweep < 30; sweep++) {
    for (const [p, q] of [[0, 1], [0, 2], [1, 2]]) {
      if (Math.abs(a[3 * p + q]) < 1e-14 * (Math.abs(a[0]) + Math.abs(a[4]) + Math.abs(a[8]))) continue
      const theta = (a[4 * q] - a[4 * p]) / (2 * a[3 * p + q]), t = Math.sign(theta || 1) / (Math.abs(theta) + Math.hypot(1, theta)), c = 1 / Math.hypot(1, t), s = t * c
      for (let k = 0; k < 3; k++) {
        const x = a[3 * k + p], y = a[3 * k + q]
        a[3 * k + p] = c * x - s * y
        a[3 * k + q] = s * x + c * y
      }
      for (let k = 0; k < 3; k++) {
        const x = a[3 * p + k], y = a[3 * q + k]
        a[3 * p + k] = c * x - s * y
        a[3 * q + k] = s * x + c * y
        const vx = v[3 * k + p], vy = v[3 * k + q]
        v[3 * k + p] = c * vx - s * vy
        v[3 * k + q] = s * vx + c * vy
      }
    }
  }
  return { values: [a[0], a[4], a[8]], vectors: [0, 1, 2].map((i): Vec3 => unit([v[i], v[3 + i], v[6 + i]])) }
}

/** How far around the axis a direction lies, radians from 0 on. */
function turnOf({ axis }: Symmetry, d: Vec3): number {
  const u = acrossOf(axis), w = cross(axis, u), a = Math.atan2(dot(d, w), dot(d, u))
  return a < 0 ? a + 2 * Math.PI : a
}

/** Those of some directions that are not the same as another one by symmetry; of an axis of any turn, directions along one meridian. */
export function distinct(symmetry: Symmetry, directions: readonly Vec3[]): Vec3[] {
  const { axis, order } = symmetry
  if (order === 1) return [...directions]
  if (order !== Infinity) return directions.filter(d => turnOf(symmetry, d) < (2 * Math.PI) / order)
  // as dense along the meridian as an even lattice of so many is
  const count = Math.ceil(Math.PI / Math.sqrt((4 * Math.PI) / directions.length)) * 2, u = acrossOf(axis)
  return Array.from({ length: count + 1 }, (_, i) => turnedAbout(axis, u, (Math.PI * i) / count))
}

/** All directions that are the same as one, itself first. */
export function imagesOf({ axis, order }: Symmetry, d: Vec3): Vec3[] {
  const count = order === Infinity ? (Math.abs(dot(axis, d)) > 1 - 1e-9 ? 1 : IMAGES) : order
  return Array.from({ length: count }, (_, i) => turnedAbout(d, axis, (2 * Math.PI * i) / count))
}
