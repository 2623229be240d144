import { SIZE } from '../frame/block'
import type { Pieces } from './pieces'
import type { Pushes } from './pushes'
import { CASES, pullsOf, type FilmLoads, type StrengthLanes } from './strength'
import { factorOf, type SupportFrame } from './supports'

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
export function swayEnergies(supports: readonly SupportFrame[], pushes: ReadonlyMap<number, Pushes>, layers: readonly number[]): Map<number, Map<string, number>> {
  const out = new Map<number, Map<string, number>>()
  for (const layer of layers) {
    const stored = new Map<string, number>()
    pushes.get(layer)?.of.forEach((push, s) => {
      if (!push) return
      const { frame, holds, beams } = supports[s], factor = factorOf(supports[s])
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
