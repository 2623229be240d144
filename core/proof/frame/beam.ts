import { cross, distance, sub, unit, type Vec3 } from '../../mesh'
import { addTransposed, BLOCK, multiply, SIZE } from './block'

/** What beams are made of: the modulus in N/mm², and how much it narrows where it is drawn. */
export interface Material {
  readonly modulusNMm2: number
  readonly poisson: number
}

/** A round beam that tapers evenly, between two points, mm. */
export interface Taper {
  readonly from: Vec3
  readonly to: Vec3
  readonly fromRadiusMm: number
  readonly toRadiusMm: number
}

/**
 * What one end of a tapered round beam resists while the other is clamped: forces in N and moments in N·mm there, by its displacements in
 * mm and turns, along the axes of space. Bernoulli's beam; the flexibility in closed form, from r⁴ between the radii a at the free end and b:
 * ∫dx/EI = 4L(a² + ab + b²)/(3πE a³b³), ∫x/EI = 2L²(2a + b)/(3πE a²b³), ∫x²/EI = 4L³/(3πE ab³), ∫dx/EA = L/(πE ab).
 */
export function endStiffness({ from, to, fromRadiusMm: a, toRadiusMm: b }: Taper, { modulusNMm2: e, poisson }: Material): Float64Array {
  const length = Math.max(1e-6, distance(from, to)), k = 3 * Math.PI * e
  const i0 = (4 * length * (a * a + a * b + b * b)) / (k * (a * b) ** 3), i1 = (2 * length ** 2 * (2 * a + b)) / (k * a ** 2 * b ** 3), i2 = (4 * length ** 3) / (k * a * b ** 3)
  const det = i0 * i2 - i1 * i1, along = (Math.PI * e * a * b) / length, twist = 1 / (i0 * (1 + poisson))
  // along the beam x from the free end on, and y and z across
  const local = new Float64Array(BLOCK), put = (i: number, j: number, v: number): void => {
    local[SIZE * i + j] = v
    local[SIZE * j + i] = v
  }
  put(0, 0, along)
  put(3, 3, twist)
  put(1, 1, i0 / det)
  put(1, 5, i1 / det)
  put(5, 5, i2 / det)
  put(2, 2, i0 / det)
  put(2, 4, -i1 / det)
  put(4, 4, i2 / det)
  const axes = axesOf(from, to), turn = new Float64Array(BLOCK)
  for (let i = 0; i < 3; i++) {
    for (let j = 0; j < 3; j++) {
      turn[SIZE * i + j] = axes[i][j]
      turn[SIZE * (3 + i) + 3 + j] = axes[i][j]
    }
  }
  const half = new Float64Array(BLOCK), out = new Float64Array(BLOCK)
  multiply(local, 0, turn, 0, half, 0)
  addTransposed(1, turn, 0, half, 0, out, 0)
  return out
}

/** Unit vectors along a beam and across it. */
export function axesOf(from: Vec3, to: Vec3): readonly [Vec3, Vec3, Vec3] {
  const x = distance(from, to) > 1e-9 ? unit(sub(to, from)) : ([0, 0, -1] as const), y = unit(cross(Math.abs(x[2]) < 0.9 ? [0, 0, 1] : [1, 0, 0], x))
  return [x, y, cross(x, y)]
}

/** How a point moves with a body that is displaced and turned about another one: from displacements and turns of the body to those of the point. */
export function carriedBy(body: Vec3, point: Vec3): Float64Array {
  const [x, y, z] = sub(point, body), out = new Float64Array(BLOCK)
  for (let i = 0; i < SIZE; i++) out[SIZE * i + i] = 1
  out[SIZE * 0 + 4] = z
  out[SIZE * 0 + 5] = -y
  out[SIZE * 1 + 3] = -z
  out[SIZE * 1 + 5] = x
  out[SIZE * 2 + 3] = y
  out[SIZE * 2 + 4] = -x
  return out
}
