import { depthOf, layerOfLabel, pieceOfLabel, type ModelScan, type Bitmap } from '../scan'

/** Tips under one thing that hangs, at the most. */
const MOST_TIPS = 200

/** A pixel of a layer. */
export interface Spot {
  readonly pixel: number
  readonly row: number
  readonly layer: number
}

/** Places looked at, at the most, when tips are spread over what hangs. */
const MOST_SAMPLES = 3000

/** Places to try for tips, best first, and how many of them suffice. */
export interface Spots {
  readonly points: Spot[]
  readonly wanted: number
}

/** Spreads tips over pieces of over-reach, by their labels: where it reaches farthest first, then always what is farthest from all chosen. */
export function* hangingSpots(scan: ModelScan, hanging: readonly number[], reach: number, round: number): Generator<null, Spots, void> {
  const log = scan.reachLog
  const samples: Spot[] = []
  let deepest: { spot: Spot; reach: number } | null = null
  let pixels = 0
  for (const label of hanging) pixels += log[layerOfLabel(label)]?.pieces[pieceOfLabel(label)].pixels ?? 0
  const every = Math.max(1, Math.floor(pixels / MOST_SAMPLES))
  let count = 0
  for (const label of hanging) {
    yield null
    const layer = layerOfLabel(label), number = pieceOfLabel(label), entry = log[layer]
    if (!entry) continue
    const piece = entry.pieces[number]
    const spot = { pixel: piece.pixel, row: piece.row, layer }
    if (!deepest || piece.reach > deepest.reach) deepest = { spot, reach: piece.reach }
    for (let i = 0; i < entry.runs.length; i += 4) {
      if (entry.runs[i + 3] !== number) continue
      for (let x = entry.runs[i + 1]; x < entry.runs[i + 2]; x++) if (count++ % every === 0) samples.push({ pixel: x, row: entry.runs[i], layer })
    }
  }
  if (!deepest || samples.length === 0) return { points: [], wanted: 0 }
  const nearest = new Float64Array(samples.length).fill(Infinity)
  const points: Spot[] = [deepest.spot]
  // a little less than a tip holds, for its way there bends with the outline
  const near = reach * 0.85
  for (;;) {
    yield null
    const last = points[points.length - 1]
    let next = -1
    for (let i = 0; i < samples.length; i++) {
      const d = Math.hypot(samples[i].pixel - last.pixel, samples[i].row - last.row)
      if (d < nearest[i]) nearest[i] = d
      if (next < 0 || nearest[i] > nearest[next]) next = i
    }
    if (nearest[next] <= near || points.length >= MOST_TIPS) break
    points.push(samples[next])
  }
  const wanted = points.length
  // where no way leads down from one of them, the samples in between are tried, other ones in every round
  for (let i = round % 7; i < samples.length && points.length < wanted + 12; i += Math.max(1, Math.floor(samples.length / 12))) points.push(samples[i])
  return { points, wanted }
}

/** Pixels of a region that are looked at, about, when tips are spread over it; of a larger one every so many. */
const MOST_PIXELS = 40_000

/**
 * Spreads tips over a region: the deepest inside point first, then always the pixel farthest from all chosen, until all are in reach.
 * @param reach pixels
 */
export function* spread(region: Bitmap, layer: number, reach: number, round: number): Generator<null, Spots, void> {
  const { width, bits } = region
  const depth = depthOf(region)
  yield null
  let inside = 0, deepest = -1
  for (let i = 0; i < bits.length; i++) {
    if (!bits[i]) continue
    inside++
    if (deepest < 0 || depth[i] > depth[deepest]) deepest = i
  }
  if (deepest < 0) return { points: [], wanted: 0 }
  // a raster of its own on a large region, and all of its edge, which is what is farthest at last
  const every = Math.max(1, Math.floor(Math.sqrt(inside / MOST_PIXELS)))
  const at: number[] = []
  for (let i = 0; i < bits.length; i++) if (bits[i] && (every === 1 || (i % width) % every + (Math.floor(i / width) % every) === 0 || depth[i] === 1)) at.push(i)
  const nearest = new Float64Array(at.length).fill(Infinity)
  const points: Spot[] = []
  let wanted = 0, best = deepest
  const spare = 10
  while (best >= 0 && points.length < MOST_TIPS) {
    yield null
    const bx = best % width, by = Math.floor(best / width)
    points.push({ pixel: bx + region.pixel0, row: by + region.row0, layer })
    let next = -1, farthest = 0
    for (let n = 0; n < at.length; n++) {
      const i = at[n], x = i % width, y = (i - x) / width
      const d = Math.sqrt((x - bx) * (x - bx) + (y - by) * (y - by))
      if (d < nearest[n]) nearest[n] = d
      if (nearest[n] > farthest) farthest = nearest[n]
      // of pixels about as far, the deeper one inside carries better
      if (nearest[n] > 0 && (next < 0 || nearest[n] + Math.min(depth[i], 6) > nearest[next] + Math.min(depth[at[next]], 6))) next = n
    }
    if (wanted === 0 && farthest <= reach) wanted = points.length
    if (wanted > 0 && points.length >= wanted + spare) break
    best = next < 0 ? -1 : at[next]
  }
  if (wanted === 0) wanted = points.length
  // a later round starts elsewhere
  const turned = round > 0 ? [...points.slice(round), ...points.slice(0, round)] : points
  return { points: turned, wanted }
}
