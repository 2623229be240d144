import type { BandIndex, Body } from './body'
import { Int32List } from './growable'

/** The rows that all bodies of a scan share. */
export interface Frame {
  /** Absolute first row. */
  readonly row0: number
  readonly rows: number
  readonly layerCount: number
}

/** Solid spans of some consecutive layers: half-open pixel intervals, sorted within each row, never touching. */
export interface BandSpans {
  readonly firstLayer: number
  readonly layers: number
  /** First span of row r of layer l at [l · rows + r]; one past the end at the last entry. */
  readonly starts: Int32Array
  /** Start and end pixel of every span, absolute. */
  readonly pairs: Int32Array
  /** Rows per layer whose crossings do not cancel. */
  readonly unclosedRows: Int32Array
}

/** The frame around some bodies: rows from the lowest to the highest, layers from the plate to the top. */
export function frameOf(bodies: readonly Body[]): Frame {
  let row0 = Infinity, rowEnd = -Infinity, layerCount = 0
  for (const b of bodies) {
    if (b.triangles.length === 0) continue
    row0 = Math.min(row0, b.origin[1])
    rowEnd = Math.max(rowEnd, b.origin[1] + b.rows)
    layerCount = Math.max(layerCount, b.origin[2] + b.layers)
  }
  return rowEnd > row0 ? { row0, rows: rowEnd - row0, layerCount } : { row0: 0, rows: 0, layerCount: 0 }
}

/** Scratch of the span maker, kept between bands so that hot loops do not allocate. */
export class SpanScratch {
  buckets = new Int32List(1 << 16)
  values = new Int32List(1 << 16)
  sorted = new Int32Array(1 << 16)
  pairs = new Int32Array(1 << 16)
  counts = new Int32Array(1024)
}

/**
 * Scan-converts the triangles of one band in the (y, z) plane. Every triangle crosses the sample lines (row, layer) inside its
 * projection once, at one x with a sign; crossings become whole pixels, those on the same pixel are summed, and where the
 * winding is above zero there is material.
 */
export function spansOfBand(body: Body, index: BandIndex, band: number, frame: Frame, scratch: SpanScratch): BandSpans {
  const firstLayer = band * index.bandLayers
  const layers = Math.min(index.bandLayers, frame.layerCount - firstLayer)
  return spansOfLayers(body, index.listOf(band), firstLayer, layers, frame, scratch)
}

/** Spans of `layers` layers from `firstLayer` on, from those triangles (offsets into `body.triangles`) that may cross them. */
export function spansOfLayers(body: Body, list: Uint32Array, firstLayer: number, layers: number, frame: Frame, scratch: SpanScratch): BandSpans {
  const rows = frame.rows
  const bucketCount = layers * rows
  if (scratch.counts.length < bucketCount + 1) scratch.counts = new Int32Array(bucketCount + 1)
  else scratch.counts.fill(0, 0, bucketCount + 1)
  emitCrossings(body, list, firstLayer, layers, frame, scratch)
  sortIntoBuckets(bucketCount, scratch)
  return bucketsToSpans(firstLayer, layers, rows, body.origin[0], scratch)
}

function emitCrossings(body: Body, list: Uint32Array, firstLayer: number, layers: number, frame: Frame, scratch: SpanScratch): void {
  const { coords, triangles, origin } = body
  const rows = frame.rows
  const counts = scratch.counts
  const rowShift = origin[1] - frame.row0
  const low = firstLayer - origin[2], high = low + layers - 1
  const buckets = scratch.buckets, values = scratch.values
  buckets.length = 0
  values.length = 0
  let bucketData = buckets.data, valueData = values.data
  let capacity = Math.min(bucketData.length, valueData.length)
  let n = 0
  for (let i = 0; i < list.length; i++) {
    const t = list[i]
    let a = 3 * triangles[t], b = 3 * triangles[t + 1], c = 3 * triangles[t + 2]
    let parity = 1
    // sort by height, so that an edge is always walked from its lower end and both of its triangles see the same numbers
    if (coords[a + 2] > coords[b + 2]) { const s = a; a = b; b = s; parity = -parity }
    if (coords[b + 2] > coords[c + 2]) {
      const s = b; b = c; c = s; parity = -parity
      if (coords[a + 2] > coords[b + 2]) { const r = a; a = b; b = r; parity = -parity }
    }
    const z0 = coords[a + 2], z1 = coords[b + 2], z2 = coords[c + 2]
    let k = Math.ceil(z0)
    if (k < low) k = low
    let kEnd = Math.floor(z2)
    if (kEnd > high) kEnd = high
    if (k > kEnd) continue
    const x0 = coords[a], y0 = coords[a + 1], x1 = coords[b], y1 = coords[b + 1], x2 = coords[c], y2 = coords[c + 1]
    const longY = (y2 - y0) / (z2 - z0), longX = (x2 - x0) / (z2 - z0)
    for (; k <= kEnd; k++) {
      const ya = y0 + (k - z0) * longY
      const xa = x0 + (k - z0) * longX
      let yb: number, xb: number
      if (k < z1) {
        const f = k - z0, d = z1 - z0
        yb = y0 + f * ((y1 - y0) / d)
        xb = x0 + f * ((x1 - x0) / d)
      } else {
        const f = k - z1, d = z2 - z1
        yb = y1 + f * ((y2 - y1) / d)
        xb = x1 + f * ((x2 - x1) / d)
      }
      let j: number, jEnd: number, sign: number, slope: number, yFrom: number, xFrom: number
      if (ya < yb) {
        j = Math.ceil(ya)
        jEnd = Math.ceil(yb)
        sign = -parity
        if (j >= jEnd) continue
        slope = (xb - xa) / (yb - ya)
        yFrom = ya
        xFrom = xa
      } else {
        j = Math.ceil(yb)
        jEnd = Math.ceil(ya)
        sign = parity
        if (j >= jEnd) continue
        slope = (xa - xb) / (ya - yb)
        yFrom = yb
        xFrom = xb
      }
      const bit = sign > 0 ? 0 : 1
      const base = (k - low) * rows + rowShift
      if (n + (jEnd - j) > capacity) {
        buckets.length = values.length = n
        buckets.reserve(n + (jEnd - j))
        values.reserve(n + (jEnd - j))
        bucketData = buckets.data
        valueData = values.data
        capacity = Math.min(bucketData.length, valueData.length)
      }
      for (; j < jEnd; j++) {
        const bucket = base + j
        counts[bucket + 1]++
        bucketData[n] = bucket
        valueData[n++] = (Math.ceil(xFrom + (j - yFrom) * slope) << 1) | bit
      }
    }
  }
  buckets.length = values.length = n
}

