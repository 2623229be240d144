import type { CrossSection, Manifold } from 'manifold-3d'
import type { Mesh, Vec3 } from '../mesh'
import { bodyOf, kernel, type Body } from './kernel'
import { insideOf, isWithin, type FlatLoops } from './loops'
import { flatOf, frameOf, type Plane } from './plane'

/** A piece of what a plane meets of a part. */
export interface SectionPiece {
  readonly areaMm2: number
  /** Its outline and its holes: loops of points in the frame of the mesh. */
  readonly loops: readonly (readonly Vec3[])[]
  /** A point well inside, by which it is known again after the part was changed. */
  readonly inside: Vec3
}

/** The pieces in which a plane meets a part, largest first. @throws CarveError `not-sound` */
export async function sectionOf(mesh: Mesh, plane: Plane): Promise<SectionPiece[]> {
  const wasm = await kernel(), body = bodyOf(wasm, mesh)
  try {
    return piecesIn(body, plane)
  } finally {
    body.manifold.delete()
  }
}

/** The same of a body. */
export function piecesIn(body: Body, plane: Plane): SectionPiece[] {
  return inPlane(body, plane, ({ pieces, frame }) => pieces.map((piece): SectionPiece => {
    const loops = piece.toPolygons(), [x, y] = insideOf(loops) ?? loops[0][0]
    return { areaMm2: piece.area(), loops: loops.map(loop => loop.map(p => frame.point(p[0], p[1]))), inside: frame.point(x, y) }
  }))
}

/** Which pieces of a section some points stand for: the piece that each lies in, or is nearest to. */
export function piecesAt(pieces: readonly SectionPiece[], plane: Plane, points: readonly Vec3[]): number[] {
  if (points.length === 0) return []
  return piecesOver(pieces.map(piece => piece.loops.map(loop => loop.map(p => flatOf(plane, p)))), points.map(p => flatOf(plane, p)))
}
/** The same in the plane’s own coordinates. */
export function piecesOver(pieces: readonly FlatLoops[], points: readonly (readonly [number, number])[]): number[] {
  if (pieces.length === 0) return []
  return [...new Set(points.map(([x, y]) => {
    const within = pieces.findIndex(loops => isWithin(loops, x, y))
    if (within >= 0) return within
    const far = pieces.map(loops => loops.flat().reduce((least, p) => Math.min(least, Math.hypot(p[0] - x, p[1] - y)), Infinity))
    return far.indexOf(Math.min(...far))
  }))]
}

/** A body in the coordinates of a plane, and where the plane meets it. */
export interface InPlane {
  /** The body in the plane's own coordinates. */
  readonly moved: Manifold
  readonly pieces: readonly CrossSection[]
  readonly frame: ReturnType<typeof frameOf>
  /** Frees it with the rest. */
  keep<T extends { delete(): void }>(made: T): T
}

/** Does something with a body in the coordinates of a plane; what is kept meanwhile is freed after it. */
export function inPlane<T>({ manifold }: Body, plane: Plane, work: (within: InPlane) => T): T {
  const made: { delete(): void }[] = [], keep = <M extends { delete(): void }>(m: M): M => {
    made.push(m)
    return m
  }
  try {
    const frame = frameOf(plane), moved = keep(manifold.transform(frame.there)), section = keep(moved.slice(0))
    const pieces = section.decompose().map(keep).filter(p => p.area() > 0).sort((a, b) => b.area() - a.area())
    return work({ moved, pieces, frame, keep })
  } finally {
    for (const m of made) m.delete()
  }
}
