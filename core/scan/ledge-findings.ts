import type { Evidence, FindingState } from './findings'
import type { LedgeRecord } from './ledges'
import { labelOf, layerOfLabel, pieceOfLabel } from './reach-pieces'
import type { LoggedReach } from './reach-run'

type Point = readonly [number, number, number]

/** A region that is attached to held material but reaches too far out from it, or spans too wide. */
export interface Ledge {
  readonly id: number
  readonly kind: 'ledge' | 'bridge'
  readonly firstLayer: number
  readonly lastLayer: number
  /** Farthest that it reaches from what holds it, without supports. */
  readonly reachMm: number
  /** Area that hangs without supports, seen from above. */
  readonly areaMm2: number
  /** Where it is held on opposite sides: the distance between them where it is narrowest; null where it is not. */
  readonly spanMm: number | null
  /** Noted where it carries itself. */
  readonly state: FindingState
  /** Share of that area that supports bring within reach, 0 to 1; what carries itself is held whole. */
  readonly heldShare: number
  /** Area that still hangs, and how far it reaches. */
  readonly hangingMm2: number
  readonly hangingReachMm: number
  /** Its farthest point without supports, build coordinates: what it is known by. */
  readonly at: Point
  /** The farthest point of what still hangs; as `at` where nothing does. */
  readonly worst: Point
  readonly hanging: readonly number[]
}

/** Over-reach of the model alone: what supports are to hold. */
export interface OwnReach {
  readonly log: readonly (LoggedReach | null)[]
  readonly records: readonly LedgeRecord[]
}

/** A bridge may have this share of ragged edge. */
const RAGGED_SHARE = 0.03
/** More than this share has to be within reach for a ledge to count as held in part. */
const LEAST_HELD = 0.01

/** Whether it is held on opposite sides that are near enough, but for a ragged edge. */
export function selfSupporting(r: LedgeRecord, { raster, settings }: Evidence): boolean {
  const rest = r.pixels - r.bridged
  return rest <= Math.max(settings.flakeAreaMm2 / (raster.pixelMm * raster.pixelMm), r.pixels * RAGGED_SHARE)
}

/** The island of the model that a piece of over-reach belongs to; −1 for none. */
export function islandOfPiece({ own, tree }: Evidence, log: readonly (LoggedReach | null)[], label: number): number {
  const layer = layerOfLabel(label)
  const c = log[layer]?.components[pieceOfLabel(label)] ?? -1
  return c < 0 || layer >= own.layerCount ? -1 : tree.islandOf[own.solidStarts[layer] + c]
}

/** What widens right above the first layer of an island is the island's own matter, not a ledge. */
export function ownBottom(e: Evidence, log: readonly (LoggedReach | null)[], r: LedgeRecord): boolean {
  const first = r.pieces.reduce((a, p) => Math.min(a, p.label), Infinity)
  const island = islandOfPiece(e, log, first)
  if (island < 0) return false
  return (r.firstLayer - e.tree.islands[island].firstLayer) * e.raster.layerMm <= e.settings.flapMm
}

/**
 * The ledges: those of the model alone, each with what supports leave hanging of it, so that a ledge stays what it is and where
 * it is while stilts come and go. As long as the model alone has not been measured, what hangs now stands for it.
 * @param records over-reach of model and supports
 */
export function ledgesOf(e: Evidence, records: readonly LedgeRecord[]): Ledge[] {
  const own = e.ownReach
  const ledges = own ? judged(e, own, records) : records.filter(r => isListed(e, e.reach, r)).map((r, id) => ledgeOf(e, r, id, null))
  return ledges.sort((a, b) => Number(a.state === 'noted') - Number(b.state === 'noted') || b.areaMm2 - a.areaMm2 || a.id - b.id)
}

function isListed(e: Evidence, log: readonly (LoggedReach | null)[], r: LedgeRecord): boolean {
  return r.pixels * e.raster.pixelMm ** 2 >= e.settings.ledgeAreaMm2 && !ownBottom(e, log, r)
}

/** What still hangs of a ledge; lengths and areas in pixels. */
interface Rest {
  pixels: number
  reach: number
  at: Point | null
  readonly labels: number[]
}

