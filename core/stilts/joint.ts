import { newId, type PlanBeam, type PlanNode } from '../contract'
import { between, distance, type Vec3 } from '../mesh'
import type { PlanIndex } from './plan-index'
import type { PlanRows, Stilt } from './stilt'
import { axisOf } from './axis'

/** Places along a shaft that are tried, mm from each other. */
const STEP_MM = 0.4
/** A joint this near is taken as it is, mm. */
export const SAME_JOINT_MM = 0.3
/** No joint comes so near to a knee or a foot, mm. */
const CLEAR_OF_ENDS_MM = 0.4

/** A place on a stilt where something can join. */
export interface Joint {
  readonly host: Stilt
  /** Segment of the host's way, counted from its cone; and the place along its axis, 0 to 1. */
  readonly segment: number
  readonly share: number
  readonly at: Vec3
}

/** Where joints can be put into a stilt: below its knee and above its foot, in what is its own, each segment by its first and last share. */
function* runsOf(host: Stilt): Generator<{ readonly segment: number; readonly from: Vec3; readonly to: Vec3; readonly first: number; readonly last: number }, void, void> {
  const axis = axisOf(host), last = axis.length - 1
  // a foot on the model has a cone of its own, which nothing joins
  for (let segment = 1; segment < Math.min(host.alone, host.foot === 'model' ? last - 1 : last); segment++) {
    const from = axis[segment], to = axis[segment + 1], length = distance(from, to), clear = Math.min(0.5, CLEAR_OF_ENDS_MM / (length || 1))
    yield { segment, from, to, first: segment === 1 ? clear : 0, last: segment === last - 1 || segment === host.alone - 1 || host.foot === 'model' ? 1 - clear : 1 }
  }
}

/** Places of a stilt where something could join, from the top down. */
export function* placesOn(host: Stilt): Generator<Joint, void, void> {
  for (const { segment, from, to, first, last } of runsOf(host)) {
    const step = STEP_MM / (distance(from, to) || 1)
    for (let share = first; share < last; share += step) yield { host, segment, share, at: between(from, to, share) }
  }
}

/** The place of a stilt at a height where something can join; null where there is none. */
export function placeAtHeight(host: Stilt, zMm: number): Joint | null {
  for (const { segment, from, to, first, last } of runsOf(host)) {
    const share = (zMm - from[2]) / (to[2] - from[2])
    if (share >= first && share <= last) return { host, segment, share, at: between(from, to, share) }
  }
  return null
}

/** The place of a stilt that is nearest to a point, where something can join; null where it has none. */
export function placeNear(host: Stilt, point: Vec3): Joint | null {
  let best: Joint | null = null
  for (const { segment, from, to, first, last } of runsOf(host)) {
    const along = distance(from, to) ** 2
    const t = along > 0 ? ((point[0] - from[0]) * (to[0] - from[0]) + (point[1] - from[1]) * (to[1] - from[1]) + (point[2] - from[2]) * (to[2] - from[2])) / along : 0
    const share = Math.max(first, Math.min(last, t)), at = between(from, to, share)
    if (!best || distance(at, point) < distance(best.at, point)) best = { host, segment, share, at }
  }
  return best
}

/** How far down its own shaft a place of a stilt is, from its knee (0) to its end (1). */
export function shareOfPlace(host: Stilt, at: Vec3): number {
  const runs = [...runsOf(host)], total = runs.reduce((sum, r) => sum + distance(r.from, r.to), 0)
  const place = placeNear(host, at)
  if (!place || total === 0) return 0
  const before = runs.filter(r => r.segment < place.segment).reduce((sum, r) => sum + distance(r.from, r.to), 0), own = runs.find(r => r.segment === place.segment)
  return (before + (own ? distance(own.from, own.to) * place.share : 0)) / total
}

/** The place so far down the shaft of a stilt; null where it has none where something can join. */
export function placeAtShare(host: Stilt, share: number): Joint | null {
  const runs = [...runsOf(host)], total = runs.reduce((sum, r) => sum + distance(r.from, r.to), 0)
  let left = share * total
  for (const { segment, from, to, first, last } of runs) {
    const length = distance(from, to)
    if (left <= length || segment === runs[runs.length - 1].segment) {
      const at = Math.max(first, Math.min(last, length > 0 ? left / length : 0))
      return { host, segment, share: at, at: between(from, to, at) }
    }
    left -= length
  }
  return null
}

