import type { LayerGraph } from '../graph/layer-graph'
import { DEFAULT_LOADS, releaseStressAt, type Loads } from '../settings'
import { movePoint, type RigidMotion } from '../../pose'
import type { Suction } from '../sweeps/suction'

/** One number a layer for everything that is drawn over height; areas in mm², loads in N, lengths in mm. */
export interface Signals {
  /** Solid area, model and supports. */
  readonly areaMm2: Float64Array
  /** Area that has nothing under it in the layer below. */
  readonly newMm2: Float64Array
  /** Area of the model laid too far from held material, or by something that is not connected to the plate yet. */
  readonly hangingMm2: Float64Array
  readonly pieces: Int32Array
  /** Empty area that the layer encloses. */
  readonly enclosedMm2: Float64Array
  /** Estimate: area times the stress of releasing the film, and the vacuum of cups. */
  readonly peelN: Float64Array
  /** Centre of the layer. NaN where it has no area. */
  readonly centerX: Float64Array
  readonly centerY: Float64Array
  /** How far that centre is from the centre of what stands on the plate; NaN where nothing does. */
  readonly offCenterMm: Float64Array
  /** Layers in which area or load jumps. */
  readonly jumps: Int32Array
}

/** A jump: this much more than the mean of the layers before, and this many mm² at least (common practice, from memory). */
const JUMP_SHARE = 0.25
const JUMP_MM2 = 10
const JUMP_OVER_LAYERS = 10

/** The signals of all layers. @param hangingMm2 area that hangs, by layer */
export function signalsOf(graph: LayerGraph, suction: Suction, hangingMm2: Float64Array, pixelMm: number, loads: Loads = DEFAULT_LOADS): Signals {
  const n = graph.layerCount, a = pixelMm * pixelMm, alone = graph.columns.totals
  const s = {
    areaMm2: Float64Array.from(graph.layerPixels, p => p * a),
    newMm2: new Float64Array(n), hangingMm2, pieces: new Int32Array(n), enclosedMm2: new Float64Array(n),
    peelN: new Float64Array(n), centerX: new Float64Array(n), centerY: new Float64Array(n), offCenterMm: new Float64Array(n),
  }
  const pulling = new Float64Array(n)
  let footX = NaN, footY = NaN
  for (let k = 0; k < n; k++) {
    const from = graph.solidStarts[k], to = graph.solidStarts[k + 1]
    s.pieces[k] = to - from + alone.count[k]
    let sumX = alone.sumX[k], sumY = alone.sumY[k], overlaps = alone.shared[k]
    for (let c = from; c < to; c++) {
      sumX += graph.solidSumX[c]
      sumY += graph.solidSumY[c]
    }
    for (let e = graph.solidEdgeStarts[k]; e < graph.solidEdgeStarts[k + 1]; e++) overlaps += graph.solidOverlap[e]
    const pixels = graph.layerPixels[k]
    s.newMm2[k] = (pixels - overlaps) * a
    s.centerX[k] = pixels > 0 ? (sumX / pixels + 0.5) * pixelMm : NaN
    s.centerY[k] = pixels > 0 ? (sumY / pixels + 0.5) * pixelMm : NaN
    if (k === 0) {
      footX = s.centerX[0]
      footY = s.centerY[0]
    }
    s.offCenterMm[k] = Math.hypot(s.centerX[k] - footX, s.centerY[k] - footY)
    for (let e = graph.emptyStarts[k]; e < graph.emptyStarts[k + 1]; e++) {
      s.enclosedMm2[k] += graph.emptyPixels[e] * a
      if (suction.cupOf[e] >= 0) pulling[k] += graph.emptyPixels[e] * a
    }
    s.peelN[k] = s.areaMm2[k] * releaseStressAt(loads, k) + pulling[k] * loads.cupVacuumNMm2
  }
  return { ...s, jumps: jumpsOf(s.areaMm2, s.peelN, loads) }
}

/** Signals of one thing, and where it stands among others: x and y seen from there. */
export interface PlacedSignals {
  readonly signals: Signals
  readonly toPlate: RigidMotion<'stand', 'plate'>
}

