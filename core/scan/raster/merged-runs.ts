import type { BandSpans } from './spans'

/** Runs (row of the band, first and end pixel) as spans; runs that overlap or touch become one. */
export function mergedRuns(runs: Int32Array, firstLayer: number, layers: number, rows: number): BandSpans {
  const buckets = layers * rows
  const starts = new Int32Array(buckets + 1)
  for (let i = 0; i < runs.length; i += 3) starts[runs[i] + 1]++
  for (let b = 0; b < buckets; b++) starts[b + 1] += starts[b]
  const cursor = starts.slice(0, buckets)
  const raw = new Int32Array((runs.length / 3) * 2)
  for (let i = 0; i < runs.length; i += 3) {
    const at = cursor[runs[i]]++
    raw[2 * at] = runs[i + 1]
    raw[2 * at + 1] = runs[i + 2]
  }
  const pairs = new Int32Array(raw.length)
  let n = 0, from = 0
  for (let b = 0; b < buckets; b++) {
    const to = starts[b + 1]
    for (let i = from + 1; i < to; i++) {
      const a = raw[2 * i], e = raw[2 * i + 1]
      let j = i - 1
      while (j >= from && raw[2 * j] > a) {
        raw[2 * j + 2] = raw[2 * j]
        raw[2 * j + 3] = raw[2 * j + 1]
        j--
      }
      raw[2 * j + 2] = a
      raw[2 * j + 3] = e
    }
    const rowFirst = n
    for (let i = from; i < to; i++) {
      const a = raw[2 * i], e = raw[2 * i + 1]
      if (n > rowFirst && pairs[n - 1] >= a) {
        if (e > pairs[n - 1]) pairs[n - 1] = e
      } else {
        pairs[n++] = a
        pairs[n++] = e
      }
    }
    starts[b + 1] = n >> 1
    from = to
  }
  return { firstLayer, layers, starts, pairs: pairs.slice(0, n), unclosedRows: new Int32Array(layers) }
}
