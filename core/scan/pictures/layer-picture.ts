import { labelLayer, newLabels } from '../graph/layer-labels'
import type { ModelScan, ScanResult } from '../model-scan'
import type { BandSpans } from '../raster/spans'
import { labelOf } from '../reach/reach-pieces'

/**
 * What a span of a layer picture shows: model that lies on the layer below; a stilt; model laid new and within reach; laid new
 * and hanging; older model that is not connected to the plate; enclosed empty space that pulls, and such that does not; what the
 * layer below has and this one has not.
 */
export const LAYER_CODES = { model: 0, stilt: 1, fresh: 2, freshHanging: 3, hanging: 4, cup: 5, enclosed: 6, gone: 7 } as const

/** One layer as coloured spans: row, first pixel, end pixel and code, four numbers a span; absolute pixels. */
export interface LayerPicture {
  readonly layer: number
  readonly spans: Int32Array
  readonly pieces: number
  readonly enclosed: number
  /** Pixels laid new, and those of them that hang. */
  readonly freshPixels: number
  readonly hangingPixels: number
}

/** Paints one layer after a scan. */
export function layerPicture(scan: ModelScan, result: ScanResult, layer: number): LayerPicture {
  const { model, stilts, all } = scan.layerSpans(layer)
  const below = layer > 0 ? scan.layerSpans(layer - 1).all : null
  const { rows, row0 } = scan.frame
  const own = newLabels(), whole = newLabels()
  labelLayer(model.starts, 0, rows, model.pairs, own)
  labelLayer(all.starts, 0, rows, all.pairs, whole)
  const suction = scan.wholeSuction, tree = scan.modelTree
  const grounded = componentsGrounded(scan, layer, own.solidCount)
  const over = overRuns(scan, result, layer)
  const out: number[] = []
  let freshPixels = 0, hangingPixels = 0
  const put = (row: number, from: number, to: number, code: number): void => {
    if (from < to) out.push(row, from, to, code)
  }
  for (let r = 0; r < rows; r++) {
    const y = r + row0
    for (let s = all.starts[r] + 1; s < all.starts[r + 1]; s++) {
      if (whole.empty[s] < 0) continue
      const cup = suction ? suction.suction.cupOf[suction.graph.emptyStarts[layer] + whole.empty[s]] : -1
      put(y, all.pairs[2 * s - 1], all.pairs[2 * s], cup >= 0 ? LAYER_CODES.cup : LAYER_CODES.enclosed)
    }
    if (below) eachDifference(below, r, all, r, (from, to) => put(y, from, to, LAYER_CODES.gone))
    if (stilts) for (let s = stilts.starts[r]; s < stilts.starts[r + 1]; s++) put(y, stilts.pairs[2 * s], stilts.pairs[2 * s + 1], LAYER_CODES.stilt)
    for (let s = model.starts[r]; s < model.starts[r + 1]; s++) put(y, model.pairs[2 * s], model.pairs[2 * s + 1], !tree || grounded[own.solid[s]] ? LAYER_CODES.model : LAYER_CODES.hanging)
    const label = (pixel: number): number => {
      for (let s = model.starts[r]; s < model.starts[r + 1]; s++) if (pixel < model.pairs[2 * s + 1]) return own.solid[s]
      return -1
    }
    eachDifference(model, r, below ?? EMPTY, below ? r : 0, (from, to) => {
      freshPixels += to - from
      const held = layer === 0 || !tree || grounded[label(from)]
      if (!held) hangingPixels += to - from
      put(y, from, to, held ? LAYER_CODES.fresh : LAYER_CODES.freshHanging)
    })
    for (const [from, to] of over.get(y) ?? []) {
      put(y, from, to, LAYER_CODES.freshHanging)
      if (grounded[label(from)]) hangingPixels += to - from
    }
  }
  return { layer, spans: Int32Array.from(out), pieces: whole.solidCount, enclosed: whole.emptyCount, freshPixels, hangingPixels }
}

const EMPTY: BandSpans = { firstLayer: 0, layers: 1, starts: new Int32Array(2), pairs: new Int32Array(0), unclosedRows: new Int32Array(1) }

/** For every component of the model's layer whether it is connected to the plate when it is laid. */
function componentsGrounded(scan: ModelScan, layer: number, count: number): Uint8Array {
  const out = new Uint8Array(count)
  const whole = scan.wholeSuction, grounded = scan.grounded
  // nothing is known to hang before the supports are known
  if (!whole || !grounded) return out.fill(1)
  for (let c = 0; c < count; c++) out[c] = grounded[whole.graph.solidStarts[layer] + scan.holderOf(layer, c)]
  return out
}

/** Runs of a layer that hang over, by row; of findings that are not settled. */
function overRuns(scan: ModelScan, result: ScanResult, layer: number): Map<number, [number, number][]> {
  const out = new Map<number, [number, number][]>()
  const log = scan.reachLog[layer]
  if (!log || log.runs.length === 0) return out
  const from = labelOf(layer, 0), to = labelOf(layer + 1, 0)
  const hanging = new Set<number>()
  const add = (labels: readonly number[]): void => {
    for (const l of labels) if (l >= from && l < to) hanging.add(l)
  }
  for (const i of result.islands) if (i.state === 'partly') add(i.hanging)
  for (const l of result.ledges) if (l.state === 'open' || l.state === 'partly') add(l.hanging)
  for (let i = 0; i < log.runs.length; i += 4) {
    if (!hanging.has(labelOf(layer, log.runs[i + 3]))) continue
    const list = out.get(log.runs[i])
    if (list) list.push([log.runs[i + 1], log.runs[i + 2]])
    else out.set(log.runs[i], [[log.runs[i + 1], log.runs[i + 2]]])
  }
  return out
}

/** What row `ra` of one layer has and row `rb` of another has not. */
function eachDifference(a: BandSpans, ra: number, b: BandSpans, rb: number, visit: (from: number, to: number) => void): void {
  let j = b.starts[rb]
  const jEnd = b.starts[rb + 1]
  for (let i = a.starts[ra]; i < a.starts[ra + 1]; i++) {
    let x = a.pairs[2 * i]
    const end = a.pairs[2 * i + 1]
    while (j < jEnd && b.pairs[2 * j + 1] <= x) j++
    for (let n = j; n < jEnd && b.pairs[2 * n] < end; n++) {
      if (b.pairs[2 * n] > x) visit(x, b.pairs[2 * n])
      x = Math.max(x, b.pairs[2 * n + 1])
    }
    if (x < end) visit(x, end)
  }
}
