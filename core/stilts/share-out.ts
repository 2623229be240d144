import { newId, type Change, type Gauge, type PlanBeam, type PlanNode, type SourcePoint } from '../contract'
import { fromSource, type Stand } from '../pose'
import { carriedAlong, shiftBetween } from './carry'
import { changeOfStilts } from './plan-change'
import type { PlanIndex } from './plan-index'
import { reseatStilts } from './reseat'
import { reseatTrees } from './reseat-trees'
import type { Plate } from './route'
import { isTied } from './edit'
import { rowsOfStilt, type Stilt } from './stilt'
import type { Surface } from './surface'

/** A part that stilts come to stand under, and the plate as it sees it. */
export interface Host {
  readonly part: string
  readonly surface: Surface
  readonly plate: Plate
}

/** What came of sharing stilts out. */
export interface SharedOut {
  readonly change: Pick<Change, 'put' | 'drop'>
  /** Stilts that went to another part. */
  readonly moved: number
  /** Stilts that could not stay as they were, and found another way. */
  readonly anew: number
  /** Stilts that have nothing to hold, or nothing to stand on, any more. */
  readonly lost: number
  /** Braces and props that have no room any more. */
  readonly braces: number
}

/** Skin farther away than this is not what a stilt touches, mm. */
const FARTHEST_MM = 5

/** A part that stilts stood under, and how it stood. */
export interface StoodUnder {
  readonly part: string
  readonly stand: Stand
}

/**
 * Shares the stilts of some parts out among the parts that come after them, as where one is drilled, cut in two, or two are joined: each
 * goes to the part whose skin it touches, what hangs together with most of its tips. It stays as it is, moved along with the part, where
 * it can stand so; else it is seated anew. What touches or stands on nothing any more is kept without a foot, with the reason.
 */
export function shareOut(index: PlanIndex, before: readonly StoodUnder[], hosts: readonly Host[], gauges: readonly Gauge[]): SharedOut {
  const put = { nodes: [] as PlanNode[], beams: [] as PlanBeam[] }, drop = { nodes: [] as string[], beams: [] as string[] }
  const take = (change: Pick<Change, 'put' | 'drop'>): void => {
    put.nodes.push(...(change.put?.nodes ?? []))
    put.beams.push(...(change.put?.beams ?? []))
    drop.nodes.push(...(change.drop?.nodes ?? []))
    drop.beams.push(...(change.drop?.beams ?? []))
  }
  const numbers = new Map(hosts.map(h => [h.part, new Set(index.stiltsOf(h.part).map(s => s.number))]))
  const numberOn = ({ part }: Host, wanted: number): number => {
    const used = numbers.get(part) as Set<number>, number = used.has(wanted) ? Math.max(0, ...used) + 1 : wanted
    used.add(number)
    return number
  }
  let moved = 0, anew = 0, lost = 0, braces = 0
  for (const group of groupsOf(index, before.map(b => b.part))) {
    const host = hosts[hostOf(group, hosts)], { surface, plate } = host, stays = group[0].part === host.part, stood = before.find(b => b.part === group[0].part)
    if (!stays) moved += group.length
    const shift = stood && shiftBetween(stood.stand, surface.stand), structure = structureOf(index, group), carried = shift && carriedAlong(surface, index, group, structure.nodes, shift, gauges)
    if (carried) {
      if (!stays) take({ drop: structure, put: elsewhere(index, structure, { put: { nodes: carried } }, host.part, n => numberOn(host, n)) })
      else if (shift.some(v => v !== 0)) take({ put: { nodes: carried } })
      continue
    }
    if (group.length === 1 && !isTied(group[0])) {
      const [stilt] = group, [seated] = reseatStilts(surface, group, gauges, plate)
      if (seated.foot !== 'lost') anew++
      else if (stilt.foot !== 'lost') lost++
      take(stays ? changeOfStilts(index, host.part, '', { put: [{ stilt, shape: seated }] }) : changeOfStilts(index, stilt.part, '', { drop: group }))
      if (!stays) take({ put: rowsOfStilt({ ...seated, spread: undefined }, { part: host.part, number: numberOn(host, stilt.number) }) })
      continue
    }
    const trees = reseatTrees(surface, index, group.map(s => s.id), gauges, plate)
    lost += trees.lost
    anew += group.length - trees.lost
    braces += trees.braces
    if (stays) take(trees.change)
    else take({ drop: structure, put: elsewhere(index, structure, trees.change, host.part, n => numberOn(host, n)) })
  }
  return { change: { put, drop }, moved, anew, lost, braces }
}

