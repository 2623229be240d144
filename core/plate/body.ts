import { BufferAttribute, BufferGeometry, DoubleSide, Matrix4, Ray, Vector3 } from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import type { Mesh, Vec3 } from '../mesh'
import { after, inverseOf, movePoint, type RigidMotion } from '../pose'

/** A closed mesh with a tree over it, to be asked what meets what. */
export class Body {
  readonly #tree: MeshBVH
  readonly #inside: Vec3 | null

  constructor(mesh: Mesh) {
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
    geometry.setIndex(new BufferAttribute(mesh.triangles.slice(), 1))
    this.#tree = new MeshBVH(geometry)
    const t = mesh.triangles
    this.#inside = t.length > 0 ? [mesh.positions[3 * t[0]], mesh.positions[3 * t[0] + 1], mesh.positions[3 * t[0] + 2]] : null
  }

  /** How far a ray goes before it meets the body as it is placed; Infinity where it does not. @param direction of length 1 */
  cast(origin: Vec3, direction: Vec3, motion: RigidMotion): number {
    const back = inverseOf(motion), o = movePoint(back, origin), end = movePoint(back, [origin[0] + direction[0], origin[1] + direction[1], origin[2] + direction[2]])
    const hit = this.#tree.raycastFirst(new Ray(new Vector3(...o), new Vector3(end[0] - o[0], end[1] - o[1], end[2] - o[2])), DoubleSide)
    return hit?.distance ?? Infinity
  }

  /** A point of the plate where two bodies cut through each other, or one lies within the other; null where they are apart. */
  static meet(a: Body, motionA: RigidMotion, b: Body, motionB: RigidMotion): Vec3 | null {
    if (!a.#inside || !b.#inside) return null
    const toA = after(inverseOf(motionA), motionB)
    let at: Vec3 | null = null
    a.#tree.bvhcast(b.#tree, matrixOf(toA), {
      intersectsTriangles: (one, other) => {
        if (!one.intersectsTriangle(other)) return false
        const { a: p, b: q, c: r } = one
        at = movePoint(motionA, [(p.x + q.x + r.x) / 3, (p.y + q.y + r.y) / 3, (p.z + q.z + r.z) / 3])
        return true
      },
    })
    if (at) return at
    const pointA = movePoint(motionA, a.#inside), pointB = movePoint(motionB, b.#inside)
    return a.#contains(movePoint(inverseOf(motionA), pointB)) ? pointB : b.#contains(movePoint(inverseOf(motionB), pointA)) ? pointA : null
  }

  /** Whether a point of its own coordinates lies within: a ray from there comes out more often than it goes in. */
  #contains(point: Vec3): boolean {
    let crossings = 0
    // aslant, so that it runs along no edge
    for (const hit of this.#tree.raycast(new Ray(new Vector3(...point), new Vector3(0.0123, 0.0071, 1).normalize()), DoubleSide)) crossings += (hit.face?.normal.z ?? 0) > 0 ? 1 : -1
    return crossings > 0
  }
}

function matrixOf(m: RigidMotion): Matrix4 {
  return new Matrix4().set(m[0], m[1], m[2], m[3], m[4], m[5], m[6], m[7], m[8], m[9], m[10], m[11], 0, 0, 0, 1)
}
