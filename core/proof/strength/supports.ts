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
}

/**
 * The supports of a part as frames, one for each structure: feet on the plate do not move, tips and feet on the model move with it, what is
 * lost hangs free.
 * @param touches for each of some points of the skin the layer in which it is laid and the piece there
 */
export function supportFrames(index: PlanIndex, part: string, material: Material, touches: (points: readonly Vec3[]) => readonly { readonly layer: number; readonly piece: number }[]): SupportFrame[] {
  return [...index.structures().values()].filter(s => s.part === part).map(({ nodes: ids, beams: beamIds }) => {
    const nodes = ids.map(id => index.nodes.get(id) as PlanNode), place = new Map(ids.map((id, i) => [id, i])), beams = beamIds.map(id => index.beams.get(id) as PlanBeam)
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
    return { frame: new Frame(nodes.map(n => n.at), made, held, material), holds, nodes, beams }
  })
}

/** Whether a node is where a support meets the model. */
export function isTouching(n: PlanNode): boolean {
  return n.kind === 'tip' || (n.kind === 'foot' && n.on.kind === 'model')
}

/** Where a beam ends at a node: above the rim of a foot on the plate. */
function endOf(n: PlanNode): Vec3 {
  return n.kind === 'foot' && n.on.kind === 'plate' ? [n.at[0], n.at[1], n.fitted.footHeightMm] : n.at
}

/** How a frame resists what moves its ends in the model, all else being free: six by six for every pair of ends, row by row. */
export function resistanceOf(support: SupportFrame): Float64Array {
  const known = resistances.get(support) ?? new FrameFactor(support.frame, support.holds.map(h => h.node)).reduced()
  resistances.set(support, known)
  // whoever asks lets ends go in it
  return known.slice()
}
/** A proof asks for the same frames several times. */
const resistances = new WeakMap<SupportFrame, Float64Array>()
