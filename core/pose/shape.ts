import type { PartPoint, Quaternion, Recipe, SourcePoint, StandPoint } from '../contract'
import { unit, type Mesh, type Vec3 } from '../mesh'
import { moveDirection, moveDirectionBack, movePoint, movePointBack, type Stand } from './pose'

/** What a source is multiplied by along its own axes to become the part: unit times scale, below zero where it is mirrored. */
export type Shape = Vec3

/** Leaves a source as it is. */
export const UNSHAPED: Shape = [1, 1, 1]

export function shapeOf({ unitMm, scale: [x, y, z], mirrored }: Pick<Recipe, 'unitMm' | 'scale' | 'mirrored'>): Shape {
  return [unitMm * x * (mirrored ? -1 : 1), unitMm * y, unitMm * z]
}

/** The mesh of the part: scaled, mirrored, its outside still outside. The source's own where nothing is changed. */
export function shapedMesh(source: Mesh, shape: Shape): Mesh {
  const { positions: p, triangles } = source
  if (shape.every(f => f === 1)) return source
  const positions = new Float32Array(p.length)
  for (let i = 0; i < p.length; i++) positions[i] = p[i] * shape[i % 3]
  if (shape[0] * shape[1] * shape[2] > 0) return { ...source, positions }
  const turned = new Uint32Array(triangles.length)
  for (let i = 0; i < turned.length; i += 3) {
    turned[i] = triangles[i]
    turned[i + 1] = triangles[i + 2]
    turned[i + 2] = triangles[i + 1]
  }
  return { ...source, positions, triangles: turned }
}

/** Sizes of a source as the part has them, mm. */
export function shapedSize(sizeMm: Vec3, shape: Shape): Vec3 {
  return [Math.abs(sizeMm[0] * shape[0]), Math.abs(sizeMm[1] * shape[1]), Math.abs(sizeMm[2] * shape[2])]
}

/** The tilt in which a mirrored part stands as the mirror image of what it was, left for right. Source: (Mx · R · Mx) of R = Ry · Rx turns the other way about y alone. */
export function mirroredTilt<T extends { readonly tiltYDeg: number; readonly zero?: Quaternion }>(tilt: T): T {
  const { zero } = tilt
  return { ...tilt, tiltYDeg: -tilt.tiltYDeg || 0, ...(zero && { zero: [zero[0], -zero[1], -zero[2], zero[3]] }) }
}

/** How a source comes to its stand: shaped to the part, then moved. */
export interface Standing {
  readonly shape: Shape
  readonly stand: Stand
}

/** Where a point of the source comes to lie in the stand. */
export function fromSource({ shape, stand }: Standing, p: SourcePoint): StandPoint {
  return movePoint(stand, [p[0] * shape[0], p[1] * shape[1], p[2] * shape[2]] as PartPoint)
}

/** Where a point of the stand comes from. */
export function toSource({ shape, stand }: Standing, p: StandPoint): SourcePoint {
  const q = movePointBack(stand, p)
  return [q[0] / shape[0], q[1] / shape[1], q[2] / shape[2]]
}

/** The normal of a face in the stand; it goes by the inverse of the shape. Of length 1. */
export function normalFromSource({ shape, stand }: Standing, n: Vec3): Vec3 {
  return moveDirection(stand, unit([n[0] / shape[0], n[1] / shape[1], n[2] / shape[2]]))
}

/** The normal of a face of the source, of length 1. */
export function normalToSource({ shape, stand }: Standing, n: Vec3): Vec3 {
  const q = moveDirectionBack(stand, n)
  return unit([q[0] * shape[0], q[1] * shape[1], q[2] * shape[2]])
}
