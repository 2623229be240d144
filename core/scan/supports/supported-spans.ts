import type { BandedBody } from '../graph/banded-body'
import { Int32List } from '../raster/growable'
import { mergedRuns } from '../raster/merged-runs'
import { orSpans, type BandSpans, type Frame } from '../raster/spans'
import type { Section } from './support-section'

/** Sections by layer. */
export interface SectionLists {
  readonly [layer: number]: readonly Section[]
}

/** Spans of a band with the supports that meet the model there; of these supports, those that stand by themselves, and the others. */
export interface BandWithSupports {
  readonly spans: BandSpans
  readonly supports: BandSpans | null
  readonly plain: BandSpans | null
}

const NONE: readonly Section[] = []
const runs = new Int32List(1 << 12)

/** Spans of layers [from, to) of the model alone, in the rows of a frame that holds it. */
export function modelSpans(model: BandedBody, frame: Frame, from: number, to: number): BandSpans {
  const { row0, rows } = frame, own = model.frame
  const shift = own.row0 - row0
  const starts = new Int32Array((to - from) * rows + 1)
  const unclosedRows = new Int32Array(to - from)
  const parts: Int32Array[] = []
  let n = 0
  for (let k = from; k < to; k++) {
    const base = (k - from) * rows
    if (k >= own.layerCount || own.rows === 0) {
      starts.fill(n, base, base + rows + 1)
      continue
    }
    const { spans, at } = model.layer(k)
    const first = spans.starts[at * own.rows], end = spans.starts[(at + 1) * own.rows]
    starts.fill(n, base, base + shift + 1)
    for (let r = 0; r < own.rows; r++) starts[base + shift + r + 1] = n + spans.starts[at * own.rows + r + 1] - first
    n += end - first
    starts.fill(n, base + shift + own.rows, base + rows + 1)
    parts.push(spans.pairs.subarray(2 * first, 2 * end))
    unclosedRows[k - from] = spans.unclosedRows[at]
  }
  const pairs = new Int32Array(2 * n)
  let o = 0
  for (const p of parts) {
    pairs.set(p, o)
    o += p.length
  }
  return { firstLayer: from, layers: to - from, starts, pairs, unclosedRows }
}

/**
 * Spans of layers [from, to) of the sections listed for each, in the rows of a frame that holds them; null where there are none.
 * @param wanted which pieces of the sections; all where left out
 */
export function sectionSpans(frame: Frame, from: number, to: number, lists: SectionLists, wanted?: (section: Section, piece: number) => boolean): BandSpans | null {
  const { row0, rows } = frame
  runs.length = 0
  for (let k = from; k < to; k++) {
    // from left to right, so that the runs of a row come almost in order
    for (const s of [...(lists[k] ?? NONE)].sort((a, b) => a.leftOf(k) - b.leftOf(k))) {
      const own = s.runs(k), pixel0 = s.body.origin[0], base = (k - from) * rows + s.frame.row0 - row0
      runs.reserve(runs.length + own.length)
      const data = runs.data
      let n = runs.length
      for (let i = 0; i < own.length; i += 3) {
        if (wanted && !wanted(s, s.pieceOfRun(k, i))) continue
        data[n++] = base + own[i]
        data[n++] = own[i + 1] + pixel0
        data[n++] = own[i + 2] + pixel0
      }
      runs.length = n
    }
  }
  if (runs.length === 0) return null
  return mergedRuns(runs.data.subarray(0, runs.length), from, to - from, rows)
}

/** Spans of layers [from, to) of the model and of the sections listed for each, in the rows of a frame that holds both. */
export function spansTogether(model: BandedBody, frame: Frame, from: number, to: number, lists: SectionLists): BandSpans {
  const own = modelSpans(model, frame, from, to), supports = sectionSpans(frame, from, to, lists)
  return supports ? orSpans(own, supports) : own
}
