import type { CrossSection, Manifold, ManifoldToplevel } from 'manifold-3d'
import { boundsOf, NearestTree, type Mesh, type Vec3 } from '../mesh'
import { CarveError } from './carve-error'
import { isWithin, type FlatLoops } from './loops'
import { flatOf, frameOf, type Plane } from './plane'
import type { SectionPiece } from './section'

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
/** Shares of the sizes that are asked for, tried one after another where those have no room; and what is not gone under, mm. */
const SMALLER = [0.85, 0.7, 0.6, 0.5, 0.4, 0.3, 0.2], LEAST_PEG_MM = 0.5, LEAST_WALL_MM = 0.5
/** How much of the distance between pegs counts beside the distance to the skin, when the next is placed. */
const APART = 0.5

/**
 * Where pegs can stand in some pieces of a section: first where the skin is farthest, the next where both skin and pegs are; as many as
 * there are, up to a count. No socket comes nearer to the skin than a wall.
 */
export function pegPlaces(mesh: Mesh, plane: Plane, pieces: readonly Pick<SectionPiece, 'loops'>[], sizes: PegSizes, wallMm: number, count: number): Vec3[] {
  return placesOn(new NearestTree(mesh), plane, pieces, sizes, wallMm, count)
}

/** The same on skin that is known already. */
export function placesOn(skin: NearestTree, plane: Plane, pieces: readonly Pick<SectionPiece, 'loops'>[], sizes: PegSizes, wallMm: number, count: number): Vec3[] {
  const places = pieces.flatMap(piece => roomIn(skin, plane, piece, sizes, wallMm)), chosen: Vec3[] = [], wide = sizes.diameterMm + 2 * sizes.clearanceMm + wallMm
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

/** Places of a piece where a peg has room, and how much more than it needs, mm. */
function roomIn(skin: NearestTree, plane: Plane, { loops }: Pick<SectionPiece, 'loops'>, sizes: PegSizes, wallMm: number): { readonly at: Vec3; readonly room: number }[] {
  const flat = loops.map(loop => loop.map(p => flatOf(plane, p))), { min, max } = boundsOf(Float32Array.from(flat.flat().flatMap(([x, y]) => [x, y, 0]))), frame = frameOf(plane)
  const step = Math.max(max[0] - min[0], max[1] - min[1]) / PLACES, places: { at: Vec3; room: number }[] = []
  for (let x = min[0] + step / 2; x < max[0]; x += step) {
    for (let y = min[1] + step / 2; y < max[1]; y += step) {
      if (!isWithin(flat, x, y)) continue
      const at = frame.point(x, y), room = roomAt(skin, plane, at, sizes) - wallMm
      if (room >= 0) places.push({ at, room })
    }
  }
  return places
}

/**
 * Sizes of pegs that some pieces have room for: those that are asked for, made smaller step by step, with the wall beside them down to
 * half a millimetre. Null where not even the smallest finds its places.
 */
export function pegsThatFit(skin: NearestTree, plane: Plane, pieces: readonly Pick<SectionPiece, 'loops'>[], sizes: PegSizes & { readonly wallMm: number }, count: number): (PegSizes & { readonly wallMm: number }) | null {
  for (const share of SMALLER) {
    const rounded = (mm: number): number => Math.max(LEAST_PEG_MM, Math.round(10 * share * mm) / 10)
    // thin ones stay long enough to hold
    const next = { ...sizes, diameterMm: rounded(sizes.diameterMm), endDiameterMm: Math.min(rounded(sizes.endDiameterMm), rounded(sizes.diameterMm)), depthMm: Math.round(10 * Math.sqrt(share) * sizes.depthMm) / 10, wallMm: Math.min(sizes.wallMm, Math.max(LEAST_WALL_MM, Math.round(10 * share * sizes.wallMm) / 10)) }
    if (placesOn(skin, plane, pieces, next, next.wallMm, count).length >= count) return next
  }
  return null
}

/** How far a socket at a place stays from the skin, mm; below zero where it breaks through. */
export function roomAt(skin: NearestTree, { normal }: Plane, at: Vec3, { diameterMm, endDiameterMm, depthMm, clearanceMm }: PegSizes): number {
  const radius = Math.max(diameterMm, endDiameterMm) / 2, high = depthMm + clearanceMm, steps = Math.max(4, Math.ceil(high / radius))
  let least = Infinity
  // so close to each other that skin across the socket is not stepped over
  for (let n = 0; n <= steps; n++) {
    const up = (n / steps) * high
    skin.ask(at[0] + up * normal[0], at[1] + up * normal[1], at[2] + up * normal[2])
    least = Math.min(least, skin.distance - radius - clearanceMm)
  }
  return least
}

/** Pegs at their places on the plane of a cut, and the wall that is left beside a socket at least, mm. */
export interface PlacedPegs extends PegSizes {
  readonly at: readonly Vec3[]
  readonly wallMm: number
}

/** Whether a peg stands on one of some pieces. */
export function standsOn(pieces: readonly FlatLoops[], plane: Plane, at: Vec3): boolean {
  const [x, y] = flatOf(plane, at)
  return pieces.some(loops => isWithin(loops, x, y))
}

/** @param mesh the part before it is cut @param pieces that are cut through @throws CarveError `no-room` where a peg stands beside them, a socket would come nearer to the skin than a wall, or two would meet */
export function checkPegs(mesh: Mesh, plane: Plane, pieces: readonly FlatLoops[], pegs: PlacedPegs): void {
  const skin = new NearestTree(mesh), wide = pegs.diameterMm + 2 * pegs.clearanceMm, { at, wallMm } = pegs
  at.forEach((p, i) => {
    if (!standsOn(pieces, plane, p)) throw new CarveError('no-room', `Peg ${i + 1} stands beside what is cut. Move it.`)
    const room = roomAt(skin, plane, p, pegs)
    if (room < wallMm - 1e-6) throw new CarveError('no-room', `Peg ${i + 1} would leave ${Math.max(0, room).toFixed(2)} mm of wall beside its socket; it has to be ${wallMm} mm. Move it, or make it smaller.`)
    if (at.some((q, j) => j < i && Math.hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2]) < wide)) throw new CarveError('no-room', `Peg ${i + 1} would stand in another one. Move it.`)
  })
}

