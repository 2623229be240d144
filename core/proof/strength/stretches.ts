import { distance } from '../../mesh'
import type { SupportFrame } from './supports'

/** A stretch of a support between two places where something holds it: its beams, in order, and what it is pressed between. */
export interface Stretch {
  readonly beams: readonly number[]
  readonly lengthMm: number
  /** Diameters of the shaft at its thinner and at its thicker end, mm; a cone at a tip is left out. */
  readonly thinMm: number
  readonly thickMm: number
  /** What holds its ends: the plate, other beams, or the model by a tip. */
  readonly ends: readonly ['plate' | 'joint' | 'model' | 'nothing', 'plate' | 'joint' | 'model' | 'nothing']
}

/** The stretches of a support: chains of beams between the places where more than two meet, feet and tips. Those of a support are kept. */
export function stretchesOf(support: SupportFrame): readonly Stretch[] {
  const known = kept.get(support) ?? foundIn(support)
  kept.set(support, known)
  return known
}
const kept = new WeakMap<SupportFrame, readonly Stretch[]>()

function foundIn({ frame, nodes, beams, tied }: SupportFrame): Stretch[] {
  const at = nodes.map((): number[] => [])
  frame.beams.forEach(({ a, b }, i) => {
    at[a].push(i)
    at[b].push(i)
  })
  const kindOf = (n: number): Stretch['ends'][number] => {
    const { kind } = nodes[n], node = nodes[n]
    if (node.kind === 'foot') return node.on.kind === 'plate' ? 'plate' : node.on.kind === 'model' ? 'model' : 'nothing'
    return kind === 'tip' ? 'model' : at[n].length > 2 || tied.has(n) ? 'joint' : 'nothing'
  }
  const isEnd = (n: number): boolean => at[n].length !== 2 || tied.has(n) || nodes[n].kind === 'tip' || nodes[n].kind === 'foot'
  const seen = new Set<number>(), out: Stretch[] = []
  for (let start = 0; start < nodes.length; start++) {
    if (!isEnd(start)) continue
    for (const first of at[start]) {
      if (seen.has(first)) continue
      const chain = [first]
      seen.add(first)
      let node = frame.beams[first].a === start ? frame.beams[first].b : frame.beams[first].a
      while (!isEnd(node)) {
        const next = at[node].find(b => b !== chain[chain.length - 1]) as number
        chain.push(next)
        seen.add(next)
        node = frame.beams[next].a === node ? frame.beams[next].b : frame.beams[next].a
      }
      const shaft = chain.filter(b => beams[b].kind !== 'cone'), thick = (shaft.length > 0 ? shaft : chain).flatMap(b => [2 * frame.beams[b].fromRadiusMm, 2 * frame.beams[b].toRadiusMm])
      out.push({
        beams: chain, lengthMm: chain.reduce((sum, b) => sum + distance(frame.beams[b].from, frame.beams[b].to), 0), thinMm: Math.min(...thick), thickMm: Math.max(...thick),
        ends: [kindOf(start), kindOf(node)],
      })
    }
  }
  return out
}

/** How long a column counts, by what holds its ends (Euler's four cases; Timoshenko and Gere): a plate clamps, joints and the model pin. */
function lengthFactor([a, b]: Stretch['ends'], steady: boolean): number {
  const loose = (e: Stretch['ends'][number]): boolean => e === 'nothing' || (e === 'model' && !steady), clamps = [a, b].filter(e => e === 'plate').length
  if (loose(a) || loose(b)) return 2
  return clamps === 2 ? 0.5 : clamps === 1 ? 0.7 : 1
}

/**
 * What presses a stretch until it gives way sideways, N: Euler's load of an even column of an equivalent diameter. That is the thin one and
 * a share of what the thick one has more (after the National Design Specification for Wood Construction, 3.7.2): 0.7 − 0.15 (1 − thin/thick)
 * where the thick end is clamped and the thin one free; 0.5 instead of 0.7 where that is pinned, as linear buckling has it; a third elsewhere.
 * @param steady whether the model at its end cannot move sideways itself, being held by others
 */
export function eulerLoad({ lengthMm, thinMm, thickMm, ends }: Stretch, modulusNMm2: number, steady: boolean): number {
  const k = lengthFactor(ends, steady), d = thinMm + (thickMm - thinMm) * (ends.includes('plate') ? (k === 2 ? 0.7 : 0.5) - 0.15 * (1 - thinMm / thickMm) : 1 / 3)
  return (Math.PI ** 3 * modulusNMm2 * d ** 4) / (64 * (k * lengthMm) ** 2)
}
