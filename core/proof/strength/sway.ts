import type { Vec3 } from '../../mesh'
import { FrameFactor } from '../frame'
import { SIZE } from '../frame/block'
import { Holding } from './holding'
import type { Pieces } from './pieces'
import { CASES, loadsOf, pullsOf, type FilmLoads } from './strength'
import type { SupportFrame } from './supports'

/**
 * The work that the side pull of a layer stores in every beam, along x and along y together, N·mm; by the beam of the plan. What is soft is
 * where much of it is stored.
 */
export function swayEnergies(supports: readonly SupportFrame[], pieces: Pieces, film: FilmLoads, middle: Vec3, layer: number): Map<string, number> {
  const holding = new Holding(supports, pieces, middle), out = new Map<string, number>()
  holding.downTo(layer)
  const motions = holding.motionsUnder(loadsOf(holding, pullsOf(pieces, film, layer).filter(({ piece }) => holding.holds(piece) && !pieces.list[piece].onPlate)))
  supports.forEach(({ frame, holds, beams }, s) => {
    if (holding.endsOf(s).length === 0) return
    const push = holding.pushOn(s, motions), factor = new FrameFactor(frame)
    for (const c of [0, 1]) {
      const load = new Float64Array(SIZE * frame.points.length)
      holds.forEach((h, i) => load.set(push.subarray(SIZE * (CASES * i + c), SIZE * (CASES * i + c + 1)), SIZE * h.node))
      const moved = factor.solve(load)
      beams.forEach((b, i) => out.set(b.id, (out.get(b.id) ?? 0) + frame.energyOf(i, moved)))
    }
  })
  return out
}
