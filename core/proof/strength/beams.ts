import type { Vec3 } from '../../mesh'
import { SIZE } from '../frame/block'
import type { Pushes } from './pushes'
import { borneBy, shareOf, toldAbout, type Borne } from './sections'
import { alongOf, CASES, casesOf, mixed, mostOfThree, type EndStrength, type StrengthResin } from './strength'
import { eulerLoad, stretchesOf, type Stretch } from './stretches'
import { factorOf, isTouching, type SupportFrame } from './supports'

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

/** Layers in which a support is looked at closely, at the most. */
const MOST_LAYERS = 16

/** Layers in which the ends of a support bear most, those that bear most first where there are many. */
export function worstLayers({ holds }: SupportFrame, endOf: (id: string) => Pick<EndStrength, 'share' | 'layer'> | undefined): Set<number> {
  const shares = new Map<number, number>()
  for (const { id } of holds) {
    const end = endOf(id)
    if (end && end.layer >= 0) shares.set(end.layer, Math.max(shares.get(end.layer) ?? 0, end.share))
  }
  return new Set([...shares].sort((a, b) => b[1] - a[1] || a[0] - b[0]).slice(0, MOST_LAYERS).map(([layer]) => layer))
}

/**
 * What the beams of supports bear in the layers that load their ends most: sections by pull, push and bending, stretches by Euler.
 * @param layers by support, the layers that are looked at
 * @param pushes what it is pushed with there
 */
export function beamsUnder(supports: readonly SupportFrame[], layers: readonly ReadonlySet<number>[], pushes: ReadonlyMap<number, Pushes>, resin: StrengthResin): { readonly beams: BeamStrength[]; readonly stretches: StretchStrength[]; readonly feet: FootStrength[] } {
  const wanted = [...new Set(layers.flatMap(l => [...l]))].sort((a, b) => b - a), stretches = supports.map(stretchesOf)
  const worst = supports.map(s => s.beams.map(() => ({ share: 0, layer: -1, borne: { alongN: 0, acrossN: 0, bentNmm: 0 } })))
  const slender = stretches.map(list => list.map(() => ({ share: 0, layer: -1, pressedN: 0, criticalN: Infinity })))
  const feet = new Map<string, FootStrength>()
  for (const k of wanted) {
    const { plunge, of, steady } = pushes.get(k) ?? NOTHING, cases = casesOf(plunge)
    supports.forEach((support, s) => {
      const push = of[s]
      if (!push || !layers[s].has(k)) return
      const { frame, holds } = support, factor = factorOf(support), at = Array.from({ length: CASES }, (_, c) => {
        const load = new Float64Array(SIZE * frame.points.length)
        holds.forEach((h, i) => load.set(push.subarray(SIZE * (CASES * i + c), SIZE * (CASES * i + c + 1)), SIZE * h.node))
        const moved = factor.solve(load)
        const forces = new Float64Array(SIZE * frame.beams.length)
        for (let b = 0; b < frame.beams.length; b++) frame.endForce(b, moved, forces, SIZE * b)
        return forces
      })
      const pressed = new Float64Array(frame.beams.length), drawn = new Float64Array(frame.beams.length), six = new Float64Array(SIZE), three = new Float64Array(CASES * SIZE)
      for (let b = 0; b < frame.beams.length; b++) {
        for (let c = 0; c < CASES; c++) for (let d = 0; d < SIZE; d++) three[SIZE * c + d] = at[c][SIZE * b + d]
        const along = outOf(support, b), alongX = alongOf(three, 0, along), alongY = alongOf(three, SIZE, along), alongUp = alongOf(three, 2 * SIZE, along)
        for (let m = 0; m < cases.length; m++) {
          const alongN = cases[m][0] * alongUp + cases[m][1] * alongX + cases[m][2] * alongY
          if (-alongN > pressed[b]) pressed[b] = -alongN
          if (alongN > drawn[b]) drawn[b] = alongN
        }
        if (mostOf(support, b, three, plunge, resin.greenStrengthNMm2) <= worst[s][b].share) continue
        for (const mix of cases) {
          const { share, borne } = beamShare(support, b, mixed(three, mix, six), resin.greenStrengthNMm2)
          if (share > worst[s][b].share) Object.assign(worst[s][b], { share, layer: k, borne })
        }
      }
      frame.beams.forEach(({ b }, i) => {
        const foot = support.nodes[b]
        if (foot?.kind !== 'foot' || foot.on.kind !== 'plate') return
        const share = drawn[i] / ((Math.PI / 4) * Math.max(foot.fitted.footDiameterMm, foot.fitted.shaftFootDiameterMm) ** 2 * resin.greenStrengthNMm2)
        if (share > (feet.get(foot.id)?.share ?? 0)) feet.set(foot.id, { id: foot.id, share, layer: k, pulledN: drawn[i] })
      })
      stretches[s].forEach((stretch, i) => {
        const pressedN = stretch.beams.reduce((most, b) => Math.max(most, pressed[b]), 0), criticalN = eulerLoad(stretch, resin.greenModulusNMm2, steady[s]), share = pressedN / criticalN
        if (share > slender[s][i].share) Object.assign(slender[s][i], { share, layer: k, pressedN, criticalN })
      })
    })
  }
  return {
    feet: [...feet.values()], beams: supports.flatMap((s, i) => s.beams.map((b, j): BeamStrength => ({ id: b.id, ...worst[i][j] }))),
    stretches: supports.flatMap((s, i) => stretches[i].map((stretch, j): StretchStrength => ({ beams: stretch.beams.map(b => s.beams[b].id), stretch, ...slender[i][j] }))),
  }
}

