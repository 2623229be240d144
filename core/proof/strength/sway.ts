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

/** How a support moves in a layer under the side pull: along x, and along y. */
function* movedIn(supports: readonly SupportFrame[], { of }: Pushes): Generator<{ readonly support: SupportFrame; readonly along: number; readonly moved: Float64Array }, void, void> {
  for (const [s, push] of of.entries()) {
    if (!push) continue
    const support = supports[s], { frame, holds } = support, factor = factorOf(support)
    const size = SIZE * frame.points.length, load = new Float64Array(2 * size)
    for (const along of [0, 1]) holds.forEach((h, i) => load.set(push.subarray(SIZE * (CASES * i + along), SIZE * (CASES * i + along + 1)), along * size + SIZE * h.node))
    const moved = factor.solve(load, 2)
    for (const along of [0, 1]) yield { support, along, moved: moved.subarray(along * size, (along + 1) * size) }
  }
}

/**
 * The work that the side pull of a layer stores in every beam, along x and along y together, N·mm, by the beam of the plan; for some layers.
 * What is soft is where much of it is stored.
 */
export function swayEnergies(supports: readonly SupportFrame[], pushes: ReadonlyMap<number, Pushes>, layers: readonly number[]): Map<number, Map<string, number>> {
  return new Map(layers.map(layer => {
    const stored = new Map<string, number>(), pushed = pushes.get(layer)
    for (const { support: { frame, beams }, moved } of pushed ? movedIn(supports, pushed) : []) beams.forEach((b, i) => stored.set(b.id, (stored.get(b.id) ?? 0) + frame.energyOf(i, moved)))
    return [layer, stored]
  }))
}

/** How all that holds something moves under the side pull of a layer. */
export interface SwayMotion {
  /** The work that it stores along x and along y together, N·mm. */
  readonly workNmm: number
  /** By node of the plan, mm along x, y and z: three numbers under the pull along x, and three under that along y. */
  readonly moved: ReadonlyMap<string, Float64Array>
}

/** How supports move under the side pull of a layer. */
export function swayMotion(supports: readonly SupportFrame[], pushes: Pushes): SwayMotion {
  const by = new Map<string, Float64Array>()
  let workNmm = 0
  for (const { support: { frame, nodes }, along, moved } of movedIn(supports, pushes)) {
    workNmm += frame.energy(moved)
    nodes.forEach(({ id }, i) => {
      let own = by.get(id)
      if (!own) by.set(id, (own = new Float64Array(6)))
      own.set(moved.subarray(SIZE * i, SIZE * i + 3), 3 * along)
    })
  }
  return { workNmm, moved: by }
}
