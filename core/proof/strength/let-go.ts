import type { Vec3 } from '../../mesh'
import { releaseStressAt } from '../../scan'
import { SIZE } from '../frame/block'
import { Holding } from './holding'
import type { Pieces } from './pieces'
import { borneBy, PARTS, tipShareOf, worstForce, type Cases } from './sections'
import { CASES, casesOf, FREE_ENDS, loadsOf, mixed, plungeShare, pullsOf, pushOnEnd, type EndStrength, type FilmLoads, type StrengthResin } from './strength'
import type { SupportFrame } from './supports'

/** What becomes of the print without one end of a support. */
export interface Missed {
  /** The node of the plan. */
  readonly id: string
  /** Whether something that it holds would be held by nothing, or not in every direction; and from which layer on. */
  readonly looseFrom: number | null
  /** Ends that would then bear more than they can and did not before, the worst first. */
  readonly breaks: readonly { readonly id: string; readonly share: number; readonly layer: number }[]
  /** The largest share of its strength that another one would then bear, beyond what it bears now. */
  readonly adds: number
}

/** Layers at which an end is let go: where it bears the largest share, and where it begins to hold. */
function layersOf(end: EndStrength, begins: number): number[] {
  return [...new Set([end.layer, begins])].filter(k => k >= 0)
}

/**
 * Lets each end go in turn, in the layers in which it bears most and begins to hold, and tells what the others would bear then. What breaks
 * then is not let go as well.
 * @param areas contact of every end, by support and end, mm²
 */
export function* letEachGo(supports: readonly SupportFrame[], pieces: Pieces, areas: readonly (readonly number[])[], ends: readonly EndStrength[], film: FilmLoads, resin: StrengthResin, middle: Vec3): Generator<number, Missed[], void> {
  const holding = new Holding(supports, pieces, middle), byId = new Map(ends.map(e => [e.id, e])), wanted = new Map<number, { readonly support: number; readonly end: number }[]>()
  supports.forEach((s, support) => s.holds.forEach((h, end) => {
    const strength = byId.get(h.id)
    if (!strength || h.piece < 0) return
    for (const k of layersOf(strength, h.layer)) {
      const list = wanted.get(k)
      if (list) list.push({ support, end })
      else wanted.set(k, [{ support, end }])
    }
  }))
  const found = new Map<string, { looseFrom: number | null; breaks: Map<string, { share: number; layer: number }>; adds: number }>(), three = new Float64Array(CASES * SIZE)
  let done = 0
  for (const k of [...wanted.keys()].sort((a, b) => b - a)) {
    holding.downTo(k)
    const pulls = pullsOf(pieces, film, k), cases = casesOf(plungeShare(pulls, releaseStressAt(film.loads, k), resin))
    const before = holding.motionsUnder(loadsOf(holding, pulls.filter(({ piece }) => holding.holds(piece) && !pieces.list[piece].onPlate))), count = holding.endsByPiece
    for (const { support, end } of wanted.get(k) ?? []) {
      const piece = holding.pieceOf(support, end)
      if (piece < 0) continue
      const { id } = supports[support].holds[end], own = found.get(id) ?? { looseFrom: null, breaks: new Map(), adds: 0 }
      found.set(id, own)
      yield done++
      if (pieces.list[piece].onPlate) continue
      const letGo = holding.lettingGo(support, end)
      if (!letGo.holds) {
        own.looseFrom = own.looseFrom === null ? k : Math.min(own.looseFrom, k)
        continue
      }
      const motions = letGo.motionsFrom(before), strengthNMm2 = resin.greenStrengthNMm2
      for (const s of holding.supportsOf(new Set(holding.movesWith(piece)))) {
        const pushes = s === support ? holding.pushOn(s, motions) : null
        if (pushes) letGo.addTo(pushes, before)
        for (const e of holding.endsOf(s)) {
          if (s === support && e.end === end) continue
          const { axis, id: other } = supports[s].holds[e.end], balances = (count.get(e.piece) ?? 0) - (e.piece === piece ? 1 : 0) < FREE_ENDS, already = byId.get(other)?.share ?? 0
          if (pushes) three.set(pushes.subarray(CASES * SIZE * e.end, CASES * SIZE * (e.end + 1)))
          else pushOnEnd(e, motions, three, !balances)
          const share = balances ? worstBalanced(three, axis, cases, areas[s][e.end], strengthNMm2) : worstForce(three, axis, cases, areas[s][e.end], strengthNMm2)
          own.adds = Math.max(own.adds, share - already)
          if (share > 1 && already <= 1 && share > (own.breaks.get(other)?.share ?? 0)) own.breaks.set(other, { share, layer: k })
        }
      }
    }
  }
  return [...found].map(([id, { looseFrom, breaks, adds }]): Missed => ({ id, looseFrom, adds, breaks: [...breaks].map(([other, b]) => ({ id: other, ...b })).sort((a, b) => b.share - a.share) }))
}

/** The largest share of its strength that an end uses in any case where bending is what balances the load. */
function worstBalanced(three: Float64Array, axis: Vec3, cases: Cases, areaMm2: number, strengthNMm2: number): number {
  let most = 0
  for (let n = 0; n < cases.length; n += PARTS) most = Math.max(most, tipShareOf(borneBy(mixed(three, cases, n, six), axis), areaMm2, strengthNMm2, true))
  return most
}
const six = new Float64Array(SIZE)

/** An end that bears less than this share of what it can, and whose loss adds no more than that to any other, bears next to nothing. */
const IDLE_SHARE = 0.02

/** Ends without which something would be loose, or another one would break. */
export function neededEnds(missed: readonly Missed[]): Missed[] {
  return missed.filter(m => m.looseFrom !== null || m.breaks.length > 0)
}

/** Ends that bear next to nothing, and that nobody would miss. */
export function idleEnds(missed: readonly Missed[], ends: readonly EndStrength[]): Missed[] {
  const share = new Map(ends.map(e => [e.id, e.share]))
  return missed.filter(m => m.looseFrom === null && m.breaks.length === 0 && m.adds < IDLE_SHARE && (share.get(m.id) ?? 0) < IDLE_SHARE)
}
