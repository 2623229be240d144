import type { Vec3 } from '../../mesh'
import { releaseStressAt } from '../../scan'
import { FrameFactor } from '../frame'
import { SIZE } from '../frame/block'
import { Holding } from './holding'
import type { Pieces } from './pieces'
import { borneBy, shareOf, toldAbout, type Borne } from './sections'
import { casesOf, FREE_ENDS, loadsOf, plungeShare, pullsOf, type FilmLoads, type StrengthResin } from './strength'
import { eulerLoad, stretchesOf, type Stretch } from './stretches'
import { isTouching, type SupportFrame } from './supports'

/** The worst that a beam bears, and in which layer. */
export interface BeamStrength {
  /** The beam of the plan. */
  readonly id: string
  /** Load over capacity by its section; over 1 it breaks. */
  readonly share: number
  readonly layer: number
  readonly borne: Borne
}

/** The largest pull at a foot on the plate, by what its area would hold if it stuck as well as green resin holds together. */
export interface FootStrength {
  /** The node of the plan. */
  readonly id: string
  readonly share: number
  readonly layer: number
  readonly pulledN: number
}

/** The worst push on a stretch between two places that hold it. */
export interface StretchStrength {
  /** Beams of the plan. */
  readonly beams: readonly string[]
  readonly stretch: Stretch
  /** Load over what makes it give way sideways. */
  readonly share: number
  readonly layer: number
  readonly pressedN: number
  readonly criticalN: number
}

/**
 * What the beams of supports bear in the layers that load their ends most: sections by pull, push and bending, stretches by Euler.
 * @param layers by support, the layers that are looked at
 */
export function beamsUnder(supports: readonly SupportFrame[], layers: readonly ReadonlySet<number>[], pieces: Pieces, film: FilmLoads, resin: StrengthResin, middle: Vec3): { readonly beams: BeamStrength[]; readonly stretches: StretchStrength[]; readonly feet: FootStrength[] } {
  const holding = new Holding(supports, pieces, middle), wanted = [...new Set(layers.flatMap(l => [...l]))].sort((a, b) => b - a)
  const factors = supports.map(s => new FrameFactor(s.frame)), stretches = supports.map(stretchesOf)
  const worst = supports.map(s => s.beams.map(() => ({ share: 0, layer: -1, borne: { alongN: 0, acrossN: 0, bentNmm: 0 } })))
  const slender = stretches.map(list => list.map(() => ({ share: 0, layer: -1, pressedN: 0, criticalN: Infinity })))
  const feet = new Map<string, FootStrength>()
  for (const k of wanted) {
    holding.downTo(k)
    const pulls = pullsOf(pieces, film, k), plunge = plungeShare(pulls, releaseStressAt(film.loads, k), resin)
    const held = pulls.filter(({ piece }) => holding.holds(piece) && !pieces.list[piece].onPlate), motions = loadsOf(holding, held).map(l => holding.motionsUnder(l)), ends = holding.endsByPiece(), cases = casesOf(plunge)
    supports.forEach((support, s) => {
      if (!layers[s].has(k)) return
      const { frame, holds } = support, at = motions.map(m => {
        const push = holding.pushOn(s, m), load = new Float64Array(SIZE * frame.points.length)
        holds.forEach((h, i) => load.set(push.subarray(SIZE * i, SIZE * (i + 1)), SIZE * h.node))
        const moved = factors[s].solve(load)
        return frame.beams.map((_, b) => frame.endForce(b, moved))
      })
      const pressed = new Float64Array(frame.beams.length), drawn = new Float64Array(frame.beams.length), six = new Float64Array(SIZE)
      for (let b = 0; b < frame.beams.length; b++) {
        for (const [up, x, y] of cases) {
          for (let d = 0; d < SIZE; d++) six[d] = up * at[2][b][d] + x * at[0][b][d] + y * at[1][b][d]
          const { share, borne } = beamShare(support, b, six, resin.greenStrengthNMm2)
          pressed[b] = Math.max(pressed[b], -borne.alongN)
          drawn[b] = Math.max(drawn[b], borne.alongN)
          if (share > worst[s][b].share) Object.assign(worst[s][b], { share, layer: k, borne })
        }
      }
      frame.beams.forEach(({ b }, i) => {
        const foot = support.nodes[b]
        if (foot?.kind !== 'foot' || foot.on.kind !== 'plate') return
        const share = drawn[i] / ((Math.PI / 4) * Math.max(foot.fitted.footDiameterMm, foot.fitted.shaftFootDiameterMm) ** 2 * resin.greenStrengthNMm2)
        if (share > (feet.get(foot.id)?.share ?? 0)) feet.set(foot.id, { id: foot.id, share, layer: k, pulledN: drawn[i] })
      })
      const steady = holding.holding(s).every(i => (ends.get(holding.pieceOf(s, i)) ?? 0) >= FREE_ENDS)
      stretches[s].forEach((stretch, i) => {
        const pressedN = stretch.beams.reduce((most, b) => Math.max(most, pressed[b]), 0), criticalN = eulerLoad(stretch, resin.greenModulusNMm2, steady), share = pressedN / criticalN
        if (share > slender[s][i].share) Object.assign(slender[s][i], { share, layer: k, pressedN, criticalN })
      })
    })
  }
  return {
    feet: [...feet.values()], beams: supports.flatMap((s, i) => s.beams.map((b, j): BeamStrength => ({ id: b.id, ...worst[i][j] }))),
    stretches: supports.flatMap((s, i) => stretches[i].map((stretch, j): StretchStrength => ({ beams: stretch.beams.map(b => s.beams[b].id), stretch, ...slender[i][j] }))),
  }
}

/** The more used of both ends of a beam. What touches the model is judged by its contact, and not again here. */
function beamShare({ frame, nodes }: SupportFrame, beam: number, six: Float64Array, strengthNMm2: number): { readonly share: number; readonly borne: Borne } {
  const touches = (n: number): boolean => isTouching(nodes[n]), { from, to, fromRadiusMm, toRadiusMm } = frame.beams[beam], length = Math.hypot(from[0] - to[0], from[1] - to[1], from[2] - to[2]) || 1, out: Vec3 = [(from[0] - to[0]) / length, (from[1] - to[1]) / length, (from[2] - to[2]) / length]
  const upper = borneBy(six, out), lower = borneBy(toldAbout(six, from, to), out), a = touches(frame.beams[beam].a) ? 0 : shareOf(upper, Math.PI * fromRadiusMm ** 2, strengthNMm2), b = touches(frame.beams[beam].b) ? 0 : shareOf(lower, Math.PI * toRadiusMm ** 2, strengthNMm2)
  return a >= b ? { share: a, borne: upper } : { share: b, borne: lower }
}
