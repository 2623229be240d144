import { type Box3, BufferAttribute, BufferGeometry, DoubleSide, Line3, Ray, Vector3 } from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import type { Mesh, Vec3 } from '../mesh'
import { AS_IS, moveDirection, movePoint, moveDirectionBack, movePointBack, UNSHAPED, type Shape, type Stand, type Standing } from '../pose'

/** A point of the model's surface, in the stand. */
export interface SurfacePoint {
  readonly point: Vec3
  /** Outward unit normal of the triangle. */
  readonly normal: Vec3
  readonly distanceMm: number
  /** The triangle, numbered as `Surface.faces` has them. */
  readonly face: number
}

/** Steps from one convex body to the other and back in search of their nearest points. */
const APPROACHES = 24

/** Room above which gaps are not told apart, mm. */
export const GAP_CEILING_MM = 5
/**
 * The model's surface for ray casts and distances. The tree is built once in the coordinates of the part, scale and mirror worked in;
 * a change of pose only changes the stand, since a pose is rigid.
 */
export class Surface {
  readonly #tree: MeshBVH
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
    geometry.setIndex(new BufferAttribute(mesh.triangles.slice(), 1))
    this.#tree = new MeshBVH(geometry, { targetLeafSize: 8 } as object)
    this.#stand = stand
    this.shape = shape
  }

  get stand(): Stand {
    return this.#stand
  }

  /** The mesh of the part, its triangles in the order of the tree. */
  get faces(): Mesh {
    const { index, attributes: { position } } = this.#tree.geometry
    return { positions: position.array as Float32Array, triangles: (index as BufferAttribute).array as Uint32Array }
  }

  setStand(stand: Stand): void {
    this.#stand = stand
  }

  /** The first point that a ray meets between two heights, whichever way it faces; null where it meets none. */
  castBetween(origin: Vec3, direction: Vec3, [lowMm, highMm]: readonly [number, number]): SurfacePoint | null {
    const rise = direction[2] / (Math.hypot(...direction) || 1)
    if (Math.abs(rise) < 1e-9) return origin[2] >= lowMm && origin[2] <= highMm ? this.cast(origin, direction) : null
    const a = (lowMm - origin[2]) / rise, b = (highMm - origin[2]) / rise
    const near = Math.max(0, Math.min(a, b)), far = Math.max(a, b)
    return far > near ? this.cast(origin, direction, far, near) : null
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
   * The smallest gap between a tapered beam and the surface, at most `GAP_CEILING_MM`; negative where the beam touches it or runs
   * through it. One descent of the tree that always follows the nearer branch and leaves out what is farther than the best so far.
   */
  gapOfBeam(a: Vec3, b: Vec3, radiusA: number, radiusB: number): number {
    const from = movePointBack(this.#stand, a), to = movePointBack(this.#stand, b)
    const { start, end } = this.#segment
    start.set(from[0], from[1], from[2])
    end.set(to[0], to[1], to[2])
    const along = this.#along.subVectors(end, start)
    const length2 = along.lengthSq()
    const widest = Math.max(radiusA, radiusB)
    let best = GAP_CEILING_MM
    // a box is at least as far as its bounding sphere
    const nearest = (box: Box3): number => {
      box.getCenter(this.#point)
      const half = Math.hypot(box.max.x - box.min.x, box.max.y - box.min.y, box.max.z - box.min.z) / 2
      const p = this.#point.sub(start)
      const t = length2 > 0 ? Math.max(0, Math.min(1, p.dot(along) / length2)) : 0
      return Math.hypot(p.x - along.x * t, p.y - along.y * t, p.z - along.z * t) - half
    }
    this.#tree.shapecast({
      boundsTraverseOrder: nearest,
      intersectsBounds: (_box, _leaf, score) => (score ?? 0) - widest < best,
      intersectsTriangle: triangle => {
        const distance = triangle.closestPointToSegment(this.#segment, undefined, this.#onSegment)
        const t = length2 > 0 ? Math.max(0, Math.min(1, this.#onSegment.sub(start).dot(along) / length2)) : 0
        const gap = distance - (radiusA + (radiusB - radiusA) * t)
        if (gap < best) best = gap
        return false
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

  /** Thickness of the model at a surface point, measured inward along a direction, mm; Infinity where the ray does not come out. */
  thickness(point: Vec3, inward: Vec3): number {
    const skin = 0.002 / (Math.hypot(...inward) || 1)
    const hit = this.cast([point[0] + inward[0] * skin, point[1] + inward[1] * skin, point[2] + inward[2] * skin], inward)
    return hit ? hit.distanceMm + 0.002 : Infinity
  }
}
