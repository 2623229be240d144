import { sub, type Vec3 } from '../../mesh'
import { SIZE } from '../frame/block'
import type { Pushes } from './pushes'
import { borneBy, PARTS, toldAbout, worstStress, type Borne, type Section } from './sections'
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
  const feet = new Map<string, FootStrength>(), three = new Float64Array(CASES * SIZE), six = new Float64Array(SIZE), found = new Float64Array(2)
  for (const k of wanted) {
    const { plunge, of, steady } = pushes.get(k) ?? NOTHING, cases = casesOf(plunge)
    for (let s = 0; s < supports.length; s++) {
      const push = of[s], support = supports[s], { frame, holds } = support
      if (!push || !layers[s].has(k)) continue
      const bars = barsOf(support), size = SIZE * frame.points.length, load = new Float64Array(CASES * size), pressed = new Float64Array(bars.length), drawn = new Float64Array(bars.length)
      for (let i = 0; i < holds.length; i++) for (let c = 0; c < CASES; c++) for (let d = 0; d < SIZE; d++) load[c * size + SIZE * holds[i].node + d] = push[SIZE * (CASES * i + c) + d]
      const moved = factorOf(support).solve(load, CASES)
      for (let b = 0; b < bars.length; b++) {
        three.fill(0)
        for (let c = 0; c < CASES; c++) frame.endForce(b, moved, three, SIZE * c, size * c)
        const bar = bars[b], alongX = alongOf(three, 0, bar.out), alongY = alongOf(three, SIZE, bar.out), alongUp = alongOf(three, 2 * SIZE, bar.out), known = worst[s][b]
        for (let n = 0; n < cases.length; n += PARTS) {
          const alongN = cases[n] * alongUp + cases[n + 1] * alongX + cases[n + 2] * alongY
          if (-alongN > pressed[b]) pressed[b] = -alongN
          if (alongN > drawn[b]) drawn[b] = alongN
        }
        if (mostOf(bar, three, plunge, resin.greenStrengthNMm2) <= known.share) continue
        for (const end of bar.ends) {
          worstStress(three, end, cases, found)
          const share = found[0] / resin.greenStrengthNMm2
          if (share <= known.share) continue
          known.share = share
          known.layer = k
          mixed(three, cases, found[1], six)
          known.borne = borneBy(end.isFirst ? six : toldAbout(six, frame.beams[b].from, frame.beams[b].to), bar.out)
        }
      }
      for (let b = 0; b < bars.length; b++) {
        const { foot } = bars[b]
        if (!foot) continue
        const share = drawn[b] / (foot.areaMm2 * resin.greenStrengthNMm2)
        if (share > (feet.get(foot.id)?.share ?? 0)) feet.set(foot.id, { id: foot.id, share, layer: k, pulledN: drawn[b] })
      }
      for (let i = 0; i < stretches[s].length; i++) {
        const stretch = stretches[s][i], of = stretch.beams
        let pressedN = 0
        for (let b = 0; b < of.length; b++) if (pressed[of[b]] > pressedN) pressedN = pressed[of[b]]
        if (pressedN === 0) continue
        const criticalN = eulerLoad(stretch, resin.greenModulusNMm2, steady[s]), share = pressedN / criticalN
        if (share > slender[s][i].share) Object.assign(slender[s][i], { share, layer: k, pressedN, criticalN })
      }
    }
  }
  return {
    feet: [...feet.values()], beams: supports.flatMap((s, i) => s.beams.map((b, j): BeamStrength => ({ id: b.id, ...worst[i][j] }))),
    stretches: supports.flatMap((s, i) => stretches[i].map((stretch, j): StretchStrength => ({ beams: stretch.beams.map(b => s.beams[b].id), stretch, ...slender[i][j] }))),
  }
}

const NOTHING: Pushes = { plunge: 0, of: [], steady: [] }

/** What a beam is judged by. */
interface Bar {
  /** Its direction, outward at its first end. */
  readonly out: Vec3
  readonly lengthMm: number
  readonly fromRadiusMm: number
  readonly toRadiusMm: number
  /** Its sections at the ends; without one that touches the model, which is judged by its contact and not again here. */
  readonly ends: readonly (Section & { readonly isFirst: boolean })[]
  /** The foot on the plate that it stands on. */
  readonly foot: { readonly id: string; readonly areaMm2: number } | null
}

const NO_WAY: Vec3 = [0, 0, 0], bars = new WeakMap<SupportFrame, readonly Bar[]>()
function barsOf(support: SupportFrame): readonly Bar[] {
  const known = bars.get(support) ?? support.frame.beams.map(({ a, b, from, to, fromRadiusMm, toRadiusMm }): Bar => {
    const span = sub(from, to), lengthMm = Math.hypot(...span), by = lengthMm || 1, node = support.nodes[b], out: Vec3 = [span[0] / by, span[1] / by, span[2] / by], first = { out, off: NO_WAY, radiusMm: fromRadiusMm, isFirst: true }, second = { out, off: sub(to, from), radiusMm: toRadiusMm, isFirst: false }
    return {
      out, lengthMm, fromRadiusMm, toRadiusMm, ends: [first, second].filter((_, i) => !isTouching(support.nodes[i === 0 ? a : b])),
      foot: node?.kind === 'foot' && node.on.kind === 'plate' ? { id: node.id, areaMm2: (Math.PI / 4) * Math.max(node.fitted.footDiameterMm, node.fitted.shaftFootDiameterMm) ** 2 } : null,
    }
  })
  bars.set(support, known)
  return known
}

/** What the share of a beam is no larger than in any case: its thinner end with all its force across it, and the larger of the moments at its ends. */
function mostOf({ fromRadiusMm, toRadiusMm, lengthMm }: Bar, three: Float64Array, plunge: number, strengthNMm2: number): number {
  const r = Math.min(fromRadiusMm, toRadiusMm), force = mostOfThree(three, 0, plunge), bent = mostOfThree(three, 3, plunge) + force * lengthMm
  return ((Math.sqrt(3) * force) / (Math.PI * r * r) + (4 * bent) / (Math.PI * r ** 3)) / strengthNMm2
}
