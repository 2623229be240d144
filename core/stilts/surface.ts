import { type Box3, BufferAttribute, BufferGeometry, DoubleSide, Line3, Ray, Vector3 } from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import { OFF_LIMITS, PLAIN } from '../marks'
import type { Mesh, Vec3 } from '../mesh'
import { AS_IS, moveDirection, movePoint, moveDirectionBack, movePointBack, UNSHAPED, type Shape, type Stand, type Standing } from '../pose'

/** A point of the model's surface, in the stand. */
export interface SurfacePoint {
  readonly point: Vec3
  /** Outward unit normal of the triangle. */
  readonly normal: Vec3
  readonly distanceMm: number
  /** The triangle of the part's mesh. */
  readonly face: number
}

/** Steps from one convex body to the other and back in search of their nearest points. */
const APPROACHES = 24

/** Faces that are looked at between two turns of others. */
const SEEN_AT_ONCE = 4096
/** So far under the skin it is looked from there inward; and crossings nearer than that to each other are one, mm. */
const SKIN_MM = 0.002, SAME_PLACE_MM = 1e-5
/** Faces that are looked through at the most. */
const MOST_WALLS = 8
/** What lies on the skin is found within this, mm. */
const TOUCHED_WITHIN_MM = 0.5
/** Room above which gaps are not told apart, mm. */
export const GAP_CEILING_MM = 5
/**
 * The model's surface for ray casts and distances. The tree is built once in the coordinates of the part, scale and mirror worked in;
 * a change of pose only changes the stand, since a pose is rigid.
 */
export class Surface {
  readonly #tree: MeshBVH
  /** The mesh of the part. */
  readonly faces: Mesh
  /** What each of its faces is worth; null where none is marked. */
  #worths: Uint8Array | null = null
  #stand: Stand
  /** How the source became the part: what touches the surface is kept in the source's coordinates. */
  readonly shape: Shape
  readonly #point = new Vector3()
  readonly #ray = new Ray()
  readonly #segment = new Line3()
  readonly #along = new Vector3()
  readonly #onSegment = new Vector3()
  readonly #target = { point: new Vector3(), distance: 0, faceIndex: 0 }

  /** @param mesh of the part, shaped already */
  constructor(mesh: Mesh, { shape, stand }: Standing = { shape: UNSHAPED, stand: AS_IS }) {
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
    geometry.setIndex(new BufferAttribute(mesh.triangles, 1))
    this.faces = mesh
    // indirect: faces keep their numbers
    this.#tree = new MeshBVH(geometry, { targetLeafSize: 8, indirect: true } as object)
    this.#stand = stand
    this.shape = shape
  }

  get stand(): Stand {
    return this.#stand
  }

  /** Takes what the faces are worth, one number each as core/marks has them. */
  setWorths(worths: Uint8Array | null): void {
    this.#worths = worths
  }