/** From the lowest to the highest place of a stilt where something can join, mm; null where there is none. */
export function heightsOf(host: Stilt): readonly [number, number] | null {
  const ends = [...runsOf(host)].flatMap(({ from, to, first, last }) => [between(from, to, first)[2], between(from, to, last)[2]])
  return ends.length > 0 ? [Math.min(...ends), Math.max(...ends)] : null
}

/** A place as a stilt is by now: where it was changed since, the nearest place of it; and the joint or knee that is there already, if there is one. */
export function placeNow(index: PlanIndex, joint: Joint): Joint {
  const now = index.stilt(joint.host.id), place = now && now !== joint.host ? (placeNear(now, joint.at) ?? joint) : joint, beam = index.beams.get(place.host.beams[place.segment])
  const there = beam && [index.nodes.get(beam.from), index.nodes.get(beam.to)].find(n => n && n.kind !== 'tip' && n.kind !== 'foot' && distance(n.at, place.at) < SAME_JOINT_MM)
  return there ? { ...place, at: there.at } : place
}

/** A joint that was put in, or was there already. */
export interface PutJoint {
  readonly id: string
  readonly at: Vec3
}

/**
 * The rows that put joints into beams of stilts, all at once; none where there is a joint or a knee already. The uppermost piece of a beam
 * stays the beam that it was. Where a stilt was changed since a place was found, the nearest place of it is meant.
 * @returns with the rows, the joint of each place, in their order
 */
export function jointsInto(index: PlanIndex, places: readonly Joint[]): PlanRows & { readonly joints: readonly PutJoint[] } {
  const byBeam = new Map<string, { readonly place: Joint; readonly i: number }[]>(), joints: PutJoint[] = []
  places.forEach((joint, i) => {
    const place = placeNow(index, joint), id = place.host.beams[place.segment], list = byBeam.get(id)
    if (list) list.push({ place, i })
    else byBeam.set(id, [{ place, i }])
  })
  const nodes: PlanNode[] = [], beams: PlanBeam[] = []
  for (const [id, list] of byBeam) {
    const beam = index.beams.get(id) as PlanBeam, from = index.nodes.get(beam.from) as PlanNode, to = index.nodes.get(beam.to) as PlanNode
    const put: { readonly node: PlanNode; readonly diameterMm: number }[] = []
    for (const { place, i } of list.sort((a, b) => a.place.share - b.place.share)) {
      const { at, share } = place, last = put[put.length - 1]?.node
      const there = [...(last ? [last] : []), ...(from.kind === 'tip' ? [] : [from]), ...(to.kind === 'foot' ? [] : [to])].find(n => distance(n.at, at) < SAME_JOINT_MM)
      if (!there) put.push({ node: { id: newId(), part: beam.part, kind: 'joint', at: [at[0], at[1], at[2]], pinned: false }, diameterMm: beam.fromDiameterMm + (beam.toDiameterMm - beam.fromDiameterMm) * share })
      const node = there ?? put[put.length - 1].node
      joints[i] = { id: node.id, at: node.at }
    }
    if (put.length === 0) continue
    const ends = [{ id: beam.from, diameterMm: beam.fromDiameterMm }, ...put.map(p => ({ id: p.node.id, diameterMm: p.diameterMm })), { id: beam.to, diameterMm: beam.toDiameterMm }]
    nodes.push(...put.map(p => p.node))
    beams.push(...ends.slice(1).map((end, k): PlanBeam => ({
      // of a branch only the lowest piece joins another stilt
      ...beam, id: k === 0 ? beam.id : newId(), kind: beam.kind === 'branch' && k + 2 < ends.length ? 'shaft' : beam.kind, from: ends[k].id, to: end.id, fromDiameterMm: ends[k].diameterMm, toDiameterMm: end.diameterMm,
    })))
  }
  return { nodes, beams, joints }
}

/** The rows that put one joint into a stilt. */
export function jointInto(index: PlanIndex, place: Joint): PlanRows & PutJoint {
  const { nodes, beams, joints: [joint] } = jointsInto(index, [place])
  return { nodes, beams, ...joint }
}