/** The signals of several things that are printed at once and touch nowhere. */
export function signalsTogether(all: readonly PlacedSignals[], loads: Loads = DEFAULT_LOADS): Signals {
  const n = all.reduce((most, { signals }) => Math.max(most, signals.areaMm2.length), 0)
  const sums = (name: 'areaMm2' | 'newMm2' | 'hangingMm2' | 'enclosedMm2' | 'peelN'): Float64Array => {
    const out = new Float64Array(n)
    for (const { signals } of all) signals[name].forEach((v, k) => (out[k] += v))
    return out
  }
  const areaMm2 = sums('areaMm2'), peelN = sums('peelN'), pieces = new Int32Array(n), centerX = new Float64Array(n), centerY = new Float64Array(n)
  for (const { signals, toPlate } of all) {
    for (let k = 0; k < signals.areaMm2.length; k++) {
      const area = signals.areaMm2[k]
      pieces[k] += signals.pieces[k]
      if (area === 0) continue
      const [x, y] = movePoint(toPlate, [signals.centerX[k], signals.centerY[k], 0])
      centerX[k] += x * area
      centerY[k] += y * area
    }
  }
  for (let k = 0; k < n; k++) {
    centerX[k] = areaMm2[k] > 0 ? centerX[k] / areaMm2[k] : NaN
    centerY[k] = areaMm2[k] > 0 ? centerY[k] / areaMm2[k] : NaN
  }
  const offCenterMm = Float64Array.from({ length: n }, (_, k) => Math.hypot(centerX[k] - centerX[0], centerY[k] - centerY[0]))
  return { areaMm2, newMm2: sums('newMm2'), hangingMm2: sums('hangingMm2'), pieces, enclosedMm2: sums('enclosedMm2'), peelN, centerX, centerY, offCenterMm, jumps: jumpsOf(areaMm2, peelN, loads) }
}

/** Layers whose area or load stands out from the layers right before; of a run of them only the first. */
export function jumpsOf(areaMm2: Float64Array, peelN: Float64Array, loads: Loads = DEFAULT_LOADS): Int32Array {
  const jumps: number[] = []
  const jumpsIn = (values: Float64Array, k: number, least: number): boolean => {
    const from = Math.max(0, k - JUMP_OVER_LAYERS)
    let sum = 0
    for (let i = from; i < k; i++) sum += values[i]
    const mean = k > from ? sum / (k - from) : 0
    // against the mean, and against the layer right below: growth that goes on is no jump
    return values[k] - mean > Math.max(least, mean * JUMP_SHARE) && values[k] - values[k - 1] > least / 2
  }
  for (let k = 1; k < areaMm2.length; k++) {
    if (!jumpsIn(areaMm2, k, JUMP_MM2) && !jumpsIn(peelN, k, JUMP_MM2 * loads.releaseStressNMm2)) continue
    if (jumps.length === 0 || k - jumps[jumps.length - 1] > JUMP_OVER_LAYERS) jumps.push(k)
  }
  return Int32Array.from(jumps)
}

/** The signals as a table: a line of names with units, then a line a layer, counted from 0. */
export function signalsCsv(s: Signals, layerMm: number): string {
  const head = 'layer,z_mm,area_mm2,new_mm2,hanging_mm2,pieces,enclosed_mm2,peel_estimate_n,centre_x_mm,centre_y_mm,off_centre_mm,jump'
  const jumps = new Set(s.jumps)
  const number = (v: number, digits: number): string => (Number.isFinite(v) ? v.toFixed(digits) : '')
  const lines = Array.from(s.areaMm2, (area, k) => [
    k, ((k + 0.5) * layerMm).toFixed(4), number(area, 4), number(s.newMm2[k], 4), number(s.hangingMm2[k], 4), s.pieces[k], number(s.enclosedMm2[k], 4),
    number(s.peelN[k], 4), number(s.centerX[k], 3), number(s.centerY[k], 3), number(s.offCenterMm[k], 3), jumps.has(k) ? 1 : 0,
  ].join(','))
  return [head, ...lines].join('\n') + '\n'
}
