import type { CrossSection, Manifold, ManifoldToplevel } from 'manifold-3d'
import { boundsOf, NearestTree, type Mesh, type Vec3 } from '../mesh'
import { CarveError } from './carve-error'
import type { CutParts, SectionPiece } from './cut'
import { bodyOf, kernel, meshOfBody } from './kernel'
import { isWithin } from './loops'
import { flatOf, frameOf, type Plane } from './plane'

/** Pegs on what lies below a cut, and sockets for them in what lies above. */
export interface PegSizes {
  /** A keyed one has a flat along one side, so that the parts go together one way only. */
  readonly shape: 'round' | 'keyed'
  readonly diameterMm: number
  /** How far it stands out. */
  readonly depthMm: number
  /** Its diameter at its end. */
  readonly endDiameterMm: number
  /** Gap between peg and socket, all around and at the end. */
  readonly clearanceMm: number
}

const SIDES = 64
/** The flat of a keyed peg lies so far from its middle, as a share of its radius. */
const FLAT = 0.6
/** A peg goes so far into the part that it stands on, that both become one, mm. */
const ROOT_MM = 0.05
/** Places are looked for so many times along the longer side of a piece. */
const PLACES = 48
/** How much of the distance between pegs counts beside the distance to the skin, when the next is placed. */
const APART = 0.5

/**
 * Where pegs can stand in a piece of a section: first where the skin is farthest, the next where both skin and pegs are; as many as there
 * are, up to a count. No socket comes nearer to the skin than a wall.
 */
export function pegPlaces(mesh: Mesh, plane: Plane, piece: Pick<SectionPiece, 'loops'>, sizes: PegSizes, wallMm: number, count: number): Vec3[] {
  return placesOn(new NearestTree(mesh), plane, piece, sizes, wallMm, count)
}

/** The same on skin that is known already. */
export function placesOn(skin: NearestTree, plane: Plane, { loops }: Pick<SectionPiece, 'loops'>, sizes: PegSizes, wallMm: number, count: number): Vec3[] {
  const flat = loops.map(loop => loop.map(p => flatOf(plane, p))), { min, max } = boundsOf(Float32Array.from(flat.flat().flatMap(([x, y]) => [x, y, 0]))), frame = frameOf(plane)
  const step = Math.max(max[0] - min[0], max[1] - min[1]) / PLACES, places: { at: Vec3; room: number }[] = []
  for (let x = min[0] + step / 2; x < max[0]; x += step) {
    for (let y = min[1] + step / 2; y < max[1]; y += step) {
      if (!isWithin(flat, x, y)) continue
      const at = frame.point(x, y), room = roomAt(skin, plane, at, sizes) - wallMm
      if (room >= 0) places.push({ at, room })
    }
  }
  const chosen: Vec3[] = [], wide = sizes.diameterMm + 2 * sizes.clearanceMm + wallMm
  while (chosen.length < count) {
    let best: Vec3 | null = null, most = -Infinity
    for (const { at, room } of places) {
      const near = chosen.reduce((least, c) => Math.min(least, Math.hypot(c[0] - at[0], c[1] - at[1], c[2] - at[2])), Infinity)
      if (near < wide) continue
      const worth = Math.min(room, APART * near)
      if (worth > most) {
        most = worth
        best = at
      }
    }
    if (!best) break
    chosen.push(best)
  }
  return chosen
}

/** How far a socket at a place stays from the skin, mm; below zero where it breaks through. */
export function roomAt(skin: NearestTree, { normal }: Plane, at: Vec3, { diameterMm, endDiameterMm, depthMm, clearanceMm }: PegSizes): number {
  let least = Infinity
  for (let n = 0; n <= 4; n++) {
    const up = (n / 4) * (depthMm + clearanceMm)
    skin.ask(at[0] + up * normal[0], at[1] + up * normal[1], at[2] + up * normal[2])
    least = Math.min(least, skin.distance - Math.max(diameterMm, endDiameterMm) / 2 - clearanceMm)
  }
  return least
}

/**
 * Puts pegs on the lower part of a cut and sockets into the upper one.
 * @param mesh the part before it was cut @param at places on the plane
 * @throws CarveError `no-room` where a socket would come nearer to the skin than a wall, or two would meet
 */
export async function pegged(mesh: Mesh, plane: Plane, { above, below, areaMm2 }: CutParts, at: readonly Vec3[], sizes: PegSizes, wallMm: number): Promise<CutParts> {
  if (at.length === 0) return { above, below, areaMm2 }
  const skin = new NearestTree(mesh), wide = sizes.diameterMm + 2 * sizes.clearanceMm
  at.forEach((p, i) => {
    const room = roomAt(skin, plane, p, sizes)
    if (room < wallMm - 1e-6) throw new CarveError('no-room', `Peg ${i + 1} would leave ${Math.max(0, room).toFixed(2)} mm of wall beside its socket; it has to be ${wallMm} mm. Move it, or make it smaller.`)
    if (at.some((q, j) => j < i && Math.hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2]) < wide)) throw new CarveError('no-room', `Peg ${i + 1} would stand in another one. Move it.`)
  })
  const wasm = await kernel(), upper = bodyOf(wasm, above), lower = bodyOf(wasm, below), frame = frameOf(plane), made: Manifold[] = [upper.manifold, lower.manifold]
  const keep = (m: Manifold): Manifold => {
    made.push(m)
    return m
  }
  try {
    const { diameterMm, endDiameterMm, depthMm, clearanceMm: gap } = sizes
    let pierced = upper.manifold, grown = lower.manifold
    for (const p of at) {
      const [x, y] = flatOf(plane, p), placed = (m: Manifold, z: number): Manifold => keep(keep(keep(m).translate([x, y, z])).transform(frame.back))
      grown = keep(grown.add(placed(prismOf(wasm, sizes.shape, diameterMm, endDiameterMm, 0, ROOT_MM + depthMm), -ROOT_MM)))
      pierced = keep(pierced.subtract(placed(prismOf(wasm, sizes.shape, diameterMm, endDiameterMm, gap, 2 * ROOT_MM + depthMm + gap), -2 * ROOT_MM)))
    }
    return { above: meshOfBody(pierced, upper), below: meshOfBody(grown, lower), areaMm2 }
  } finally {
    for (const m of made) m.delete()
  }
}

/** A peg as it stands, grown by a gap. */
function prismOf({ CrossSection }: ManifoldToplevel, shape: PegSizes['shape'], diameterMm: number, endDiameterMm: number, gapMm: number, heightMm: number): Manifold {
  const r = diameterMm / 2, round = CrossSection.circle(r, SIDES), cut = shape === 'keyed' ? round.intersect(CrossSection.square([2 * r, r + FLAT * r]).translate([-r, -r])) : round
  const wide: CrossSection = gapMm > 0 ? cut.offset(gapMm, 'Miter') : cut, end = (endDiameterMm + 2 * gapMm) / (diameterMm + 2 * gapMm)
  return wide.extrude(heightMm, 0, 0, [end, end])
}
