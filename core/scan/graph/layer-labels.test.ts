import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { ChunkBuilder } from './layer-graph'
import { labelLayer, newLabels, OUTSIDE } from './layer-labels'
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

describe('spaces of two layers', () => {
  const image = fc.array(fc.array(fc.constantFrom('#', '.'), { minLength: 7, maxLength: 7 }).map(c => c.join('')), { minLength: 5, maxLength: 5 })
  it('are connected where their pixels overlap (second opinion: pixel by pixel, with a margin for the outside)', () => {
    fc.assert(fc.property(image, image, (lower, upper) => {
      const bands = [lower, upper].map(rows => spansOf(rows)), frame = { row0: 0, rows: 5, layerCount: 2 }
      const builder = new ChunkBuilder(frame, 0)
      for (const band of bands) builder.addLayer(band, 0)
      const { emptyUpper, emptyLower, emptyEdgeStarts } = builder.finish()
      const found = new Set(Array.from({ length: emptyEdgeStarts[2] - emptyEdgeStarts[1] }, (_, i) => `${emptyUpper[emptyEdgeStarts[1] + i]} ${emptyLower[emptyEdgeStarts[1] + i]}`))
      const spaceAt = (band: (typeof bands)[number], row: number, x: number): number | null => {
        const out = newLabels()
        labelLayer(band.starts, 0, 5, band.pairs, out)
        for (let i = band.starts[row]; i < band.starts[row + 1]; i++) {
          if (x < band.pairs[2 * i]) return out.empty[i]
          if (x < band.pairs[2 * i + 1]) return null
        }
        return OUTSIDE
      }
      const want = new Set<string>()
      for (let row = 0; row < 5; row++) {
        for (let x = -1; x <= 7; x++) {
          const up = spaceAt(bands[1], row, x), down = spaceAt(bands[0], row, x)
          if (up !== null && down !== null && (up !== OUTSIDE || down !== OUTSIDE)) want.add(`${up} ${down}`)
        }
      }
      expect(found).toEqual(want)
    }), { numRuns: 400, seed: 12 })
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
