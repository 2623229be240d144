import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import type { Mesh, Vec3 } from '../mesh'
import { AS_IS, placeDirection, placePoint, unplaceDirection, unplacePoint, type Placement } from '../pose'

/** A point of the model's surface in build coordinates. */
export interface SurfacePoint {
  readonly point: Vec3
  /** Outward unit normal of the triangle. */
  readonly normal: Vec3
  readonly distanceMm: number
}

/** Room above which gaps are not told apart, mm. */
export const GAP_CEILING_MM = 5
/** How exactly the smallest gap along a beam is measured: mm, and as a share of wider gaps. */
const GAP_TOLERANCE_MM = 0.01
const GAP_TOLERANCE_SHARE = 0.06

/**
 * The model's surface for ray casts and distances. The tree is built once in the source's coordinates; a change of pose only
 * changes the placement, since a pose is rigid.
 */
export class Surface {
  readonly #tree: MeshBVH
  #placement: Placement
  readonly #point = new Vector3()
  readonly #ray = new Ray()
  readonly #target = { point: new Vector3(), distance: 0, faceIndex: 0 }

  constructor(mesh: Mesh, placement: Placement = AS_IS) {
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
    geometry.setIndex(new BufferAttribute(mesh.triangles.slice(), 1))
    this.#tree = new MeshBVH(geometry, { targetLeafSize: 8 } as object)
    this.#placement = placement
  }

  get placement(): Placement {
    return this.#placement
  }

  setPlacement(placement: Placement): void {
    this.#placement = placement
  }

  /** The first point that a ray meets, whichever way it faces; null where it meets none within `farMm`. */
  cast(origin: Vec3, direction: Vec3, farMm = Infinity): SurfacePoint | null {
    const o = unplacePoint(this.#placement, origin), d = unplaceDirection(this.#placement, direction)
    this.#ray.origin.set(o[0], o[1], o[2])
    this.#ray.direction.set(d[0], d[1], d[2]).normalize()
    const hit = this.#tree.raycastFirst(this.#ray, DoubleSide, 0, farMm)
    if (!hit || !hit.face) return null
    // the library turns the normal of a back face toward the ray; the triangle's own is wanted
    const n = this.#normalOf(hit.faceIndex as number)
    return {
      point: placePoint(this.#placement, [hit.point.x, hit.point.y, hit.point.z]),
      normal: placeDirection(this.#placement, n),
      distanceMm: hit.distance,
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

  /** Distance from a build point to the surface, mm; `ceilingMm` where it is farther than that. */
  distance(point: Vec3, ceilingMm = GAP_CEILING_MM): number {
    const p = unplacePoint(this.#placement, point)
    this.#point.set(p[0], p[1], p[2])
    const hit = this.#tree.closestPointToPoint(this.#point, this.#target, 0, ceilingMm)
    return hit ? Math.min(ceilingMm, this.#target.distance) : ceilingMm
  }

  /** The surface point nearest to a build point within `withinMm`, with its normal; null where there is none. */
  nearest(point: Vec3, withinMm: number): SurfacePoint | null {
    const p = unplacePoint(this.#placement, point)
    this.#point.set(p[0], p[1], p[2])
    const hit = this.#tree.closestPointToPoint(this.#point, this.#target, 0, withinMm)
    if (!hit) return null
    return {
      point: placePoint(this.#placement, [hit.point.x, hit.point.y, hit.point.z]),
      normal: placeDirection(this.#placement, this.#normalOf(hit.faceIndex)),
      distanceMm: hit.distance,
    }
  }

  /**
   * The smallest gap between a tapered beam and the surface, to 0.01 mm or 6 %; negative where the beam runs through it. Steps along the
   * axis as far as the distance allows: a distance field changes at most as fast as one moves.
   * @param enoughBelowMm stops as soon as the gap is under this
   */
  gapOfBeam(a: Vec3, b: Vec3, radiusA: number, radiusB: number, enoughBelowMm = -Infinity): number {
    const length = Math.hypot(b[0] - a[0], b[1] - a[1], b[2] - a[2])
    const slope = length + Math.abs(radiusB - radiusA)
    let best = GAP_CEILING_MM
    if (slope === 0) return this.distance(a) - radiusA
    for (let t = 0; ;) {
      const radius = radiusA + (radiusB - radiusA) * t
      const gap = this.distance([a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t, a[2] + (b[2] - a[2]) * t], GAP_CEILING_MM + radius) - radius
      if (gap < best) best = gap
      if (best < enoughBelowMm || t >= 1) return best
      t = Math.min(1, t + Math.max(gap - best, GAP_TOLERANCE_MM, gap * GAP_TOLERANCE_SHARE) / slope)
    }
  }

  /** Thickness of the model at a surface point, measured inward along a direction, mm; Infinity where the ray does not come out. */
  thickness(point: Vec3, inward: Vec3): number {
    const skin = 0.002
    const hit = this.cast([point[0] + inward[0] * skin, point[1] + inward[1] * skin, point[2] + inward[2] * skin], inward)
    return hit ? hit.distanceMm + skin : Infinity
  }
}
