import type { Vec3 } from '../../mesh'
import { FrameFactor } from '../frame'
import { SIZE } from '../frame/block'
import { Holding } from './holding'
import type { Pieces } from './pieces'
import { CASES, loadsOf, pullsOf, type FilmLoads, type StrengthLanes } from './strength'
import type { SupportFrame } from './supports'

/** A layer in which a piece sways more than it may. */
export interface Sway {
  readonly layer: number
  readonly mm: number
}

/** Where pieces sway more than they may: each the layer in which it sways most, the worst first. */
export function swaysOver(pieces: Pieces, film: FilmLoads, { swayMm }: Pick<StrengthLanes, 'swayMm'>, limitMm: number): Sway[] {
  const worst = new Map<number, Sway>()
  swayMm.forEach((mm, layer) => {
    if (!(mm > limitMm)) return
    const { piece } = pullsOf(pieces, film, layer).reduce((a, b) => (b.laidN > a.laidN ? b : a)), known = worst.get(piece)
    if (!known || mm > known.mm) worst.set(piece, { layer, mm })
  })
  return [...worst.values()].sort((a, b) => b.mm - a.mm || a.layer - b.layer)
}

/**
 * The work that the side pull of a layer stores in every beam, along x and along y together, N·mm, by the beam of the plan; for some layers.
 * What is soft is where much of it is stored.
 */
export function swayEnergies(supports: readonly SupportFrame[], pieces: Pieces, film: FilmLoads, middle: Vec3, layers: readonly number[]): Map<number, Map<string, number>> {
  const holding = new Holding(supports, pieces, middle), out = new Map<number, Map<string, number>>(), factors: (FrameFactor | undefined)[] = []
  for (const layer of [...layers].sort((a, b) => b - a)) {
    holding.downTo(layer)
    const motions = holding.motionsUnder(loadsOf(holding, pullsOf(pieces, film, layer).filter(({ piece }) => holding.holds(piece) && !pieces.list[piece].onPlate))), stored = new Map<string, number>()
    supports.forEach(({ frame, holds, beams }, s) => {
      if (holding.endsOf(s).length === 0) return
      const push = holding.pushOn(s, motions)
      if (push.every(n => n === 0)) return
      const factor = (factors[s] ??= new FrameFactor(frame))
      for (const c of [0, 1]) {
        const load = new Float64Array(SIZE * frame.points.length)
        holds.forEach((h, i) => load.set(push.subarray(SIZE * (CASES * i + c), SIZE * (CASES * i + c + 1)), SIZE * h.node))
        const moved = factor.solve(load)
        beams.forEach((b, i) => stored.set(b.id, (stored.get(b.id) ?? 0) + frame.energyOf(i, moved)))
      }
    })
    out.set(layer, stored)
  }
  return out
}
