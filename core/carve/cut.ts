import type { CrossSection, Manifold, ManifoldToplevel } from 'manifold-3d'
import type { Mesh, Vec3 } from '../mesh'
import { CarveError } from './carve-error'
import { bodyOf, kernel, meshOfBody, type Body } from './kernel'
import { insideOf, isWithin } from './loops'
import { flatOf, frameOf, type Plane } from './plane'

/** Thickness of the slit by which only some pieces are cut, and how far it goes beyond their outline, mm. */
const SLIT_MM = 0.02, BESIDE_MM = 0.05
/** What is less is a sliver, and left out, mm³. */
const LEAST_MM3 = 1e-3

/** A piece of what a plane meets of a part. */
export interface SectionPiece {
  readonly areaMm2: number
  /** Its outline and its holes: loops of points in the frame of the mesh. */
  readonly loops: readonly (readonly Vec3[])[]
  /** A point well inside, by which it is known again after the part was changed. */
  readonly inside: Vec3
}

/** What a cut leaves. */
export interface CutParts {
  /** What the normal of the plane looks at. */
  readonly above: Mesh
  readonly below: Mesh
  /** Area of the cut, mm². */
  readonly areaMm2: number
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
  if (pieces.length === 0) return []
  const flat = pieces.map(piece => piece.loops.map(loop => loop.map(p => flatOf(plane, p))))
  return [...new Set(points.map(point => {
    const [x, y] = flatOf(plane, point), within = flat.findIndex(loops => isWithin(loops, x, y))
    if (within >= 0) return within
    const far = flat.map(loops => loops.flat().reduce((least, p) => Math.min(least, Math.hypot(p[0] - x, p[1] - y)), Infinity))
    return far.indexOf(Math.min(...far))
  }))]
}

/**
 * Cuts a part by a plane into what lies above and what lies below, each with a flat cap. Where some pieces of the section are left whole,
 * only the others are cut, by a slit of 0.02 mm.
 * @param leave pieces that stay whole, as `sectionOf` counts them
 * @throws CarveError `not-sound`; `misses` where the plane meets nothing; `holds-together` where what is left whole ties both sides
 */
export async function cutBy(mesh: Mesh, plane: Plane, leave: readonly number[] = []): Promise<CutParts> {
  const wasm = await kernel(), body = bodyOf(wasm, mesh)
  try {
    return inPlane(body, plane, ({ moved, pieces, frame, keep }) => {
      const cut = pieces.filter((_, i) => !leave.includes(i)), areaMm2 = cut.reduce((sum, p) => sum + p.area(), 0)
      if (cut.length === 0) throw new CarveError('misses', pieces.length === 0 ? 'The plane does not meet the part. Move it, or turn it.' : 'All that the plane meets is left whole. Choose a piece to cut through.')
      const [above, below] = leave.length === 0 ? moved.splitByPlane([0, 0, 1], 0).map(keep) : slit(wasm, moved, cut, keep)
      const back = (m: Manifold): Mesh => meshOfBody(keep(m.transform(frame.back)), body)
      return { above: back(above), below: back(below), areaMm2 }
    })
  } finally {
    body.manifold.delete()
  }
}

interface InPlane {
  /** The body in the plane's own coordinates. */
  readonly moved: Manifold
  readonly pieces: readonly CrossSection[]
  readonly frame: ReturnType<typeof frameOf>
  /** Frees it with the rest. */
  keep<T extends { delete(): void }>(made: T): T
}

function inPlane<T>({ manifold }: Body, plane: Plane, work: (within: InPlane) => T): T {
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

/** Cuts through some pieces of a section alone. What is not met stays with the side that it lies on. */
function slit({ Manifold }: ManifoldToplevel, moved: Manifold, cut: readonly CrossSection[], keep: InPlane['keep']): [Manifold, Manifold] {
  let rest = moved
  for (const piece of cut) {
    const wide = keep(piece.offset(BESIDE_MM, 'Round')), blade = keep(keep(wide.extrude(SLIT_MM)).translate([0, 0, -SLIT_MM / 2]))
    rest = keep(rest.subtract(blade))
  }
  const sides: [Manifold[], Manifold[]] = [[], []], half = SLIT_MM / 2
  for (const part of rest.decompose().map(keep)) {
    if (Math.abs(part.volume()) < LEAST_MM3) continue
    const { min, max } = part.boundingBox()
    // a cap lies on the slit; what has one on either side still hangs together
    const isAbove = hasCap(part, half), isBelow = hasCap(part, -half)
    if (isAbove && isBelow) throw new CarveError('holds-together', 'What is left whole ties both sides together, so that the part would stay one. Cut through more pieces, or through all.')
    sides[isAbove || (!isBelow && min[2] + max[2] > 0) ? 0 : 1].push(part)
  }
  if (sides.some(s => s.length === 0)) throw new CarveError('holds-together', 'The cut parts nothing: the part stays one.')
  return [keep(Manifold.compose(sides[0])), keep(Manifold.compose(sides[1]))]
}

/** Whether a body has a level face at a height. */
function hasCap(part: Manifold, z: number): boolean {
  const { vertProperties: p, triVerts: t } = part.getMesh()
  for (let i = 0; i < t.length; i += 3) if (Math.abs(p[3 * t[i] + 2] - z) < 1e-5 && Math.abs(p[3 * t[i + 1] + 2] - z) < 1e-5 && Math.abs(p[3 * t[i + 2] + 2] - z) < 1e-5) return true
  return false
}
