import type { OlderBeam, OlderNode, OlderPose, PlanBeam, PlanNode } from '../contract'
import { add, distance, sub, unit, type Vec3 } from '../mesh'
import { rotationOf } from '../pose'
import { FOOT_SIZES, type SizeName } from './stilt'

/** The sizes of a tip that older plans had. */
const NUMBERS_OF_TIP = ['tipDiameterMm', 'penetrationMm', 'coneLengthMm', 'kneeDiameterMm'] as const

/** How an older plan is to be read. */
export interface OlderFrame {
  readonly part: string
  /** The pose it was made in; null where the part stood as in its file. */
  readonly pose: OlderPose | null
  /** From the build coordinates of then to the stand of the part. */
  toStand(at: Vec3): Vec3
}

/** Longest way from tip to foot that older plans had. */
const LONGEST = 64

/** Rows of a plan from when a job was one part. Ids stay; nothing is left out but beams whose ends are not there. */
export function rowsOfOlder(nodes: readonly OlderNode[], beams: readonly OlderBeam[], { part, pose, toStand }: OlderFrame): { nodes: PlanNode[]; beams: PlanBeam[] } {
  const byId = new Map(nodes.map(n => [n.id, n])), next = new Map(beams.map(b => [b.from, b]))
  const r = pose ? rotationOf(pose) : [1, 0, 0, 0, 1, 0, 0, 0, 1]
  const toSource = (d: Vec3): Vec3 => [r[0] * d[0] + r[3] * d[1] + r[6] * d[2], r[1] * d[0] + r[4] * d[1] + r[7] * d[2], r[2] * d[0] + r[5] * d[1] + r[8] * d[2]]
  const ways = new Map<string, { tip: Extract<OlderNode, { kind: 'tip' }>; nodes: OlderNode[]; beams: OlderBeam[] }>()
  for (const tip of nodes) {
    if (tip.kind !== 'tip') continue
    const way = { tip, nodes: [tip] as OlderNode[], beams: [] as OlderBeam[] }
    for (let node: OlderNode = tip; node.kind !== 'foot' && way.nodes.length < LONGEST;) {
      const beam = next.get(node.id), to = beam && byId.get(beam.to)
      if (!beam || !to) break
      way.beams.push(beam)
      way.nodes.push(to)
      node = to
    }
    ways.set(tip.id, way)
    ways.set(way.nodes[way.nodes.length - 1].id, way)
  }
  const put = (n: OlderNode): PlanNode => {
    const at = toStand(n.at), base = { id: n.id, part, at: [at[0], at[1], at[2]] as [number, number, number], pinned: false }
    if (n.kind === 'knee' || n.kind === 'joint') return { ...base, kind: n.kind }
    const way = ways.get(n.id)
    if (n.kind === 'tip') {
      const fitted = {
        tipShape: 'cone' as const, tipDiameterMm: n.diameterMm, penetrationMm: n.penetrationMm,
        coneLengthMm: Math.max(1e-3, way && way.nodes.length > 1 ? distance(way.nodes[0].at, way.nodes[1].at) : 1), kneeDiameterMm: way?.beams[0]?.toDiameterMm ?? n.diameterMm,
      }
      return { ...base, kind: 'tip', number: n.stilt, anchor: n.contact, gauge: n.gauge, role: n.role, own: chosen(fitted, NUMBERS_OF_TIP, n.byHand), fitted }
    }
    const lastBeam = way?.beams[way.beams.length - 1]
    const fitted = {
      shaftFootDiameterMm: (n.on === 'model' ? lastBeam?.fromDiameterMm : lastBeam?.toDiameterMm) ?? n.diameterMm,
      footDiameterMm: n.diameterMm, footHeightMm: n.heightMm, footPenetrationMm: n.penetrationMm ?? 0,
    }
    const own = chosen(fitted, FOOT_SIZES, way?.tip.byHand ?? [])
    if (n.on !== 'model' || !way) return { ...base, kind: 'foot', own, fitted, on: n.on === 'none' ? { kind: 'lost', reason: 'It found no way down after the part was posed anew.' } : { kind: 'plate' } }
    // where the face lay that it stands on follows from the tip; its normal was not kept, the way in says it about
    const { tip, nodes: along } = way, before = along[along.length - 2].at
    const point = add(tip.contact.point, toSource(sub(n.at, tip.at))), normal = toSource(unit(sub(before, n.at)))
    return { ...base, kind: 'foot', own, fitted, on: { kind: 'model', anchor: { point: [...point], normal: [...normal] } } }
  }
  return {
    nodes: nodes.map(put),
    beams: beams.flatMap((b): PlanBeam[] => {
      const from = byId.get(b.from)
      if (!from || !byId.has(b.to)) return []
      return [{ id: b.id, part, kind: from.kind === 'tip' ? 'cone' : 'shaft', from: b.from, to: b.to, fromDiameterMm: b.fromDiameterMm, toDiameterMm: b.toDiameterMm }]
    }),
  }
}

/** Those sizes that were set by hand. */
function chosen<N extends SizeName>(fitted: { readonly [K in N]: number }, names: readonly N[], byHand: readonly string[]): { [K in N]?: number } {
  return Object.fromEntries(names.filter(n => byHand.includes(n)).map(n => [n, fitted[n]])) as { [K in N]?: number }
}
