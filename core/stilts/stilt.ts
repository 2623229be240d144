import type { Gauge, PlanBeam, PlanNode, Role } from '../contract'
import type { Vec3 } from '../mesh'

/** The sizes of one stilt, mm. */
export interface StiltSizes {
  readonly tipDiameterMm: number
  readonly penetrationMm: number
  readonly coneLengthMm: number
  readonly kneeDiameterMm: number
  readonly shaftFootDiameterMm: number
  readonly footDiameterMm: number
  /** Height of a foot on the plate; length of the cone of a foot on the model. */
  readonly footHeightMm: number
  /** How deep a foot on the model goes in; 0 on the plate. */
  readonly footPenetrationMm: number
}
export type SizeName = keyof StiltSizes

export const SIZE_NAMES: readonly SizeName[] = ['tipDiameterMm', 'penetrationMm', 'coneLengthMm', 'kneeDiameterMm', 'shaftFootDiameterMm', 'footDiameterMm', 'footHeightMm', 'footPenetrationMm']

/** One support as the person handles it, from its tip to its foot: a path through the graph of a plan. */
export interface Stilt {
  readonly id: number
  readonly gauge: string
  readonly role: Role
  readonly sizes: StiltSizes
  readonly byHand: readonly SizeName[]
  /** Where it touches, in the source's coordinates. */
  readonly contact: { readonly point: Vec3; readonly normal: Vec3 }
  /** Tip, knee, joints if any, foot; build coordinates. Above a foot on the model the last joint is where its cone begins. */
  readonly path: readonly Vec3[]
  /** On the plate, on the model (a stick), or `none` where no way down was found after a change of pose. */
  readonly foot: 'plate' | 'model' | 'none'
}

/** Nodes and beams of some stilts. */
export interface PlanGraph {
  readonly nodes: readonly PlanNode[]
  readonly beams: readonly PlanBeam[]
}

export function sizesOf(gauge: Gauge): StiltSizes {
  const { tipDiameterMm, penetrationMm, coneLengthMm, kneeDiameterMm, shaftFootDiameterMm, footDiameterMm, footHeightMm } = gauge
  return { tipDiameterMm, penetrationMm, coneLengthMm, kneeDiameterMm, shaftFootDiameterMm, footDiameterMm, footHeightMm, footPenetrationMm: 0 }
}

/** The nodes and beams of one stilt. Its inner nodes are named by their place on the path. */
export function graphOfStilt(stilt: Stilt): PlanGraph {
  const { id, sizes, path } = stilt
  const last = path.length - 1
  const at = (i: number): [number, number, number] => [path[i][0], path[i][1], path[i][2]]
  const name = (i: number): string => `${id}.${i === 0 ? 'tip' : i === last ? 'foot' : i === 1 ? 'knee' : `joint${i - 1}`}`
  const nodes: PlanNode[] = path.map((_, i): PlanNode => {
    const base = { id: name(i), stilt: id, at: at(i) }
    if (i === 0) {
      return {
        ...base, kind: 'tip', gauge: stilt.gauge, role: stilt.role, diameterMm: sizes.tipDiameterMm, penetrationMm: sizes.penetrationMm, byHand: [...stilt.byHand],
        contact: { point: [...stilt.contact.point], normal: [...stilt.contact.normal] },
      }
    }
    if (i === last) return { ...base, kind: 'foot', on: stilt.foot, diameterMm: sizes.footDiameterMm, heightMm: sizes.footHeightMm, ...(stilt.foot === 'model' && { penetrationMm: sizes.footPenetrationMm }) }
    return { ...base, kind: i === 1 ? 'knee' : 'joint' }
  })
  const beams: PlanBeam[] = []
  for (let i = 0; i < last; i++) {
    const stickFoot = stilt.foot === 'model' && i + 1 === last
    const t = stickFoot ? 1 : shaftShare(path, i), u = shaftShare(path, i + 1)
    beams.push({
      id: `${id}.${i === 0 ? 'cone' : `shaft${i}`}`, stilt: id, from: name(i), to: name(i + 1),
      fromDiameterMm: i === 0 ? sizes.tipDiameterMm : mix(sizes, t),
      toDiameterMm: i === 0 ? sizes.kneeDiameterMm : stickFoot ? sizes.footDiameterMm : mix(sizes, u),
    })
  }
  return { nodes, beams }
}

function mix(sizes: StiltSizes, t: number): number {
  return sizes.kneeDiameterMm + (sizes.shaftFootDiameterMm - sizes.kneeDiameterMm) * t
}

/** How far along the shaft, from knee (0) to foot (1), node i of a path lies. */
export function shaftShare(path: readonly Vec3[], i: number): number {
  let total = 0, before = 0
  for (let k = 1; k + 1 < path.length; k++) {
    const l = Math.hypot(path[k + 1][0] - path[k][0], path[k + 1][1] - path[k][1], path[k + 1][2] - path[k][2])
    if (k < i) before += l
    total += l
  }
  return total > 0 ? before / total : 0
}

/** The stilts of a graph, by number. Pieces that do not make a whole stilt are left out and counted. */
export function stiltsOfGraph(graph: PlanGraph): { stilts: Stilt[]; broken: number } {
  const nodes = new Map<string, PlanNode>(graph.nodes.map(n => [n.id, n]))
  const next = new Map<string, PlanBeam>(graph.beams.map(b => [b.from, b]))
  const stilts: Stilt[] = []
  let broken = 0
  for (const tip of graph.nodes) {
    if (tip.kind !== 'tip') continue
    const path: Vec3[] = [tip.at]
    const beams: PlanBeam[] = []
    let node: PlanNode = tip
    while (node.kind !== 'foot' && path.length < 64) {
      const beam = next.get(node.id)
      const to = beam && nodes.get(beam.to)
      if (!beam || !to) break
      beams.push(beam)
      path.push(to.at)
      node = to
    }
    if (node.kind !== 'foot' || path.length < 3) {
      broken++
      continue
    }
    const cone = Math.hypot(path[1][0] - path[0][0], path[1][1] - path[0][1], path[1][2] - path[0][2])
    stilts.push({
      id: tip.stilt, gauge: tip.gauge, role: tip.role, contact: tip.contact, path, foot: node.on,
      byHand: tip.byHand.filter((n): n is SizeName => (SIZE_NAMES as readonly string[]).includes(n)),
      sizes: {
        tipDiameterMm: tip.diameterMm, penetrationMm: tip.penetrationMm, coneLengthMm: cone,
        kneeDiameterMm: beams[0].toDiameterMm, shaftFootDiameterMm: node.on === 'model' ? beams[beams.length - 1].fromDiameterMm : beams[beams.length - 1].toDiameterMm,
        footDiameterMm: node.diameterMm, footHeightMm: node.heightMm, footPenetrationMm: node.penetrationMm ?? 0,
      },
    })
  }
  stilts.sort((a, b) => a.id - b.id)
  return { stilts, broken }
}

/** Length of the shaft from knee to foot, mm, and its largest lean from vertical, degrees. */
export function shaftOf(path: readonly Vec3[]): { lengthMm: number; leanDeg: number } {
  let lengthMm = 0, leanDeg = 0
  for (let i = 1; i + 1 < path.length; i++) {
    const a = path[i], b = path[i + 1]
    const across = Math.hypot(b[0] - a[0], b[1] - a[1]), down = a[2] - b[2]
    lengthMm += Math.hypot(across, down)
    leanDeg = Math.max(leanDeg, (Math.atan2(across, down) * 180) / Math.PI)
  }
  return { lengthMm, leanDeg }
}
