import type { Gauge } from '../contract'
import { distance } from '../mesh'
import { normalFromSource } from '../pose'
import { beamsOfShape, Clearance, gaugeFor, routeBranch, rowsOfBranch, shapeOfBranch, type Beam, type Others, type PlanDraft, type Stilt, type Surface } from '../stilts'
import { isFree } from './straighten'

/** Trunks are looked for within this way across from a knee, mm, and so many of them are tried. */
const HOSTS_MM = 9, MOST_HOSTS = 6
/** A branch is worth it where it saves this share of the resin of the shaft that it replaces: the trunk has to carry more. */
const LEAST_SAVED = 0.4

/**
 * Hangs stilts that stand by themselves on what stands near them, as branches, where that saves most of their shaft. Their tips stay where they are and as wide;
 * nothing is hung on what is pinned or forced.
 * @param draft the plan, which is changed; it has to cover all of the part
 * @returns how many were hung, and the beams of what they hang on now
 */
export function hung(surface: Surface, draft: PlanDraft, part: string, { gauges, webMm }: { readonly gauges: readonly Gauge[]; readonly webMm: number }): { readonly count: number; readonly hosts: ReadonlySet<string> } {
  const hosts = new Set<string>(), field = new Clearance(draft.index).field(part)
  let count = 0
  // the tallest gain most
  const free = draft.index.stiltsOf(part).filter(s => isFree(s, draft)).sort((a, b) => b.path[0][2] - a.path[0][2] || a.number - b.number)
  for (const { id } of free) {
    const all = draft.index.stiltsOf(part), stilt = all.find(s => s.id === id)
    // what something hangs on by now stays
    if (!stilt || !isFree(stilt, draft)) continue
    const [point, knee] = stilt.path, near = (s: Stilt): number => s.path.slice(1).reduce((least, p) => (p[2] < point[2] ? Math.min(least, Math.hypot(p[0] - knee[0], p[1] - knee[1])) : least), Infinity)
    const around = all.filter(s => s.id !== id && mayCarry(s, draft)).map(s => ({ s, mm: near(s) })).filter(h => h.mm <= HOSTS_MM).sort((a, b) => a.mm - b.mm || a.s.number - b.s.number).slice(0, MOST_HOSTS).map(h => h.s)
    if (around.length === 0) continue
    const gauge = gaugeFor(stilt, gauges), others: Others = { field, limitMm: webMm, but: new Set([id]) }
    const branch = routeBranch(surface, point, normalFromSource(surface, stilt.anchor.normal), gauge, around, { ...stilt.sizes, shaftFootDiameterMm: stilt.sizes.kneeDiameterMm }, others)
    if (!branch.ok || branch.tight) continue
    const { tipShape, tipDiameterMm, penetrationMm, kneeDiameterMm } = branch.sizes, shape = shapeOfBranch({ gauge: stilt.gauge, role: stilt.role, anchor: stilt.anchor, own: { tipShape, tipDiameterMm, penetrationMm, kneeDiameterMm } }, branch)
    if (tipDiameterMm !== stilt.sizes.tipDiameterMm || resinOf(beamsOfShape(shape)) > (1 - LEAST_SAVED) * resinOf(beamsOfShape(stilt))) continue
    draft.drop(stilt.nodes.slice(1), stilt.beams)
    draft.put(rowsOfBranch(draft.index, shape, branch.joint, stilt.number, { tip: id }))
    const now = draft.index.stilt(id)
    field.put(`hung ${id}`, beamsOfShape(shape).map(beam => ({ owner: id, beam })))
    // all of the way down has more to carry
    for (const beam of now?.beams.slice(now.alone - 1) ?? []) hosts.add(beam)
    count++
  }
  return { count, hosts }
}

/** Whether something may be hung on a stilt: it stands on the plate, and nothing of it is meant to stay as it is. */
function mayCarry(s: Stilt, { index }: PlanDraft): boolean {
  return s.foot === 'plate' && s.forced === undefined && s.spread === undefined && s.nodes.every(n => !index.nodes.get(n)?.pinned)
}

/** Resin of beams, mm³; where they overlap it counts twice. */
function resinOf(beams: readonly Beam[]): number {
  return beams.reduce((sum, { from, to, fromRadius: a, toRadius: b }) => sum + (Math.PI * distance(from, to) * (a * a + a * b + b * b)) / 3, 0)
}
