import { newId, type PlanBeam, type PlanNode } from '../contract'
import { distance, type Vec3 } from '../mesh'
import { normalToSource, toSource } from '../pose'
import { neckOf, type PlanRows, type StiltSizes, type Surface } from '../stilts'
import { leastDiameter, together, type Twig } from './twig'

/** A shaft down to the plate with what joins it on its way; its bends and joints from the top down. */
export interface Tree {
  /** From the highest joint down to the plate. */
  readonly way: readonly Vec3[]
  /** What joins it, by the place in its way. */
  readonly hangs: readonly { readonly twig: Twig; readonly at: number }[]
  /** How thick it is at the plate, mm, and its foot. */
  readonly diameterMm: number
  readonly foot: Pick<StiltSizes, 'footDiameterMm' | 'footHeightMm'>
}

/** Rows of a plan for some trees. @param number the next one that is free */
export function rowsOfTrees(surface: Surface, trees: readonly Tree[], part: string, number: number): PlanRows {
  const nodes: PlanNode[] = [], beams: PlanBeam[] = [], base = (at: Vec3) => ({ id: newId(), part, at: [at[0], at[1], at[2]] as [number, number, number], pinned: false })
  let next = number
  const beam = (kind: PlanBeam['kind'], from: string, to: string, fromDiameterMm: number, toDiameterMm: number): void => void beams.push({ id: newId(), part, kind, from, to, fromDiameterMm, toDiameterMm })
  /** @param goesOn whether what it joins is its own way down */
  const put = (twig: Twig, into: string, intoAt: Vec3, goesOn: boolean): void => {
    const lowerMm = Math.max(twig.diameterMm, leastDiameter(distance(twig.at, intoAt))), kind = goesOn ? 'shaft' : 'branch'
    if (twig.head) {
      const { head } = twig, { tipShape, tipDiameterMm, penetrationMm, coneLengthMm, kneeDiameterMm } = head.sizes, knee = base(head.knee), tip = head.tip ?? base(head.point)
      if (head.tip) nodes.push(head.tip, { ...knee, kind: 'knee' })
      else nodes.push({ ...base(head.point), id: tip.id, kind: 'tip', number: next++, gauge: head.gauge, role: head.role, anchor: { point: toSource(surface, head.point as never), normal: [...normalToSource(surface, head.normal)] }, own: { tipDiameterMm, kneeDiameterMm, coneLengthMm }, fitted: { tipShape, tipDiameterMm, penetrationMm, coneLengthMm, kneeDiameterMm } }, { ...knee, kind: 'knee' })
      beam('cone', tip.id, knee.id, neckOf(head.sizes), kneeDiameterMm)
      beam(kind, knee.id, into, kneeDiameterMm, lowerMm)
      return
    }
    const joint = base(twig.at)
    nodes.push({ ...joint, kind: 'joint' })
    beam(kind, joint.id, into, twig.diameterMm, lowerMm)
    twig.up.forEach((up, i) => put(up, joint.id, twig.at, i === 0))
  }
  for (const { way, hangs, diameterMm, foot } of trees) {
    const last = way.length - 1, ids = way.map(() => newId()), thick = way.map((_, i) => (i === last ? diameterMm : Math.min(diameterMm, Math.max(diameterMm * 0.6, together(hangs.filter(h => h.at <= i).map(h => h.twig.diameterMm)) * 0.75))))
    way.forEach((at, i) => {
      const node = { ...base(at), id: ids[i] }
      if (i < last) nodes.push({ ...node, kind: 'joint' })
      else nodes.push({ ...node, kind: 'foot', on: { kind: 'plate' }, own: { shaftFootDiameterMm: diameterMm, footDiameterMm: foot.footDiameterMm }, fitted: { shaftFootDiameterMm: diameterMm, footDiameterMm: foot.footDiameterMm, footHeightMm: foot.footHeightMm, footPenetrationMm: 0 } })
      if (i > 0) beam('shaft', ids[i - 1], ids[i], thick[i - 1], thick[i])
    })
    // the first at the top goes on down the trunk
    hangs.forEach((h, i) => put(h.twig, ids[h.at], way[h.at], i === 0))
  }
  return { nodes, beams }
}
