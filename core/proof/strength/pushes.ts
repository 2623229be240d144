import type { Vec3 } from '../../mesh'
import { releaseStressAt } from '../../scan'
import type { ByPiece } from './group'
import { Holding } from './holding'
import type { Pieces } from './pieces'
import { FREE_ENDS, loadsOf, plungeShare, pullsOf, type FilmLoads, type StrengthResin } from './strength'
import type { SupportFrame } from './supports'

/** What supports are pushed with by what they hold, in one layer. */
export interface Pushes {
  /** What the plate pushes down with, as a share of what is pulled. */
  readonly plunge: number
  /** By support: six numbers an end for each of the three cases, N and N·mm about the end; null where nothing pushes it, or nobody asked. */
  readonly of: readonly (Float64Array | null)[]
  /** By support, whether each piece that it holds is held by so many ends that none of them turns. */
  readonly steady: readonly boolean[]
}

/** Whether a support is asked for in a layer. */
export type Wants = (layer: number, support: number) => boolean

/** What supports are pushed with in some layers, by layer. */
export function pushesIn(supports: readonly SupportFrame[], pieces: Pieces, film: FilmLoads, resin: StrengthResin, middle: Vec3, layers: Iterable<number>, wants: Wants): Map<number, Pushes> {
  const holding = new Holding(supports, pieces, middle), out = new Map<number, Pushes>()
  for (const k of [...new Set(layers)].sort((a, b) => b - a)) {
    holding.downTo(k)
    const pulls = pullsOf(pieces, film, k), held = pulls.filter(({ piece }) => holding.holds(piece) && !pieces.list[piece].onPlate)
    out.set(k, pushesNow(holding, holding.motionsUnder(loadsOf(holding, held)), k, plungeShare(pulls, releaseStressAt(film.loads, k), resin), wants))
  }
  return out
}

/** What supports are pushed with in the layer that was gone down to, by how the pieces move there. */
export function pushesNow(holding: Holding, motions: ByPiece, layer: number, plunge: number, wants: Wants): Pushes {
  const ends = holding.endsByPiece, all = Array.from({ length: holding.supports }, (_, s) => s)
  return {
    plunge,
    of: all.map(s => {
      const push = wants(layer, s) && holding.endsOf(s).length > 0 ? holding.pushOn(s, motions) : null
      return push?.some(n => n !== 0) ? push : null
    }),
    steady: all.map(s => holding.endsOf(s).every(e => (ends.get(e.piece) ?? 0) >= FREE_ENDS)),
  }
}