  /** Faces whose middle lies within a radius of a point of the skin, and which look to the same side. */
  facesWithin(at: SurfacePoint, radiusMm: number): number[] {
    const p = movePointBack(this.#stand, at.point), n = moveDirectionBack(this.#stand, at.normal), middle = new Vector3(p[0], p[1], p[2]), found: number[] = []
    this.#tree.shapecast({
      intersectsBounds: box => box.distanceToPoint(middle) <= radiusMm,
      intersectsTriangle: (triangle, face) => {
        const m = this.#normalOf(face)
        if (m[0] * n[0] + m[1] * n[1] + m[2] * n[2] > 0 && (face === at.face || triangle.getMidpoint(this.#along).distanceTo(middle) <= radiusMm)) found.push(face)
        return false
      },
    })
    return found
  }

  /**
   * Faces that look at an eye of the stand with nothing between it and their middle. Yields now and then, so that others have a turn.
   * @param within planes through the eye, by normals that look inward; only what lies between them counts
   */
  *facesSeenFrom(eye: Vec3, within: readonly Vec3[] = []): Generator<null, number[], void> {
    const { positions: p, triangles: t } = this.faces, found: number[] = [], planes = within.map(n => moveDirectionBack(this.#stand, n)), e = movePointBack(this.#stand, eye)
    for (let face = 0; face < t.length / 3; face++) {
      if (face % SEEN_AT_ONCE === SEEN_AT_ONCE - 1) yield null
      const [a, b, c] = [3 * t[3 * face], 3 * t[3 * face + 1], 3 * t[3 * face + 2]]
      const x = (p[a] + p[b] + p[c]) / 3, y = (p[a + 1] + p[b + 1] + p[c + 1]) / 3, z = (p[a + 2] + p[b + 2] + p[c + 2]) / 3
      const dx = x - e[0], dy = y - e[1], dz = z - e[2]
      if (planes.some(n => n[0] * dx + n[1] * dy + n[2] * dz < 0)) continue
      const n = this.#normalOf(face), far = Math.hypot(dx, dy, dz)
      if (n[0] * dx + n[1] * dy + n[2] * dz >= 0) continue
      this.#ray.origin.set(e[0], e[1], e[2])
      this.#ray.direction.set(dx / far, dy / far, dz / far)
      const hit = this.#tree.raycastFirst(this.#ray, DoubleSide, 0, far * (1 - 1e-4))
      if (!hit || hit.faceIndex === face) found.push(face)
    }
    return found
  }

  /** Whether any face is worth something else than usual. */
  get marked(): boolean {
    return this.#worths !== null
  }

  /** The worth of a face. */
  worthOf(face: number): number {
    return this.#worths?.[face] ?? PLAIN
  }

  /** The worth of the skin at a point that lies on it. */
  worthAt(point: Vec3): number {
    const skin = this.#worths ? this.nearest(point, TOUCHED_WITHIN_MM) : null
    return skin ? this.worthOf(skin.face) : PLAIN
  }

  /** Whether a face that is off limits comes within a radius of a point of the stand. */
  offLimitsWithin(point: Vec3, radiusMm: number): boolean {
    const worths = this.#worths
    if (!worths) return false
    const p = movePointBack(this.#stand, point), middle = new Vector3(p[0], p[1], p[2])
    let found = false
    this.#tree.shapecast({
      intersectsBounds: box => box.distanceToPoint(middle) <= radiusMm,
      intersectsTriangle: (triangle, face) => {
        if (worths[face] !== OFF_LIMITS) return false
        triangle.closestPointToPoint(middle, this.#onSegment)
        return (found = this.#onSegment.distanceTo(middle) <= radiusMm)
      },
    })
    return found
  }

  setStand(stand: Stand): void {
    this.#stand = stand
  }

  /** Whether the pointer passes through the nearest wall, to the skin behind it that looks at the eye. */
  seeThrough = false

  /** The first point that a ray meets between two heights, whichever way it faces, or what is seen through the nearest wall; null where it meets none. */
  castBetween(origin: Vec3, direction: Vec3, [lowMm, highMm]: readonly [number, number]): SurfacePoint | null {
    const rise = direction[2] / (Math.hypot(...direction) || 1)
    if (Math.abs(rise) < 1e-9) return origin[2] >= lowMm && origin[2] <= highMm ? this.#castAsSeen(origin, direction, Infinity, 0) : null
    const a = (lowMm - origin[2]) / rise, b = (highMm - origin[2]) / rise
    const near = Math.max(0, Math.min(a, b)), far = Math.max(a, b)
    return far > near ? this.#castAsSeen(origin, direction, far, near) : null
  }

  #castAsSeen(origin: Vec3, direction: Vec3, farMm: number, nearMm: number): SurfacePoint | null {
    const first = this.cast(origin, direction, farMm, nearMm)
    if (!this.seeThrough || !first) return first
    // behind the wall the ray comes out into the open, and meets skin again that looks at the eye
    let { distanceMm } = first
    for (let n = 0; n < MOST_WALLS; n++) {
      const hit = this.cast(origin, direction, farMm, distanceMm + SKIN_MM)
      if (!hit) return first
      if (hit.normal[0] * direction[0] + hit.normal[1] * direction[1] + hit.normal[2] * direction[2] < 0) return hit
      distanceMm = hit.distanceMm
    }
    return first
  }

  /** The first point that a ray meets, whichever way it faces; null where it meets none from `nearMm` to `farMm`. */
  cast(origin: Vec3, direction: Vec3, farMm = Infinity, nearMm = 0): SurfacePoint | null {
    const o = movePointBack(this.#stand, origin), d = moveDirectionBack(this.#stand, direction)
    this.#ray.origin.set(o[0], o[1], o[2])
    this.#ray.direction.set(d[0], d[1], d[2]).normalize()
    const hit = this.#tree.raycastFirst(this.#ray, DoubleSide, nearMm, farMm)
    if (!hit || !hit.face) return null
    // the library turns the normal of a back face toward the ray; the triangle's own is wanted
    const n = this.#normalOf(hit.faceIndex as number)
    return {
      point: movePoint(this.#stand, [hit.point.x, hit.point.y, hit.point.z]),
      normal: moveDirection(this.#stand, n),
      distanceMm: hit.distance,
      face: hit.faceIndex as number,
    }
  }

  #normalOf(face: number): Vec3 {
    const index = this.#tree.geometry.index as BufferAttribute
    const p = this.#tree.geometry.attributes.position.array
    const a = 3 * index.array[3 * face], b = 3 * index.array[3 * face + 1], c = 3 * index.array[3 * face + 2]
    const ux = p[b] - p[a], uy = p[b + 1] - p[a + 1], uz = p[b + 2] - p[a + 2]
    const vx = p[c] - p[a], vy = p[c + 1] - p[a + 1], vz = p[c + 2] - p[a + 2]
    const n: Vec3 = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]
    const l = Math.hypot(...n) || 1
    return [n[0] / l, n[1] / l, n[2] / l]
  }

  /** Distance from a point of the stand to the surface, mm; `ceilingMm` where it is farther than that. */
  distance(point: Vec3, ceilingMm = GAP_CEILING_MM): number {
    const p = movePointBack(this.#stand, point)
    this.#point.set(p[0], p[1], p[2])
    const hit = this.#tree.closestPointToPoint(this.#point, this.#target, 0, ceilingMm)
    return hit ? Math.min(ceilingMm, this.#target.distance) : ceilingMm
  }

  /** The surface point nearest to a point of the stand within `withinMm`, with its normal; null where there is none. */
  nearest(point: Vec3, withinMm: number): SurfacePoint | null {
    const p = movePointBack(this.#stand, point)
    this.#point.set(p[0], p[1], p[2])
    const hit = this.#tree.closestPointToPoint(this.#point, this.#target, 0, withinMm)
    if (!hit) return null
    return {
      point: movePoint(this.#stand, [hit.point.x, hit.point.y, hit.point.z]),
      normal: moveDirection(this.#stand, this.#normalOf(hit.faceIndex)),
      distanceMm: hit.distance,
      face: hit.faceIndex,
    }
  }

  /**
   * The smallest gap between a tapered beam and the surface, at most `atMostMm`; negative where the beam touches it or runs
   * through it. One descent of the tree that always follows the nearer branch and leaves out what is farther than the best so far.
   * @param enoughBelowMm a gap under it is as good as the smallest: what is met first is given
   * @param atMostMm a gap over it is as good as any larger one
   */
  gapOfBeam(a: Vec3, b: Vec3, radiusA: number, radiusB: number, enoughBelowMm = -Infinity, atMostMm = GAP_CEILING_MM): number {
    const from = movePointBack(this.#stand, a), to = movePointBack(this.#stand, b)
    const { start, end } = this.#segment
    start.set(from[0], from[1], from[2])
    end.set(to[0], to[1], to[2])
    const along = this.#along.subVectors(end, start)
    const length2 = along.lengthSq()
    const widest = Math.max(radiusA, radiusB)
    let best = atMostMm
    /** From a point to the segment. */
    const offSegment = (x: number, y: number, z: number): number => {
      const px = x - start.x, py = y - start.y, pz = z - start.z, t = length2 > 0 ? Math.max(0, Math.min(1, (px * along.x + py * along.y + pz * along.z) / length2)) : 0
      const dx = px - along.x * t, dy = py - along.y * t, dz = pz - along.z * t
      return Math.sqrt(dx * dx + dy * dy + dz * dz)
    }
    // a box is at least as far as its bounding sphere, and as the box around the segment
    const nearest = ({ min, max }: Box3): number => {
      const x = max.x - min.x, y = max.y - min.y, z = max.z - min.z, sphere = offSegment(min.x + x / 2, min.y + y / 2, min.z + z / 2) - Math.sqrt(x * x + y * y + z * z) / 2
      const dx = apart(min.x, max.x, start.x, end.x), dy = apart(min.y, max.y, start.y, end.y), dz = apart(min.z, max.z, start.z, end.z)
      return Math.max(sphere, Math.sqrt(dx * dx + dy * dy + dz * dz))
    }
    this.#tree.shapecast({
      boundsTraverseOrder: nearest,
      intersectsBounds: (_box, _leaf, score) => (score ?? 0) - widest < best,
      intersectsTriangle: triangle => {
        const { a: p, b: q, c: r } = triangle, x = (p.x + q.x + r.x) / 3, y = (p.y + q.y + r.y) / 3, z = (p.z + q.z + r.z) / 3
        // and a triangle as the ball around it
        if (offSegment(x, y, z) - Math.sqrt(Math.max(squareTo(p, x, y, z), squareTo(q, x, y, z), squareTo(r, x, y, z))) - widest >= best) return false
        const distance = triangle.closestPointToSegment(this.#segment, undefined, this.#onSegment)
        const t = length2 > 0 ? Math.max(0, Math.min(1, this.#onSegment.sub(start).dot(along) / length2)) : 0
        const gap = distance - (radiusA + (radiusB - radiusA) * t)
        if (gap < best) best = gap
        return best < enoughBelowMm
      },
    })
    return best
  }

  /**
   * The smallest gap between an upright round disc and the surface, at most `GAP_CEILING_MM`; negative where they meet.
   * @param foot middle of its lower face
   */
  gapOfDisc(foot: Vec3, radius: number, height: number): number {
    const middle: Vec3 = [foot[0], foot[1], foot[2] + height / 2]
    const c = movePointBack(this.#stand, middle), u = moveDirectionBack(this.#stand, [0, 0, 1])
    const bound = Math.hypot(radius, height / 2)
    let best = GAP_CEILING_MM
    this.#tree.shapecast({
      boundsTraverseOrder: box => {
        box.getCenter(this.#point)
        return Math.hypot(this.#point.x - c[0], this.#point.y - c[1], this.#point.z - c[2]) - Math.hypot(box.max.x - box.min.x, box.max.y - box.min.y, box.max.z - box.min.z) / 2
      },
      intersectsBounds: (_box, _leaf, score) => (score ?? 0) - bound < best,
      intersectsTriangle: triangle => {
        // both are convex: going from one to the nearest point of the other and back ends at the nearest two
        const p = this.#point.set(c[0], c[1], c[2])
        let gap = Infinity
        for (let n = 0; n < APPROACHES; n++) {
          triangle.closestPointToPoint(p, this.#onSegment)
          const { x, y, z } = this.#onSegment
          const up = (x - c[0]) * u[0] + (y - c[1]) * u[1] + (z - c[2]) * u[2]
          const ax = x - c[0] - u[0] * up, ay = y - c[1] - u[1] * up, az = z - c[2] - u[2] * up
          const out = Math.hypot(ax, ay, az), k = out > radius ? radius / out : 1, h = Math.max(-height / 2, Math.min(height / 2, up))
          p.set(c[0] + ax * k + u[0] * h, c[1] + ay * k + u[1] * h, c[2] + az * k + u[2] * h)
          const next = p.distanceTo(this.#onSegment)
          if (gap - next < 1e-4) {
            gap = Math.min(gap, next)
            break
          }
          gap = next
        }
        if (gap < best) best = gap
        return false
      },
    })
    return best < 1e-3 ? -1 : best
  }

  /**
   * Thickness of the model at a surface point, measured inward along a direction, mm; Infinity where the ray does not come out. Where
   * solids overlap, skin of one inside another is no end of it.
   */
  thickness(point: Vec3, inward: Vec3): number {
    const skin = SKIN_MM / (Math.hypot(...inward) || 1)
    const o = movePointBack(this.#stand, [point[0] + inward[0] * skin, point[1] + inward[1] * skin, point[2] + inward[2] * skin]), d = moveDirectionBack(this.#stand, inward)
    this.#ray.origin.set(o[0], o[1], o[2])
    this.#ray.direction.set(d[0], d[1], d[2]).normalize()
    const along = this.#ray.direction.clone()
    // where two faces meet both are hit at one place
    const crossings = new Map<string, { readonly mm: number; readonly out: boolean }>()
    for (const hit of this.#tree.raycast(this.#ray, DoubleSide)) {
      const n = this.#normalOf(hit.faceIndex as number), out = n[0] * along.x + n[1] * along.y + n[2] * along.z > 0
      crossings.set(`${Math.round(hit.distance / SAME_PLACE_MM)} ${out}`, { mm: hit.distance, out })
    }
    let within = 1
    for (const { mm, out } of [...crossings.values()].sort((a, b) => a.mm - b.mm)) {
      within += out ? -1 : 1
      if (within === 0) return mm + SKIN_MM
    }
    return Infinity
  }
}

/** How far a stretch of an axis is from the one between two places, whichever is first; 0 where they meet. */
function apart(min: number, max: number, a: number, b: number): number {
  return Math.max(0, min - Math.max(a, b), Math.min(a, b) - max)
}

function squareTo({ x, y, z }: Vector3, toX: number, toY: number, toZ: number): number {
  return (x - toX) * (x - toX) + (y - toY) * (y - toY) + (z - toZ) * (z - toZ)
}
