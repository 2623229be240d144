import { partOfRecord, type LedgeRecord } from '../reach/join-ledges'
import { layerOfLabel, labelOf, pieceOfLabel, type ReachPiece } from '../reach/reach-pieces'
import type { LoggedReach } from '../reach/reach-run'
import type { Evidence, OwnReach } from './types'

/** What hangs of one finding; areas and lengths in pixels. */
export interface Hanging {
  pixels: number
  /** Labels of its pieces of over-reach. */
  readonly labels: number[]
  /** Farthest of them from what holds it, and where. */
  reach: number
  farthest: { readonly piece: ReachPiece; readonly layer: number } | null
}

/** To which finding everything belongs that hangs: each pixel to one. */
export interface Belonging {
  /** By the island's number in the tree. */
  readonly islands: ReadonlyMap<number, Hanging>
  /** Ledges of the model alone, and what hangs of each now. */
  readonly ledges: readonly { readonly record: LedgeRecord; readonly rest: Hanging }[]
  /** Ledges that the model alone does not have: what hangs there began on a support. */
  readonly others: readonly LedgeRecord[]
  /** Over-reach too small for the list, and how many places that are; the ragged edges of what carries itself. */
  readonly small: { places: number; pixels: number }
  readonly raggedPixels: number
  /** Pixels that hang, by layer. */
  readonly byLayer: Float64Array
}

/** A bridge may have this share of ragged edge. */
const RAGGED_SHARE = 0.03

/** Whether it is held on opposite sides that are near enough, but for a ragged edge. */
export function selfSupporting(r: LedgeRecord, { raster, settings }: Evidence): boolean {
  const rest = r.pixels - r.bridged
  return rest <= Math.max(settings.flakeAreaMm2 / (raster.pixelMm * raster.pixelMm), r.pixels * RAGGED_SHARE)
}

/** The component of the model, through all layers, that a piece of over-reach lies in; −1 for none. */
function componentOf({ own }: Evidence, log: readonly (LoggedReach | null)[], label: number): number {
  const layer = layerOfLabel(label)
  const c = log[layer]?.components[pieceOfLabel(label)] ?? -1
  return c < 0 || layer >= own.layerCount ? -1 : own.solidStarts[layer] + c
}

/**
 * The island whose own matter a piece of over-reach is; −1 where it is a ledge. What an island lays before it joins the rest is its
 * own. Of one that never joins, such as a body, it is what widens from right above its first layer on: what juts out farther up is
 * a ledge of it.
 * @param bottom the island right above whose first layer the piece's record begins
 */
function islandOf(e: Evidence, component: number, bottom: number): number {
  const island = component < 0 ? -1 : e.tree.islandOf[component]
  return island < 0 || e.tree.islands[island].joinsLayer >= 0 || bottom === island ? island : -1
}

/** The island right above whose first layer a record begins, on it; −1 for none. */
function bottomOf(e: Evidence, log: readonly (LoggedReach | null)[], r: LedgeRecord): number {
  let first = Infinity
  for (const p of r.pieces) if (p.label < first) first = p.label
  const c = componentOf(e, log, first)
  const island = c < 0 ? -1 : e.tree.islandOf[c]
  return island >= 0 && (r.firstLayer - e.tree.islands[island].firstLayer) * e.raster.layerMm <= e.settings.flapMm ? island : -1
}

/** What the model alone has: its ledges, and by their labels the pieces that are an island's own though it never joins. */
function judgeOwn(e: Evidence, own: OwnReach): { ledges: LedgeRecord[]; islandOf: Map<number, number> } {
  const islands = new Map<number, number>()
  const ledges = own.records.flatMap(r => {
    if (selfSupporting(r, e)) return worthListing(e, r) ? [r] : []
    const bottom = bottomOf(e, own.log, r)
    const part = partOfRecord(r, own.log, label => {
      const island = islandOf(e, componentOf(e, own.log, label), bottom)
      if (island >= 0) islands.set(label, island)
      return island < 0
    })
    return part && worthListing(e, part) ? [part] : []
  })
  return { ledges, islandOf: islands }
}

function worthListing({ raster, settings }: Evidence, r: LedgeRecord): boolean {
  return r.pixels * raster.pixelMm ** 2 >= settings.ledgeAreaMm2
}

function nothing(): Hanging {
  return { pixels: 0, labels: [], reach: 0, farthest: null }
}

/**
 * Says of everything that hangs in model and supports to what it belongs.
 * @param records over-reach of model and supports
 * @param holders for every component of the model, whether what holds it together with the supports is grounded
 */