function sortIntoBuckets(bucketCount: number, scratch: SpanScratch): void {
  const { counts } = scratch
  const n = scratch.buckets.length
  if (scratch.sorted.length < n) scratch.sorted = new Int32Array(Math.max(n, scratch.sorted.length * 2))
  const sorted = scratch.sorted, buckets = scratch.buckets.data, values = scratch.values.data
  for (let b = 0; b < bucketCount; b++) counts[b + 1] += counts[b]
  // filling moves each start to its end, which is the next start: afterwards bucket b is [counts[b − 1], counts[b])
  for (let i = 0; i < n; i++) sorted[counts[buckets[i]]++] = values[i]
  let from = 0
  for (let b = 0; b < bucketCount; b++) {
    const to = counts[b]
    if (to - from > 40) sorted.subarray(from, to).sort()
    else {
      for (let i = from + 1; i < to; i++) {
        const v = sorted[i]
        let j = i - 1
        while (j >= from && sorted[j] > v) {
          sorted[j + 1] = sorted[j]
          j--
        }
        sorted[j + 1] = v
      }
    }
    from = to
  }
}

function bucketsToSpans(firstLayer: number, layers: number, rows: number, pixel0: number, scratch: SpanScratch): BandSpans {
  const { counts, sorted } = scratch
  const starts = new Int32Array(layers * rows + 1)
  // a span needs a crossing that opens and one that closes it, so there are at most half as many spans as crossings
  if (scratch.pairs.length < scratch.buckets.length + 2) scratch.pairs = new Int32Array(2 * scratch.buckets.length + 2)
  const pairs = scratch.pairs
  const unclosedRows = new Int32Array(layers)
  let n = 0, from = 0
  for (let l = 0, b = 0; l < layers; l++) {
    for (let r = 0; r < rows; r++, b++) {
      const to = counts[b]
      const rowFirst = n
      let winding = 0
      for (let i = from; i < to;) {
        const x = sorted[i] >> 1
        const before = winding
        do {
          winding += sorted[i] & 1 ? -1 : 1
          i++
        } while (i < to && sorted[i] >> 1 === x)
        if (before <= 0 && winding > 0) pairs[n] = x + pixel0
        else if (before > 0 && winding <= 0) {
          pairs[n + 1] = x + pixel0
          n += 2
        }
      }
      if (winding !== 0) {
        unclosedRows[l]++
        n = rowFirst
      }
      starts[b + 1] = n >> 1
      from = to
    }
  }
  return { firstLayer, layers, starts, pairs: pairs.slice(0, n), unclosedRows }
}

/** Material where either has material. Both must cover the same layers of the same frame. */
export function orSpans(a: BandSpans, b: BandSpans): BandSpans {
  if (b.pairs.length === 0) return a
  if (a.pairs.length === 0) return b
  const starts = new Int32Array(a.starts.length)
  const pairs = new Int32Array(a.pairs.length + b.pairs.length)
  let n = 0
  for (let row = 0; row + 1 < starts.length; row++) {
    let i = 2 * a.starts[row], j = 2 * b.starts[row]
    const iEnd = 2 * a.starts[row + 1], jEnd = 2 * b.starts[row + 1]
    const rowFirst = n
    while (i < iEnd || j < jEnd) {
      let from: number, to: number
      if (j >= jEnd || (i < iEnd && a.pairs[i] <= b.pairs[j])) {
        from = a.pairs[i]
        to = a.pairs[i + 1]
        i += 2
      } else {
        from = b.pairs[j]
        to = b.pairs[j + 1]
        j += 2
      }
      if (n > rowFirst && pairs[n - 1] >= from) {
        if (to > pairs[n - 1]) pairs[n - 1] = to
      } else {
        pairs[n++] = from
        pairs[n++] = to
      }
    }
    starts[row + 1] = n >> 1
  }
  const unclosedRows = a.unclosedRows.map((u, l) => u + b.unclosedRows[l])
  return { firstLayer: a.firstLayer, layers: a.layers, starts, pairs: pairs.slice(0, n), unclosedRows }
}
