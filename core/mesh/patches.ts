import { edgeRuns, halfEdgeEnds } from './edges'
import { triangleArea, type Mesh, type Vec3 } from './triangle-mesh'
import { cross, dot, sub, unit } from './vector'

/** Faces that are within this angle of the one that was picked, and hang together, are one flat, degrees. */
export const FLAT_DEG = 2
/** Faces that meet at a sharper angle meet at a crease, degrees. */
export const CREASE_DEG = 25

/** A crease between two faces. */
export interface Crease {
  readonly from: Vec3
  readonly to: Vec3
  /** Outward normals of both faces. */
  readonly normals: readonly [Vec3, Vec3]
}

/** What faces of a closed mesh have to do with their neighbours. */
export class Patches {
  readonly #mesh: Mesh
  /** Over each edge of each face the face beyond it; −1 where there is none, or several. */
  readonly #beyond: Int32Array

  constructor(mesh: Mesh) {
    this.#mesh = mesh
    const { triangles: t } = mesh, edges = edgeRuns(t, mesh.positions.length / 3)
    this.#beyond = new Int32Array(t.length).fill(-1)
    for (let e = 0; e < edges.edgeCount; e++) {
      const from = edges.starts[e]
      if (edges.starts[e + 1] - from !== 2) continue
      const a = edges.halfEdges[from], b = edges.halfEdges[from + 1]
      this.#beyond[a] = Math.floor(b / 3)
      this.#beyond[b] = Math.floor(a / 3)
    }
  }

  normalOf(face: number): Vec3 {
    const [a, b, c] = this.#corners(face)
    return unit(cross(sub(b, a), sub(c, a)))
  }

  #corners(face: number): [Vec3, Vec3, Vec3] {
    const { positions: p, triangles: t } = this.#mesh
    const at = (v: number): Vec3 => [p[3 * v], p[3 * v + 1], p[3 * v + 2]]
    return [at(t[3 * face]), at(t[3 * face + 1]), at(t[3 * face + 2])]
  }

  /** Faces that hang together with one over edges that `within` lets pass, that one first. */
  grown(face: number, within: (from: number, to: number) => boolean): number[] {
    const patch = [face], seen = new Set(patch)
    for (let i = 0; i < patch.length; i++) {
      for (let h = 3 * patch[i]; h < 3 * patch[i] + 3; h++) {
        const next = this.#beyond[h]
        if (next < 0 || seen.has(next) || !within(patch[i], next)) continue
        seen.add(next)
        patch.push(next)
      }
    }
    return patch
  }

  /** The flat that a face is part of: its faces, and its normal by area. */
  flatAt(face: number): { readonly faces: readonly number[]; readonly normal: Vec3 } {
    const own = this.normalOf(face), least = Math.cos((FLAT_DEG * Math.PI) / 180)
    const faces = this.grown(face, (_, to) => dot(this.normalOf(to), own) >= least)
    let sum: Vec3 = [0, 0, 0]
    for (const f of faces) {
      const n = this.normalOf(f), area = triangleArea(this.#mesh, f)
      sum = [sum[0] + n[0] * area, sum[1] + n[1] * area, sum[2] + n[2] * area]
    }
    return { faces, normal: unit(sum) }
  }

  /** All faces that hang together with one up to creases. */
  patchAt(face: number): number[] {
    const least = Math.cos((CREASE_DEG * Math.PI) / 180)
    return this.grown(face, (from, to) => dot(this.normalOf(from), this.normalOf(to)) >= least)
  }

  /** The border of a patch: x, y, z of both ends of its segments. */
  borderOf(faces: readonly number[]): Float32Array {
    const within = new Set(faces), out: number[] = []
    const { positions: p, triangles: t } = this.#mesh
    for (const f of faces) {
      for (let h = 3 * f; h < 3 * f + 3; h++) {
        if (within.has(this.#beyond[h])) continue
        for (const v of halfEdgeEnds(t, h)) out.push(p[3 * v], p[3 * v + 1], p[3 * v + 2])
      }
    }
    return Float32Array.from(out)
  }

  /** The border of a patch as closed runs of vertices, in order, the patch to the left of them as one looks at it from outside. */
  loopsOf(faces: readonly number[]): number[][] {
    const within = new Set(faces), next = new Map<number, number[]>(), { triangles: t } = this.#mesh
    for (const f of faces) {
      for (let h = 3 * f; h < 3 * f + 3; h++) {
        if (within.has(this.#beyond[h])) continue
        const [a, b] = halfEdgeEnds(t, h), list = next.get(a)
        if (list) list.push(b)
        else next.set(a, [b])
      }
    }
    const loops: number[][] = []
    for (const start of next.keys()) {
      while ((next.get(start)?.length ?? 0) > 0) {
        const loop: number[] = []
        for (let v = start, to = next.get(v)?.pop(); to !== undefined; v = to, to = next.get(v)?.pop()) loop.push(v)
        if (loop.length >= 3) loops.push(loop)
      }
    }
    return loops
  }

  /** All edges between faces that differ in some way: x, y, z of both ends, each edge once. */
  bordersWhere(differ: (a: number, b: number) => boolean): Float32Array<ArrayBuffer> {
    const out: number[] = [], { positions: p, triangles: t } = this.#mesh
    for (let h = 0; h < t.length; h++) {
      const face = Math.floor(h / 3), beyond = this.#beyond[h]
      if (beyond <= face || !differ(face, beyond)) continue
      for (const v of halfEdgeEnds(t, h)) out.push(p[3 * v], p[3 * v + 1], p[3 * v + 2])
    }
    return Float32Array.from(out)
  }

  /** The crease nearest to a point of a face, among those of the flat that it is part of; null where there is none. */
  creaseAt(face: number, point: Vec3): Crease | null {
    const most = Math.cos((CREASE_DEG * Math.PI) / 180)
    let best: Crease | null = null, nearest = Infinity
    const { positions: p, triangles: t } = this.#mesh
    for (const f of this.flatAt(face).faces) {
      for (let h = 3 * f; h < 3 * f + 3; h++) {
        const beyond = this.#beyond[h]
        if (beyond < 0) continue
        const normals = [this.normalOf(f), this.normalOf(beyond)] as const
        if (dot(normals[0], normals[1]) > most) continue
        const [a, b] = halfEdgeEnds(t, h).map(v => [p[3 * v], p[3 * v + 1], p[3 * v + 2]] as const)
        const along = sub(b, a), length = dot(along, along)
        const s = length > 0 ? Math.max(0, Math.min(1, dot(sub(point, a), along) / length)) : 0
        const away = Math.hypot(point[0] - a[0] - along[0] * s, point[1] - a[1] - along[1] * s, point[2] - a[2] - along[2] * s)
        if (away < nearest) {
          nearest = away
          best = { from: a, to: b, normals }
        }
      }
    }
    return best
  }
}
