import type { Gauge, Peg, PegPattern } from '../contract'
import { radians } from '../mesh'
import type { StiltShape } from '../stilts'

/** Rows of pegs, as they are laid out under a rectangle. */
export interface Rows {
  readonly widthMm: number
  readonly depthMm: number
  readonly spacingMm: number
  readonly pattern: 'hexagonal' | 'square'
}

/** More pegs than that are no bed. */
const MOST_PEGS = 5000

/** A peg as it is commonly made: 3.0 mm at the foot, 1.0 to 1.5 at the top (common practice). */
export const PEG_GAUGE: Gauge = {
  id: 'peg', name: 'Peg', order: 50, tipShape: 'cone', tipDiameterMm: 1.2, penetrationMm: 0.3, coneLengthMm: 1.4, coneShortestMm: 1.2, kneeDiameterMm: 1.3, shaftFootDiameterMm: 3, thickenDeg: 0, thickestMm: 3,
  footDiameterMm: 3, footHeightMm: 0.5, modelFootDiameterMm: 0.6, modelFootPenetrationMm: 0.3, modelFootPoints: 1, modelFootSpreadMm: 1.2, preferredLeanDeg: 0, leanLimitDeg: 45, gapMm: 0.3, spacingMm: 5, longestMm: 30, braceDiameterMm: 1.2, branchTipMm: 0.25, branchBaseMm: 0.4,
}

/** The gauge of a peg by its two ends, mm. Its cone opens no faster than the rest of it. */
export function pegGauge(topMm: number, footMm: number): Gauge {
  const kneeDiameterMm = Math.max(topMm, Math.min(footMm, topMm + 0.1))
  // a cone that is shorter than it is wide stands too near to the skin that it touches
  const coneShortestMm = 0.6 + topMm / 2
  return { ...PEG_GAUGE, coneShortestMm, coneLengthMm: coneShortestMm + 0.2, name: `Peg ${footMm.toFixed(1)} to ${topMm.toFixed(1)}`, tipDiameterMm: topMm, kneeDiameterMm, shaftFootDiameterMm: Math.max(footMm, kneeDiameterMm), footDiameterMm: Math.max(footMm, kneeDiameterMm), thickestMm: Math.max(footMm, kneeDiameterMm) }
}

/** Rows of one kind of peg about a middle, along x. Empty where there would be more than anybody wants. */
export function rowsOfPegs({ widthMm, depthMm, spacingMm, pattern }: Rows, gauge: string): Peg[] {
  const rowMm = pattern === 'hexagonal' ? (spacingMm * Math.sqrt(3)) / 2 : spacingMm
  const rows = Math.floor(depthMm / 2 / rowMm + 1e-9), columns = Math.floor(widthMm / 2 / spacingMm + 1e-9)
  if ((2 * rows + 1) * (2 * columns + 1) > MOST_PEGS) return []
  const pegs: Peg[] = []
  for (let r = -rows; r <= rows; r++) {
    const shift = pattern === 'hexagonal' && r % 2 !== 0 ? 0.5 : 0
    for (let c = -columns - 1; c <= columns; c++) {
      const xMm = (c + shift) * spacingMm
      if (Math.abs(xMm) <= widthMm / 2 + 1e-9) pegs.push({ xMm, yMm: r * rowMm, gauge, own: {} })
    }
  }
  return pegs
}

/** The pattern of some stilts: a peg under every tip, with its gauge and what was set by hand, about the middle of them all; and where that middle lies in the stand, mm. */
export function patternOfStilts(stilts: readonly StiltShape[], gauges: readonly Gauge[]): { readonly pattern: PegPattern; readonly middle: readonly [number, number] } {
  const xs = stilts.map(s => s.path[0][0]), ys = stilts.map(s => s.path[0][1])
  const middleOf = (v: readonly number[]): number => (v.reduce((a, b) => Math.min(a, b), Infinity) + v.reduce((a, b) => Math.max(a, b), -Infinity)) / 2
  const middle = [middleOf(xs), middleOf(ys)] as const, used = new Set(stilts.map(s => s.gauge))
  return {
    middle,
    pattern: { pegs: stilts.map(({ gauge, own: { footPenetrationMm: _, ...own } }, i) => ({ xMm: xs[i] - middle[0], yMm: ys[i] - middle[1], gauge, own })), gauges: gauges.filter(g => used.has(g.id)) },
  }
}

/** Where a bed lies in the stand. */
export interface BedPlace {
  readonly xMm: number
  readonly yMm: number
  readonly turnDeg: number
}

/** Where a peg of a bed stands, in the stand, mm. */
export function placeOfPeg({ xMm, yMm }: Pick<Peg, 'xMm' | 'yMm'>, at: BedPlace): readonly [number, number] {
  const a = radians(at.turnDeg), c = Math.cos(a), s = Math.sin(a)
  return [at.xMm + c * xMm - s * yMm, at.yMm + s * xMm + c * yMm]
}