function judged(e: Evidence, own: OwnReach, records: readonly LedgeRecord[]): Ledge[] {
  const listed = own.records.filter(r => isListed(e, own.log, r))
  const ownerOf = new Map<number, number>()
  listed.forEach((r, i) => {
    for (const p of r.pieces) ownerOf.set(p.label, i)
  })
  const rests = listed.map((): Rest => ({ pixels: 0, reach: 0, at: null, labels: [] }))
  const others: LedgeRecord[] = []
  for (const r of records) {
    if (selfSupporting(r, e)) continue
    const strays: number[] = []
    let owner = -1
    for (const [i, { label, hanging }] of r.pieces.entries()) {
      if (hanging === 0) continue
      const found = ownerOf.get(sameIn(own.log, e.reach, label))
      if (found === undefined) strays.push(i)
      else {
        owner = found
        add(rests[found], e, r.pieces[i])
      }
    }
    // what hangs together with a ledge is part of it, though the model alone held it: it began there on nothing
    if (owner >= 0 && !ownBottom(e, e.reach, r)) for (const i of strays) add(rests[owner], e, r.pieces[i])
    else if (owner < 0 && isListed(e, e.reach, r)) others.push(r)
  }
  return [...listed.map((r, id) => ledgeOf(e, r, id, rests[id])), ...others.map((r, i) => ledgeOf(e, r, listed.length + i, null))]
}

/** The label of the model's own piece in which a piece of now lies; −1 for none. */
function sameIn(own: readonly (LoggedReach | null)[], now: readonly (LoggedReach | null)[], label: number): number {
  const layer = layerOfLabel(label)
  const piece = now[layer]?.pieces[pieceOfLabel(label)], runs = own[layer]?.runs
  if (!piece || !runs) return -1
  for (let i = 0; i < runs.length; i += 4) {
    if (runs[i] === piece.firstRow && runs[i + 1] <= piece.firstPixel && piece.firstPixel < runs[i + 2]) return labelOf(layer, runs[i + 3])
  }
  return -1
}

function add(rest: Rest, e: Evidence, { label, hanging }: LedgeRecord['pieces'][number]): void {
  const piece = e.reach[layerOfLabel(label)]?.pieces[pieceOfLabel(label)]
  if (!piece) return
  rest.pixels += hanging
  rest.labels.push(label)
  if (piece.reach <= rest.reach) return
  rest.reach = piece.reach
  rest.at = pointOf(e, piece.pixel, piece.row, layerOfLabel(label))
}

function pointOf({ raster: { pixelMm, layerMm } }: Evidence, pixel: number, row: number, layer: number): Point {
  return [(pixel + 0.5) * pixelMm, (row + 0.5) * pixelMm, (layer + 0.5) * layerMm]
}

/** @param rest what still hangs of it; null where all of it does */
function ledgeOf(e: Evidence, r: LedgeRecord, id: number, rest: Rest | null): Ledge {
  const { pixelMm } = e.raster, pixelArea = pixelMm * pixelMm
  const selfHeld = selfSupporting(r, e), spanMm = r.span * pixelMm
  const pixels = selfHeld ? r.pixels : r.pixels - r.bridged
  const at = pointOf(e, r.pixel, r.row, r.layer)
  const left = selfHeld ? 0 : Math.min(pixels, rest?.pixels ?? pixels)
  const all = selfHeld || !rest || left >= pixels * (1 - LEAST_HELD)
  // what is as small as a flake does not count, here as for islands
  const held = left * pixelArea <= e.settings.flakeAreaMm2
  return {
    id, kind: selfHeld || spanMm > e.settings.spanMm ? 'bridge' : 'ledge', firstLayer: r.firstLayer, lastLayer: r.lastLayer,
    reachMm: r.reach * pixelMm, areaMm2: pixels * pixelArea, spanMm: r.span > 0 ? spanMm : null,
    state: selfHeld ? 'noted' : held ? 'held' : all ? 'open' : 'partly',
    heldShare: 1 - left / Math.max(1, pixels), hangingMm2: left * pixelArea, hangingReachMm: selfHeld ? 0 : (rest ? rest.reach : r.reach) * pixelMm,
    at, worst: rest?.at ?? at,
    hanging: rest && !selfHeld ? rest.labels : r.pieces.filter(p => selfHeld || p.hanging > 0).map(p => p.label),
  }
}
