import RBush from 'rbush'
import { distance, type Vec3 } from '../mesh'
import { CELL_MM, type Room } from './room'
import { entryOf, leastDiameter, LEAN_TAN, together, type IsFree, type Twig, type TwigEntry } from './twig'

/** A shaft from the plate straight up, and what joins it, the highest first. */
export interface Trunk {
  readonly x: number
  readonly y: number
  readonly hangs: { readonly twig: Twig; readonly z: number }[]
}

/** How trunks are made. */
export interface TrunkSizes {
  /** Never thinner than this, mm. */
  readonly leastMm: number
  readonly footDiameterMm: number
  readonly footHeightMm: number
  readonly gapMm: number
  /** So many tips share a trunk at the most. */
  readonly mostTips: number
  /** A branch reaches so far across at the most, mm. */
  readonly reachMm: number
}

/** Places for trunks lie on a grid of this, mm. */
const GRID_MM = 1.25
/** The lowest joint, above the plate, mm; and how far a joint is below what comes straight down to it. */
const LOWEST_MM = 2, BELOW_MM = 0.4
/** A trunk ends so much lower than the cells around it say that there is room, for these are not exact, mm. */
const ROOM_SPARE_MM = 0.1
/** By itself a twig costs a hair more than the trunk that it would have: so one that nothing is shared with is planted too, mm³. */
const ALONE_MORE_MM3 = 0.01

/** A trunk begins as thick as a free stretch of this asks for, mm: it is braced above that, or made thicker where it cannot be. */
const STRETCH_MM = 24

/** How thick a trunk of a height is that carries some twigs, mm. */
export function trunkDiameter({ leastMm }: TrunkSizes, topMm: number, twigs: readonly Twig[]): number {
  return Math.max(leastMm, leastDiameter(Math.min(topMm, STRETCH_MM)), together(twigs.map(t => t.diameterMm)) * 0.75)
}
function trunkVolume(sizes: TrunkSizes, topMm: number, diameterMm: number): number {
  return (Math.PI / 4) * (diameterMm ** 2 * topMm + sizes.footDiameterMm ** 2 * sizes.footHeightMm)
}

interface Link {
  readonly twig: Twig
  readonly z: number
  readonly costMm3: number
}
interface Place {
  readonly x: number
  readonly y: number
  readonly links: readonly Link[]
}
/**
 * Chooses trunks for twigs: a trunk costs its resin and its foot, a twig the branch to the trunk that it joins; the place that saves most is
 * taken first, until none saves anything (facility location, greedily; what a place would save only becomes less, so it is reckoned again only
 * when it comes to the front). Gives the trunks, and twigs that none of them takes.
 * @param isFree whether beams keep clear of what stands already, and of the part where a gap is given; @param isTwigFree the same of all that hangs together above a place
 */
export function planted(twigs: readonly Twig[], room: Room, sizes: TrunkSizes, plate: readonly [number, number], isFree: IsFree, isTwigFree: (twig: Twig) => boolean, take: (trunk: Trunk) => void): { readonly trunks: Trunk[]; readonly rest: Twig[] } {
  const tree = new RBush<TwigEntry>().load(twigs.map(entryOf))
  const places = placesFor(twigs, room, sizes, plate, tree), open = new Set(twigs), trunks: Trunk[] = []
  const alone = aloneCosts(places, sizes)
  const saved = places.map(p => ({ place: p, saves: bestOf(p, open, sizes, alone).saves })).filter(s => s.saves > 0)
  let queue = saved.sort((a, b) => a.saves - b.saves || b.place.x - a.place.x || b.place.y - a.place.y)
  while (queue.length > 0 && open.size > 0) {
    const first = queue.pop() as (typeof queue)[number], now = bestOf(first.place, open, sizes, alone)
    if (now.saves <= 0) continue
    if (queue.length > 0 && now.saves < queue[queue.length - 1].saves) {
      insert(queue, { place: first.place, saves: now.saves })
      continue
    }
    const { x, y } = first.place, free = now.links.filter(l => isFree(l.twig.at, [x, y, l.z], Math.max(l.twig.diameterMm, leastDiameter(distance(l.twig.at, [x, y, l.z]))) / 2, l.twig.gapMm) && isTwigFree(l.twig))
    // a trunk that has much to carry is thicker, and has less height then
    const thick = trunkDiameter(sizes, free.reduce((z, l) => Math.max(z, l.z), 0), free.map(l => l.twig)), height = room.heightAt(x, y, thick / 2 + free.reduce((gap, l) => Math.max(gap, l.twig.gapMm), sizes.gapMm) + ROOM_SPARE_MM)
    const chosen = free.filter(l => l.z <= height), top = chosen.reduce((z, l) => Math.max(z, l.z), 0), diameter = trunkDiameter(sizes, top, chosen.map(l => l.twig))
    if (chosen.length === 0 || !isFree([x, y, 0], [x, y, top], Math.max(diameter, sizes.footDiameterMm * 0.6) / 2) || !isFree([x, y, sizes.footHeightMm], [x, y, top], diameter / 2, sizes.gapMm)) continue
    if (chosen.length < now.links.length && chosen.reduce((sum, l) => sum + (alone.get(l.twig) ?? 0) - l.costMm3, 0) <= trunkVolume(sizes, top, diameter)) continue
    for (const l of chosen) open.delete(l.twig)
    const trunk: Trunk = { x, y, hangs: chosen.map(({ twig, z }) => ({ twig, z })).sort((a, b) => b.z - a.z) }
    trunks.push(trunk)
    take(trunk)
    // what is left there may want a second one beside it
    queue = queue.filter(q => Math.hypot(q.place.x - x, q.place.y - y) > diameter + sizes.gapMm)
  }
  return { trunks, rest: [...open] }
}

