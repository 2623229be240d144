import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { forOverlappingGaps, labelLayer, newLabels, OUTSIDE } from './layer-labels'
import { PairCounter } from './pair-counter'
import { orSpans, type BandSpans } from '../raster/spans'

/** Spans of a picture of # and other signs, row by row. */
function spansOf(rows: readonly string[]): BandSpans {
  const starts = [0], pairs: number[] = []
  for (const row of rows) {
    for (const m of row.matchAll(/#+/g)) pairs.push(m.index, m.index + m[0].length)
    starts.push(pairs.length / 2)
  }
  return { firstLayer: 0, layers: 1, starts: Int32Array.from(starts), pairs: Int32Array.from(pairs), unclosedRows: new Int32Array(1) }
}
function labels(...rows: string[]): { solid: number[]; empty: number[] } {
  const s = spansOf(rows), out = newLabels()
  labelLayer(s.starts, 0, rows.length, s.pairs, out)
  const n = s.pairs.length / 2
  return { solid: [...out.solid.subarray(0, n)], empty: [...out.empty.subarray(0, n)] }
}

describe('components of a layer', () => {
  it('join by a shared pixel edge, not by a corner', () => {
    expect(labels('##..', '..##').solid).toEqual([0, 1])
    expect(labels('##..', '.##.').solid).toEqual([0, 0])
    // two arms that only meet further down
    expect(labels('#.#', '#.#', '###').solid).toEqual([0, 0, 0, 0, 0])
  })
  it('enclose empty space where no edge leads out; a corner does not let air through', () => {
    expect(labels('####', '#..#', '####').empty).toEqual([OUTSIDE, OUTSIDE, 0, OUTSIDE])
    expect(labels('####', '#..#', '##.#').empty).toEqual([OUTSIDE, OUTSIDE, OUTSIDE, OUTSIDE, OUTSIDE])
    // the hole touches the outside at a corner only
    expect(labels('.###', '#.##', '####').empty).toEqual([OUTSIDE, OUTSIDE, 0, OUTSIDE])
  })
  it('keep holes apart that solid parts', () => {
    expect(labels('#####', '#.#.#', '#####').empty).toEqual([OUTSIDE, OUTSIDE, 0, 1, OUTSIDE])
  })
})

describe('gaps of two rows', () => {
  it('overlap as their pixels do, the outer ones without end', () => {
    const a = spansOf(['.##..#']), b = spansOf(['####..'])
    const seen: [number, number, number, number][] = []
    forOverlappingGaps(a.pairs, 0, 2, b.pairs, 0, 1, (i, j, from, to) => seen.push([i, j, from, to]))
    expect(seen).toEqual([[0, 0, -Infinity, 0], [1, 1, 4, 5], [2, 1, 6, Infinity]])
  })
  it('see two empty rows as one outside', () => {
    const seen: unknown[] = []
    forOverlappingGaps(new Int32Array(0), 0, 0, new Int32Array(0), 0, 0, (...g) => seen.push(g))
    expect(seen).toEqual([[0, 0, -Infinity, Infinity]])
  })
})

describe('uniting bodies', () => {
  const row = fc.array(fc.constantFrom('#', '.'), { minLength: 1, maxLength: 24 }).map(c => c.join(''))
  it('has material exactly where either has', () => {
    fc.assert(fc.property(fc.array(fc.tuple(row, row), { minLength: 1, maxLength: 5 }), rows => {
      const united = orSpans(spansOf(rows.map(r => r[0])), spansOf(rows.map(r => r[1])))
      const expected = spansOf(rows.map(([a, b]) => Array.from({ length: 24 }, (_, i) => (a[i] === '#' || b[i] === '#' ? '#' : '.')).join('')))
      expect([...united.pairs]).toEqual([...expected.pairs])
      expect([...united.starts]).toEqual([...expected.starts])
    }))
  })
})

describe('the counter of pairs', () => {
  it('counts like a map, over clearing and growth', () => {
    const counter = new PairCounter()
    fc.assert(fc.property(fc.array(fc.tuple(fc.integer({ min: -1, max: 40 }), fc.integer({ min: -1, max: 40 }), fc.integer({ min: 1, max: 9 })), { maxLength: 1500 }), adds => {
      counter.clear()
      const map = new Map<string, number>()
      for (const [a, b, n] of adds) {
        counter.add(a, b, n)
        map.set(`${a} ${b}`, (map.get(`${a} ${b}`) ?? 0) + n)
      }
      expect(Array.from({ length: counter.length }, (_, i) => [`${counter.upper[i]} ${counter.lower[i]}`, counter.count[i]])).toEqual([...map])
    }), { numRuns: 40 })
  })
})