const NOTHING: Pushes = { plunge: 0, of: [], steady: [] }

/** The direction of a beam, outward at its first end. */
function outOf({ frame }: SupportFrame, beam: number): Vec3 {
  const { from, to } = frame.beams[beam], length = Math.hypot(from[0] - to[0], from[1] - to[1], from[2] - to[2]) || 1
  return [(from[0] - to[0]) / length, (from[1] - to[1]) / length, (from[2] - to[2]) / length]
}

/** What the share of a beam is no larger than in any case: its thinner end with all its force across it, and the larger of the moments at its ends. */
function mostOf({ frame }: SupportFrame, beam: number, three: Float64Array, plunge: number, strengthNMm2: number): number {
  const { from, to, fromRadiusMm, toRadiusMm } = frame.beams[beam], r = Math.min(fromRadiusMm, toRadiusMm), length = Math.sqrt((from[0] - to[0]) ** 2 + (from[1] - to[1]) ** 2 + (from[2] - to[2]) ** 2)
  const force = mostOfThree(three, 0, plunge), bent = mostOfThree(three, 3, plunge) + force * length
  return ((Math.sqrt(3) * force) / (Math.PI * r * r) + (4 * bent) / (Math.PI * r ** 3)) / strengthNMm2
}

/** The more used of both ends of a beam. What touches the model is judged by its contact, and not again here. */
function beamShare(support: SupportFrame, beam: number, six: Float64Array, strengthNMm2: number): { readonly share: number; readonly borne: Borne } {
  const { frame, nodes } = support, { from, to, fromRadiusMm, toRadiusMm } = frame.beams[beam], out = outOf(support, beam)
  const upper = borneBy(six, out), lower = borneBy(toldAbout(six, from, to), out), a = isTouching(nodes[frame.beams[beam].a]) ? 0 : shareOf(upper, Math.PI * fromRadiusMm ** 2, strengthNMm2), b = isTouching(nodes[frame.beams[beam].b]) ? 0 : shareOf(lower, Math.PI * toRadiusMm ** 2, strengthNMm2)
  return a >= b ? { share: a, borne: upper } : { share: b, borne: lower }
}