/** Puts a place back where it belongs; the one that saves most is last. */
function insert(queue: { place: Place; saves: number }[], what: { place: Place; saves: number }): void {
  let low = 0, high = queue.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (queue[middle].saves < what.saves) low = middle + 1
    else high = middle
  }
  queue.splice(low, 0, what)
}

/** Places where a trunk can stand, and what can join it there. */
function placesFor(twigs: readonly Twig[], room: Room, sizes: TrunkSizes, plate: readonly [number, number], tree: RBush<TwigEntry>): Place[] {
  const { reachMm } = sizes, out: Place[] = [], spots = new Map<string, readonly [number, number]>(), clear = sizes.leastMm / 2 + sizes.gapMm + ROOM_SPARE_MM
  for (const { at: [x, y] } of twigs) {
    spots.set(`${x} ${y}`, [x, y])
    for (let i = Math.ceil((x - reachMm) / GRID_MM); i <= (x + reachMm) / GRID_MM; i++) for (let j = Math.ceil((y - reachMm) / GRID_MM); j <= (y + reachMm) / GRID_MM; j++) spots.set(`${i * GRID_MM} ${j * GRID_MM}`, [i * GRID_MM, j * GRID_MM])
  }
  for (const [x, y] of spots.values()) {
    if (Math.abs(x) > plate[0] - sizes.footDiameterMm / 2 || Math.abs(y) > plate[1] - sizes.footDiameterMm / 2) continue
    const height = room.heightAt(x, y, clear)
    if (height < LOWEST_MM || room.distanceAt(x, y, CELL_MM / 2) < sizes.footDiameterMm / 2) continue
    const links = tree.search({ minX: x - reachMm, minY: y - reachMm, maxX: x + reachMm, maxY: y + reachMm }).flatMap(({ twig }): Link[] => linkTo(twig, x, y, height, room, reachMm))
    if (links.length > 0) out.push({ x, y, links: links.sort((a, b) => a.z - b.z || a.costMm3 - b.costMm3) })
  }
  return out
}

/** How a twig joins a trunk, if it can. */
function linkTo(twig: Twig, x: number, y: number, height: number, room: Room, reachMm: number): Link[] {
  const [tx, ty, tz] = twig.at, across = Math.hypot(tx - x, ty - y)
  if (across > reachMm) return []
  const z = Math.min(height, tz - Math.max(BELOW_MM, across / LEAN_TAN))
  if (z < LOWEST_MM) return []
  const to: Vec3 = [x, y, z], length = distance(twig.at, to)
  if (leastDiameter(length) > twig.diameterMm * 1.6) return []
  if (length > 0.05 && !room.isClear(twig.at, to, twig.diameterMm / 2, twig.diameterMm / 2, twig.gapMm)) return []
  return [{ twig, z, costMm3: (Math.PI / 4) * Math.max(twig.diameterMm, leastDiameter(length)) ** 2 * length }]
}

/** What each twig costs on a trunk of its own, where that is cheapest. */
function aloneCosts(places: readonly Place[], sizes: TrunkSizes): Map<Twig, number> {
  const out = new Map<Twig, number>()
  for (const { links } of places) for (const { twig, z, costMm3 } of links) out.set(twig, Math.min(out.get(twig) ?? Infinity, ALONE_MORE_MM3 + costMm3 + trunkVolume(sizes, z, trunkDiameter(sizes, z, [twig]))))
  return out
}

/** What a trunk at a place would save with all that joins it up to some height, the best of them. */
function bestOf({ links }: Place, open: ReadonlySet<Twig>, sizes: TrunkSizes, alone: ReadonlyMap<Twig, number>): { readonly saves: number; readonly links: Link[] } {
  let best = 0, count = 0, sum = 0, tips = 0
  const chosen: Link[] = []
  for (const l of links) {
    if (!open.has(l.twig) || tips + l.twig.tips > sizes.mostTips) continue
    chosen.push(l)
    tips += l.twig.tips
    sum += (alone.get(l.twig) ?? 0) - l.costMm3
    const saves = sum - trunkVolume(sizes, l.z, trunkDiameter(sizes, l.z, chosen.map(c => c.twig)))
    if (saves <= best) continue
    best = saves
    count = chosen.length
  }
  return { saves: best, links: chosen.slice(0, count) }
}