export function belonging(e: Evidence, records: readonly LedgeRecord[], stands: Uint8Array): Belonging {
  const { own, tree, reach, ownReach } = e
  const { ledges: listed, islandOf: ownIsland } = ownReach ? judgeOwn(e, ownReach) : { ledges: [], islandOf: new Map<number, number>() }
  const ledges = listed.map(record => ({ record, rest: nothing() }))
  const ledgeOf = new Map<number, number>()
  listed.forEach((r, i) => r.pieces.forEach(p => ledgeOf.set(p.label, i)))
  const islands = new Map<number, Hanging>()
  const others: LedgeRecord[] = []
  const small = { places: 0, pixels: 0 }
  let raggedPixels = 0
  const byLayer = new Float64Array(e.graph.layerCount)
  /** Pixels of every component of the model that hang over. */
  const taken = new Float64Array(own.solidPixels.length)

  const add = (to: Hanging, label: number, pixels: number): void => {
    const layer = layerOfLabel(label), piece = reach[layer]?.pieces[pieceOfLabel(label)]
    to.pixels += pixels
    to.labels.push(label)
    if (!piece || piece.reach <= to.reach) return
    to.reach = piece.reach
    to.farthest = { piece, layer }
  }
  const islandHanging = (island: number): Hanging => {
    let known = islands.get(island)
    if (!known) islands.set(island, (known = nothing()))
    return known
  }

  for (const r of records) {
    const ragged = selfSupporting(r, e), bottom = ragged ? -1 : bottomOf(e, reach, r)
    const strays = new Map<number, number>()
    let ledge = -1
    for (const { label, hanging } of r.pieces) {
      if (hanging === 0) continue
      const c = componentOf(e, reach, label)
      if (ragged) {
        // what is not connected to the plate hangs as a whole, whatever spans it
        if (c < 0 || stands[c]) {
          raggedPixels += hanging
          byLayer[layerOfLabel(label)] += hanging
        }
        continue
      }
      byLayer[layerOfLabel(label)] += hanging
      if (c >= 0) taken[c] += hanging
      const now = islandOf(e, c, bottom)
      const same = ownReach && !(now >= 0 && tree.islands[now].joinsLayer >= 0) ? sameIn(ownReach.log, reach, label) : -1
      const found = ledgeOf.get(same), island = ownIsland.get(same) ?? now
      if (found !== undefined) {
        ledge = found
        add(ledges[found].rest, label, hanging)
      } else if (island >= 0) add(islandHanging(island), label, hanging)
      else strays.set(label, hanging)
    }
    if (strays.size === 0) continue
    if (ledge >= 0) {
      // what hangs together with a ledge is part of it, though the model alone held it: it began there on nothing
      for (const [label, hanging] of strays) add(ledges[ledge].rest, label, hanging)
      continue
    }
    const part = partOfRecord(r, reach, label => strays.has(label))
    if (part && worthListing(e, part)) others.push(part)
    else {
      small.places++
      for (const hanging of strays.values()) small.pixels += hanging
    }
  }

  // what is not connected to the plate hangs, all that was laid of it
  const fresh = freshPixels(e)
  for (let k = 0; k < own.layerCount; k++) {
    for (let c = own.solidStarts[k]; c < own.solidStarts[k + 1]; c++) {
      const island = tree.islandOf[c]
      if (island < 0 || stands[c]) continue
      const rest = fresh[c] - taken[c]
      islandHanging(island).pixels += rest
      byLayer[k] += rest
    }
  }
  return { islands, ledges, others, small, raggedPixels, byLayer }
}

/** Pixels of every component of the model that have nothing of the model under them. */
export function freshPixels({ own }: Pick<Evidence, 'own'>): Float64Array {
  const fresh = Float64Array.from(own.solidPixels)
  for (let i = 0; i < own.solidUpper.length; i++) fresh[own.solidUpper[i]] -= own.solidOverlap[i]
  return fresh
}

/** The label of the model's own piece in which a piece of now lies; −1 for none. */
function sameIn(own: readonly (LoggedReach | null)[], now: readonly (LoggedReach | null)[], label: number): number {
  const layer = layerOfLabel(label)
  if (own[layer] === now[layer]) return label
  const piece = now[layer]?.pieces[pieceOfLabel(label)], runs = own[layer]?.runs
  if (!piece || !runs) return -1
  // runs come row by row, from left to right: the last one that begins no later
  let low = 0, high = runs.length / 4
  while (low < high) {
    const middle = (low + high) >> 1
    if (runs[4 * middle] < piece.firstRow || (runs[4 * middle] === piece.firstRow && runs[4 * middle + 1] <= piece.firstPixel)) low = middle + 1
    else high = middle
  }
  const i = 4 * (low - 1)
  return low > 0 && runs[i] === piece.firstRow && piece.firstPixel < runs[i + 2] ? labelOf(layer, runs[i + 3]) : -1
}