/** To which of some hosts a point of the source belongs: whose skin is nearest; the first where none is near. */
export function nearestHost(hosts: readonly Pick<Host, 'surface'>[], point: SourcePoint): number {
  let best = 0, least = Infinity
  hosts.forEach(({ surface }, i) => {
    const far = surface.nearest(fromSource(surface, point), FARTHEST_MM)?.distanceMm ?? Infinity
    if (far < least - 1e-6) {
      least = far
      best = i
    }
  })
  return best
}

/** Stilts of some parts by what hangs together. */
function groupsOf(index: PlanIndex, parts: readonly string[]): Stilt[][] {
  const groups = new Map<string, Stilt[]>()
  for (const s of parts.flatMap(part => index.stiltsOf(part))) {
    const id = index.structureAt(s.id)?.id ?? s.id, group = groups.get(id)
    if (group) group.push(s)
    else groups.set(id, [s])
  }
  return [...groups.values()]
}

/** The host that most tips touch; where as many touch several, the part that the stilts belong to. */
function hostOf(group: readonly Stilt[], hosts: readonly Host[]): number {
  const votes = hosts.map((h): number => (h.part === group[0].part ? 0.5 : 0))
  for (const s of group) votes[nearestHost(hosts, s.anchor.point)]++
  return votes.indexOf(Math.max(...votes))
}

function structureOf(index: PlanIndex, group: readonly Stilt[]): { nodes: string[]; beams: string[] } {
  const all = group.map(s => index.structureAt(s.id)), once = (ids: readonly string[]): string[] => [...new Set(ids)]
  return { nodes: once(all.flatMap(s => [...(s?.nodes ?? [])])), beams: once(all.flatMap(s => [...(s?.beams ?? [])])) }
}

/** What a structure comes to by a change, as rows of another part, with ids of their own. */
function elsewhere(index: PlanIndex, of: { readonly nodes: readonly string[]; readonly beams: readonly string[] }, { put, drop }: Pick<Change, 'put' | 'drop'>, part: string, numberOn: (wanted: number) => number): { nodes: PlanNode[]; beams: PlanBeam[] } {
  const ids = new Map<string, string>(), named = (id: string): string => {
    const known = ids.get(id) ?? newId()
    ids.set(id, known)
    return known
  }
  const nodes = new Map(of.nodes.flatMap(id => index.nodes.get(id) ?? []).map(n => [n.id, n])), beams = new Map(of.beams.flatMap(id => index.beams.get(id) ?? []).map(b => [b.id, b]))
  for (const id of drop?.nodes ?? []) nodes.delete(id)
  for (const id of drop?.beams ?? []) beams.delete(id)
  for (const n of put?.nodes ?? []) nodes.set(n.id, n)
  for (const b of put?.beams ?? []) beams.set(b.id, b)
  return {
    nodes: [...nodes.values()].map((n): PlanNode => {
      if (n.kind !== 'tip') return { ...n, id: named(n.id), part }
      // the spread that it was placed with stays with its part
      const tip = { ...n, id: named(n.id), part, number: numberOn(n.number) }
      delete tip.spread
      return tip
    }),
    beams: [...beams.values()].map(b => ({ ...b, id: named(b.id), part, from: named(b.from), to: named(b.to) })),
  }
}
