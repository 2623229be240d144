import type { PlanBeam, PlanNode } from '../../contract'
import { sub, unit, type Vec3 } from '../../mesh'
import type { PlanIndex } from '../../stilts'
import { ALL, Frame, FrameFactor, type FrameBeam, type Material } from '../frame'

/** An end of a support in the model: it moves with the piece that it holds. */
export interface Hold {
  /** The node of the plan, and its number in the frame. */
  readonly id: string
  readonly node: number
  readonly at: Vec3
  /** Unit direction of the support there, into the model. */
  readonly axis: Vec3
  /** The layer in which it begins to hold, and the piece that is laid there; −1 where it touches nothing. */
  readonly layer: number
  readonly piece: number
}

/** Supports that hang together, as a frame. */
export interface SupportFrame {
  readonly frame: Frame
  readonly holds: readonly Hold[]
  /** Rows of the plan by their number in the frame. */
  readonly nodes: readonly PlanNode[]
  readonly beams: readonly PlanBeam[]
  /** Nodes where a brace ends that is left out, as it leads to others. */
  readonly tied: ReadonlySet<number>
}

/**
 * Ends in the model of supports that are reckoned as one at the most. Of more that are braced to each other, braces between some and others
 * are left out: so all is taken to be softer than it is, never stiffer.
 */
export const MOST_TOGETHER = 48
/** Fewer than that are not left to themselves, but go with those that the most braces tie them to. */
const LEAST_TOGETHER = 12

/**
 * The supports of a part as frames, one for each structure, or several where many are braced to each other: feet on the plate do not move,
 * tips and feet on the model move with it, what is lost hangs free.
 * @param touches for each of some points of the skin the layer in which it is laid and the piece there
 * @param known frames of before, which stay where none of their rows changed, nor what they are tied to others by
 * @param most ends that are reckoned as one
 */
export function supportFrames(index: PlanIndex, part: string, material: Material, touches: (points: readonly Vec3[]) => readonly { readonly layer: number; readonly piece: number }[], known: readonly SupportFrame[] = [], most = MOST_TOGETHER): SupportFrame[] {
  const before = new Map(known.map(s => [s.nodes[0].id, s]))
  return [...index.structures().values()].filter(s => s.part === part).flatMap(s => apart(index, s, most)).map(({ nodes: ids, beams: beamIds, tied }) => {
    const nodes = ids.map(id => index.nodes.get(id) as PlanNode), place = new Map(ids.map((id, i) => [id, i])), beams = beamIds.map(id => index.beams.get(id) as PlanBeam), same = before.get(ids[0]), ties = new Set(tied.map(id => place.get(id) as number))
    if (same?.nodes.length === nodes.length && same.beams.length === beams.length && nodes.every((n, i) => n === same.nodes[i]) && beams.every((b, i) => b === same.beams[i]) && sameSet(ties, same.tied)) return same
    const held = new Map<number, number>(), ends: number[] = []
    nodes.forEach((n, i) => {
      if (n.kind === 'foot' && n.on.kind === 'plate') held.set(i, ALL)
      else if (isTouching(n)) ends.push(i)
    })
    const made = beams.map((b): FrameBeam => {
      const a = place.get(b.from) as number, c = place.get(b.to) as number
      return { a, b: c, from: endOf(nodes[a]), to: endOf(nodes[c]), fromRadiusMm: b.fromDiameterMm / 2, toRadiusMm: b.toDiameterMm / 2 }
    })
    const laid = touches(ends.map(i => nodes[i].at)), axes = new Map<number, Vec3>()
    for (const { a, b, from, to } of made) {
      if (nodes[a].kind === 'tip') axes.set(a, unit(sub(from, to)))
      else if (nodes[b].kind === 'foot') axes.set(b, unit(sub(to, from)))
    }
    const holds = ends.map((node, i): Hold => ({ id: ids[node], node, at: nodes[node].at, axis: axes.get(node) ?? [0, 0, 1], ...laid[i] }))
    return { frame: new Frame(nodes.map(n => n.at), made, held, material), holds, nodes, beams, tied: ties }
  })
}