/** Puts pegs on the lower side of a cut and sockets into the upper one, both in the plane's own coordinates. @param keep frees what it is given with the rest */
export function pegged(wasm: ManifoldToplevel, plane: Plane, [upper, lower]: readonly [Manifold, Manifold], pegs: PlacedPegs, keep: (m: Manifold) => Manifold): [Manifold, Manifold] {
  const { shape, diameterMm, endDiameterMm, depthMm, clearanceMm: gap } = pegs
  let pierced = upper, grown = lower
  for (const p of pegs.at) {
    const [x, y] = flatOf(plane, p), placed = (m: Manifold, z: number): Manifold => keep(keep(m).translate([x, y, z]))
    grown = keep(grown.add(placed(prismOf(wasm, shape, diameterMm, endDiameterMm, 0, ROOT_MM + depthMm), -ROOT_MM)))
    pierced = keep(pierced.subtract(placed(prismOf(wasm, shape, diameterMm, endDiameterMm, gap, 2 * ROOT_MM + depthMm + gap), -2 * ROOT_MM)))
  }
  return [pierced, grown]
}

/** A peg as it stands, grown by a gap. */
function prismOf({ CrossSection }: ManifoldToplevel, shape: PegSizes['shape'], diameterMm: number, endDiameterMm: number, gapMm: number, heightMm: number): Manifold {
  const made: CrossSection[] = [], keep = (flat: CrossSection): CrossSection => {
    made.push(flat)
    return flat
  }
  const r = diameterMm / 2, round = keep(CrossSection.circle(r, SIDES)), cut = shape === 'keyed' ? keep(round.intersect(keep(keep(CrossSection.square([2 * r, r + FLAT * r])).translate([-r, -r])))) : round
  const wide = gapMm > 0 ? keep(cut.offset(gapMm, 'Miter')) : cut, end = (endDiameterMm + 2 * gapMm) / (diameterMm + 2 * gapMm), prism = wide.extrude(heightMm, 0, 0, [end, end])
  for (const flat of made) flat.delete()
  return prism
}
