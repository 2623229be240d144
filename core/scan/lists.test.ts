import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { Float64List, Int32List } from './raster/growable'
import { mergedRuns } from './raster/merged-runs'
import { PairCounter } from './graph/pair-counter'
import { orSpans, type BandSpans } from './raster/spans'

// The small containers of hot loops, beside what the language has for the same.

describe('lists that grow', () => {
  it('hold what an ordinary list holds', () => {
    fc.assert(fc.property(fc.array(fc.integer(), { maxLength: 300 }), fc.integer({ min: 1, max: 8 }), (values, capacity) => {
      const ints = new Int32List(capacity), floats = new Float64List(capacity)
      for (const v of values) {
        ints.push(v)
        floats.push(v / 3)
      }
      expect([...ints.toArray()]).toEqual(values)
      expect([...floats.toArray()]).toEqual(values.map(v => v / 3))
    }), { seed: 1 })
  })
  it('give a copy that later pushes leave alone', () => {
    const list = new Int32List(2)
    list.push(1)
    const copy = list.toArray()
    list.push(2)
    list.length = 0
    list.push(9)
    expect([...copy]).toEqual([1])
  })
})

describe('counting pairs', () => {
  it('counts as a map does, again after it was cleared', () => {
    const pair = fc.tuple(fc.integer({ min: -1, max: 400 }), fc.integer({ min: -1, max: 400 }), fc.integer({ min: 1, max: 9 }))
    const counter = new PairCounter()
    fc.assert(fc.property(fc.array(pair, { maxLength: 900 }), pairs => {
      counter.clear()
      const expected = new Map<string, number>()
      for (const [a, b, n] of pairs) {
        counter.add(a, b, n)
        expected.set(`${a} ${b}`, (expected.get(`${a} ${b}`) ?? 0) + n)
      }
      const found = new Map(Array.from({ length: counter.length }, (_, i) => [`${counter.upper[i]} ${counter.lower[i]}`, counter.count[i]]))
      expect(counter.length).toBe(expected.size)
      expect(found).toEqual(expected)
    }), { numRuns: 60, seed: 2 })
  })
})

const WIDTH = 40
/** The pixels of one row of spans. */
function pixelsOf(s: BandSpans, row: number): boolean[] {
  const out = new Array<boolean>(WIDTH).fill(false)
  for (let i = s.starts[row]; i < s.starts[row + 1]; i++) out.fill(true, s.pairs[2 * i], s.pairs[2 * i + 1])
  return out
}
/** Spans are sorted, not empty, and never touch. */
function expectTidy(s: BandSpans): void {
  for (let row = 0; row + 1 < s.starts.length; row++) {
    for (let i = s.starts[row]; i < s.starts[row + 1]; i++) {
      expect(s.pairs[2 * i]).toBeLessThan(s.pairs[2 * i + 1])
      if (i > s.starts[row]) expect(s.pairs[2 * i - 1]).toBeLessThan(s.pairs[2 * i])
    }
  }
}
const run = fc.tuple(fc.integer({ min: 0, max: 5 }), fc.integer({ min: 0, max: WIDTH - 2 }), fc.integer({ min: 1, max: 9 })).map(([row, from, n]) => [row, from, Math.min(WIDTH, from + n)] as const)
const merged = (runs: readonly (readonly [number, number, number])[]): BandSpans => mergedRuns(Int32Array.from(runs.flat()), 0, 2, 3)

describe('runs of pixels', () => {
  it('become tidy spans of the same pixels, in whatever order they come', () => {
    fc.assert(fc.property(fc.array(run, { maxLength: 40 }), runs => {
      const spans = merged(runs)
      expectTidy(spans)
      for (let row = 0; row < 6; row++) {
        const expected = new Array<boolean>(WIDTH).fill(false)
        for (const [r, from, to] of runs) if (r === row) expected.fill(true, from, to)
        expect(pixelsOf(spans, row)).toEqual(expected)
      }
    }), { seed: 3 })
  })
  it('of two bodies are material where either has material', () => {
    fc.assert(fc.property(fc.array(run, { maxLength: 25 }), fc.array(run, { maxLength: 25 }), (a, b) => {
      const p = merged(a), q = merged(b), both = orSpans(p, q)
      expectTidy(both)
      for (let row = 0; row < 6; row++) {
        const x = pixelsOf(p, row), y = pixelsOf(q, row)
        expect(pixelsOf(both, row)).toEqual(x.map((v, i) => v || y[i]))
      }
      expect(orSpans(q, p).pairs).toEqual(both.pairs)
    }), { seed: 4 })
  })
})