function sameSet(a: ReadonlySet<number>, b: ReadonlySet<number>): boolean {
  return a.size === b.size && [...a].every(n => b.has(n))
}

/** Nodes and beams that are reckoned as one. */
interface Together {
  readonly nodes: readonly string[]
  readonly beams: readonly string[]
  readonly tied: readonly string[]
}

/** Takes a structure apart where too many ends are braced to each other: between those stilts that the fewest braces tie. */
function apart(index: PlanIndex, { nodes, beams }: Pick<Together, 'nodes' | 'beams'>, most: number): Together[] {
  const isEnd = (id: string): boolean => isTouching(index.nodes.get(id) as PlanNode), count = nodes.filter(isEnd).length
  if (count <= most) return [{ nodes, beams, tied: [] }]
  const place = new Map(nodes.map((id, i) => [id, i])), parent = nodes.map((_, i) => i), ends = nodes.map(id => (isEnd(id) ? 1 : 0))
  const find = (i: number): number => {
    while (parent[i] !== i) i = parent[i] = parent[parent[i]]
    return i
  }
  const join = (a: number, b: number): void => {
    if (a === b) return
    parent[b] = a
    ends[a] += ends[b]
  }
  const all = beams.map(id => index.beams.get(id) as PlanBeam), rootOf = (node: string): number => find(place.get(node) as number)
  for (const b of all) if (b.kind !== 'brace') join(rootOf(b.from), rootOf(b.to))
  const ties = new Map<string, { readonly a: number; readonly b: number; count: number }>()
  for (const brace of all) {
    if (brace.kind !== 'brace') continue
    const [a, b] = [rootOf(brace.from), rootOf(brace.to)].sort((p, q) => p - q), tie = ties.get(`${a} ${b}`)
    if (tie) tie.count++
    else ties.set(`${a} ${b}`, { a, b, count: 1 })
  }
  const sorted = [...ties.values()].sort((p, q) => q.count - p.count)
  for (const mayJoin of [(one: number, other: number) => one + other <= most, (one: number, other: number) => Math.min(one, other) < LEAST_TOGETHER && one + other < most + LEAST_TOGETHER]) {
    for (const { a, b } of sorted) {
      const [one, other] = [find(a), find(b)]
      if (one !== other && mayJoin(ends[one], ends[other])) join(one, other)
    }
  }
  const out = new Map<number, { nodes: string[]; beams: string[]; tied: string[] }>()
  for (const id of nodes) {
    const root = rootOf(id), known = out.get(root)
    if (known) known.nodes.push(id)
    else out.set(root, { nodes: [id], beams: [], tied: [] })
  }
  for (const b of all) {
    const [from, to] = [out.get(rootOf(b.from)), out.get(rootOf(b.to))]
    if (from === to) from?.beams.push(b.id)
    else {
      from?.tied.push(b.from)
      to?.tied.push(b.to)
    }
  }
  return [...out.values()]
}

/** Whether a node is where a support meets the model. */
export function isTouching(n: PlanNode): boolean {
  return n.kind === 'tip' || (n.kind === 'foot' && n.on.kind === 'model')
}

/** Where a beam ends at a node: above the rim of a foot on the plate. */
function endOf(n: PlanNode): Vec3 {
  return n.kind === 'foot' && n.on.kind === 'plate' ? [n.at[0], n.at[1], n.fitted.footHeightMm] : n.at
}

/** How a frame resists what moves its ends in the model, all else being free: a block of six by six for every pair of ends, row by row. */
export function resistanceOf(support: SupportFrame): Float64Array {
  const known = resistances.get(support) ?? new FrameFactor(support.frame, support.holds.map(h => h.node)).reduced()
  resistances.set(support, known)
  // whoever asks lets ends go in it
  return known.slice()
}
/** A frame solved for. */
export function factorOf(support: SupportFrame): FrameFactor {
  const known = factors.get(support) ?? new FrameFactor(support.frame)
  factors.set(support, known)
  return known
}
/** A proof asks for the same frames several times. */
const factors = new WeakMap<SupportFrame, FrameFactor>()
const resistances = new WeakMap<SupportFrame, Float64Array>()
