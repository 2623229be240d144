import type { CrossSection, Manifold, ManifoldToplevel } from 'manifold-3d'
import type { Mesh, Vec3 } from '../mesh'
import { CarveError } from './carve-error'
import { bodyOf, kernel, meshOfBody } from './kernel'
import { checkPegs, pegged, type PlacedPegs } from './pegs'
import { flatOf, type Plane } from './plane'
import { inPlane, piecesOver, type InPlane } from './section'

/** Thickness of the slit by which only some pieces are cut, and how far it goes beyond their outline, mm. */
const SLIT_MM = 0.02, BESIDE_MM = 0.05
/** What is less is a sliver, and left out, mm³. */
const LEAST_MM3 = 1e-3

/** What a cut leaves. */
export interface CutParts {
  /** What the normal of the plane looks at. */
  readonly above: Mesh
  readonly below: Mesh
  /** Area of the cut, mm². */
  readonly areaMm2: number
}

/** How a part is cut. */
export interface CutOptions {
  /** Points in pieces of the section that stay whole. */
  readonly whole?: readonly Vec3[]
  readonly pegs?: PlacedPegs | null
}

/**
 * Cuts a part by a plane into what lies above and what lies below, each with a flat cap; with pegs on the lower side, where they are
 * asked for, and sockets for them in the upper one. Where some pieces of the section are left whole, only the others are cut, by a slit
 * of 0.02 mm.
 * @throws CarveError `not-sound`; `misses` where the plane meets nothing; `holds-together` where what is left whole ties both sides;
 * `no-room` where a socket would come nearer to the skin than a wall, or two would meet
 */
export async function cutBy(mesh: Mesh, plane: Plane, { whole = [], pegs = null }: CutOptions = {}): Promise<CutParts> {
  const wasm = await kernel(), body = bodyOf(wasm, mesh)
  try {
    return inPlane(body, plane, ({ moved, pieces, frame, keep }) => {
      const leave = whole.length === 0 ? [] : piecesOver(pieces.map(p => p.toPolygons()), whole.map(p => flatOf(plane, p))), cut = pieces.filter((_, i) => !leave.includes(i)), areaMm2 = cut.reduce((sum, p) => sum + p.area(), 0)
      if (cut.length === 0) throw new CarveError('misses', pieces.length === 0 ? 'The plane does not meet the part. Move it, or turn it.' : 'All that the plane meets is left whole. Choose a piece to cut through.')
      if (pegs) checkPegs(mesh, plane, cut.map(p => p.toPolygons()), pegs)
      const sides = leave.length === 0 ? moved.splitByPlane([0, 0, 1], 0) : slit(wasm, moved, cut, keep), [above, below] = sides.map(keep)
      const back = (m: Manifold): Mesh => meshOfBody(keep(m.transform(frame.back)), body), [upper, lower] = pegs ? pegged(wasm, plane, [above, below], pegs, keep) : [above, below]
      return { above: back(upper), below: back(lower), areaMm2 }
    })
  } finally {
    body.manifold.delete()
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
  return [Manifold.compose(sides[0]), Manifold.compose(sides[1])]
}

/** Whether a body has a level face at a height. */
function hasCap(part: Manifold, z: number): boolean {
  const { vertProperties: p, triVerts: t } = part.getMesh()
  for (let i = 0; i < t.length; i += 3) if (Math.abs(p[3 * t[i] + 2] - z) < 1e-5 && Math.abs(p[3 * t[i + 1] + 2] - z) < 1e-5 && Math.abs(p[3 * t[i + 2] + 2] - z) < 1e-5) return true
  return false
}
