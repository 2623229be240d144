import { describe, expect, it } from 'vitest'
import type { PlanNode } from '../contract'
import { GAUGES, gapVerdict, gaugeOf, judgeStilt, PlanIndex } from '../stilts'
import { heldScene } from '../testing/held-scene'
import { box } from '../testing/shapes'
import { slimTips } from './slim-tips'

// a fin of 0.3 mm with two tips of 0.5 mm under it
const GAUGE = gaugeOf('medium'), { surface, index, tips: [one, other] } = heldScene(box([-6, -0.15, 20], [6, 0.15, 26]), [[-3, 0], [3, 0]], GAUGE, { pixelMm: 0.1, layerMm: 0.1 })
const end = (id: string, share: number): Parameters<typeof slimTips>[4][number] => ({ id, share, layer: 0, borne: { alongN: 0, acrossN: 0, bentNmm: 0 }, pulledN: 0, pressedN: 0 })
const slim = (shares: readonly [number, number], of: PlanIndex = index, mine = (_: string): boolean => true): readonly (number | undefined)[] => {
  const { nodes } = slimTips(of, 'part', surface, GAUGES, [end(one, shares[0]), end(other, shares[1])], 0.5, mine)
  return [one, other].map(id => nodes.flatMap(n => (n.id === id && n.kind === 'tip' ? [n.fitted.tipDiameterMm] : []))[0])
}

describe('a tip that is thicker than it has to be', () => {
  it('is made no thicker than what it holds, and is judged so no more', () => {
    expect(judgeStilt(surface, index.stiltsOf('part')[0], { gauge: GAUGE }).map(v => v.kind)).toEqual(['thick'])
    const { nodes, beams } = slimTips(index, 'part', surface, GAUGES, [end(one, 0.01), end(other, 0.01)], 0.5, () => true)
    const now = new PlanIndex(new Map([...index.nodes, ...nodes.map((n): [string, PlanNode] => [n.id, n])]), new Map([...index.beams, ...beams.map(b => [b.id, b] as const)]))
    for (const s of now.stiltsOf('part')) {
      expect(s.sizes.tipDiameterMm).toBeLessThanOrEqual(0.3)
      expect(s.sizes.tipDiameterMm).toBeGreaterThan(0.25)
      expect(judgeStilt(surface, s, { gauge: GAUGE })).toEqual([])
      // its cone begins as wide as it is
      expect(now.beams.get(s.beams[0])?.fromDiameterMm).toBe(s.sizes.tipDiameterMm)
    }
  })
  it('stays thick enough for what it bears, which goes with the cube of it where it is bent', () => {
    const [little, much] = slim([0.1, 0.3])
    // π d³ / 32 (section modulus of a round section): 0.3 of what 0.5 mm can is 0.4 of what this can
    expect(much).toBeCloseTo(0.5 * (0.3 / 0.4) ** (1 / 3), 9)
    expect(little).toBeCloseTo(0.5 * (0.1 / 0.4) ** (1 / 3), 9)
    expect(slim([0.45, 0.6])).toEqual([undefined, undefined])
  })
  it('goes back to what its gauge has where it was made thicker and bears little by now', () => {
    const block = heldScene(box([-6, -4, 20], [6, 4, 26]), [[-3, 0]], GAUGE, { pixelMm: 0.1, layerMm: 0.1 }), [id] = block.tips, was = block.index.nodes.get(id)
    if (was?.kind !== 'tip') throw new Error('no tip')
    const grown = new PlanIndex(new Map(block.index.nodes).set(id, { ...was, own: { tipDiameterMm: 0.9 }, fitted: { ...was.fitted, tipDiameterMm: 0.9 } }), block.index.beams), now = (share: number): number[] => slimTips(grown, 'part', block.surface, GAUGES, [end(id, share)], 0.5, () => true).nodes.map(n => (n.kind === 'tip' ? n.fitted.tipDiameterMm : 0))
    expect(now(0.01)).toEqual([GAUGE.tipDiameterMm])
    expect(now(0.2)).toEqual([expect.closeTo(0.9 * 0.5 ** (1 / 3), 9)])
    expect(now(0.4)).toEqual([])
  })
  it('stays as it is where the cone would come too near to the skin below a thinner one', () => {
    const { surface: skin, index: plain, tips: [id] } = heldScene(box([-6, -4, 20], [6, 4, 26]), [[-3, 0]], GAUGE, { pixelMm: 0.1, layerMm: 0.1 }), was = plain.nodes.get(id), wide = { tipDiameterMm: 1.2, kneeDiameterMm: 2.53 }
    if (was?.kind !== 'tip') throw new Error('no tip')
    const grown = new PlanIndex(new Map(plain.nodes).set(id, { ...was, own: wide, fitted: { ...was.fitted, ...wide } }), plain.beams), [stilt] = grown.stiltsOf('part'), now = (share: number): number[] => slimTips(grown, 'part', skin, GAUGES, [end(id, share)], 0.5, () => true).nodes.map(n => (n.kind === 'tip' ? n.fitted.tipDiameterMm : 0))
    const verdict = (tipDiameterMm: number) => gapVerdict(skin, { ...stilt, sizes: { ...stilt.sizes, tipDiameterMm } }, GAUGE)
    expect([verdict(1.2), verdict(1)?.kind, verdict(0.5)]).toEqual([null, 'gap', null])
    // so much that it would have to be 1 mm thick; and next to nothing
    expect([now(0.4 / 1.2 ** 3), now(0.01)]).toEqual([[], [GAUGE.tipDiameterMm]])
  })
  it('is left alone where it is not to be changed, or carries the part', () => {
    expect(slim([0.01, 0.01], index, id => id !== one)[0]).toBeUndefined()
    const carrying = new PlanIndex(new Map([...index.nodes].map(([id, n]): [string, PlanNode] => [id, n.kind === 'tip' && id === other ? { ...n, role: 'carrier' } : n])), index.beams)
    expect(slim([0.01, 0.01], carrying)[1]).toBeUndefined()
  })
})
