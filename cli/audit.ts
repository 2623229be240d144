import { AS_MADE, DEFAULT_RESIN, WORTHS, type AuditReport, type PlanCheckReport } from '@oak-stilts/core/contract'
import { rolesOfTips } from '@oak-stilts/core/plan'
import { shapeOf, standOf } from '@oak-stilts/core/pose'
import { ModelScan } from '@oak-stilts/core/scan'
import { auditTips, CARRIES_FROM_MM, Clearance, contactOf, gaugeFor, judgeStilt, judgeTips, Surface, type Stilt } from '@oak-stilts/core/stilts'
import { UsageError, type Options } from './arguments'
import type { Output } from './output'
import { liftedFrom } from './lift-out'
import { Plan, standOnPlate, type Posed } from './posed'

/** A part with the stilts of its plan. @throws UsageError where it has none */
async function withStilts(asked: Options, output: Output): Promise<{ readonly posed: Posed; readonly surface: Surface; readonly stilts: readonly Stilt[] }> {
  const asGiven = await standOnPlate(asked, output), posed = asked.plan || asked.job ? asGiven : await withBuiltIn(asGiven), stilts = posed.plan.index.stiltsOf(posed.part)
  if (stilts.length === 0) throw new UsageError('There are no stilts to look at. Name a plan with --plan PLAN.json, or a job with --job JOB.3mf.')
  const surface = new Surface(posed.mesh, { shape: shapeOf(posed.recipe), stand: posed.stand })
  surface.setWorths(posed.worths)
  return { posed, surface, stilts }
}

/** A file without a plan: the supports that it arrived with, on its model as it stands in the file. */
async function withBuiltIn(posed: Posed): Promise<Posed> {
  const { model, pose, nodes, beams, raft } = await liftedFrom(posed.options, posed.part), plan = new Plan(posed.part)
  plan.apply({ put: { nodes: [...nodes], beams: [...beams] } })
  plan.raft = raft
  return { ...posed, mesh: model, worths: null, recipe: AS_MADE, pose, stand: standOf(model.positions, pose, posed.options.pixelMm), plan }
}

/** Tells every tip with its diameter, what hangs on it, how high it is and what its skin is worth; lowest first. */
export async function audit(asked: Options, output: Output): Promise<void> {
  const { posed, surface, stilts } = await withStilts(asked, output), { options, mesh, stand, plan } = posed
  const scan = new ModelScan(mesh, { pixelMm: options.pixelMm, layerMm: options.layerMm }, stand, options.settings)
  scan.setStilts(plan.solids())
  const result = scan.runToEnd(), roles = rolesOfTips(scan, result, stilts)
  const tips = auditTips(stilts, s => roles.get(s.id) ?? s.role, CARRIES_FROM_MM), byId = new Map(stilts.map(s => [s.id, s]))
  const report: AuditReport = {
    leastMm: CARRIES_FROM_MM, weak: tips.filter(t => t.weak).length,
    tips: tips.map(({ id, number, tipMm, heightMm, role, weak }) => {
      const s = byId.get(id) as Stilt
      return { stilt: number, gauge: s.gauge, shape: s.sizes.tipShape, tipMm, contactMm2: contactOf(s.sizes).areaMm2, role, heightMm, worth: WORTHS[surface.worthAt(s.path[0])], weak }
    }),
  }
  output.result(options.json ? JSON.stringify(report) : [
    ...report.tips.map(t => `stilt ${String(t.stilt).padStart(4)}  tip ${t.tipMm.toFixed(2)} mm  ${t.role.padEnd(10)}  at ${t.heightMm.toFixed(2).padStart(7)} mm  ${t.worth}${t.weak ? '  thin' : ''}`),
    `${report.tips.length} tips, ${report.weak} of those that carry or hold a region under ${report.leastMm.toFixed(2)} mm`,
  ].join('\n'))
}

/** Tells all there is to say about the stilts of a plan as they stand. */
export async function checkPlan(asked: Options, output: Output): Promise<void> {
  const { posed, surface, stilts } = await withStilts(asked, output), { options, part, plan, gauges, of } = posed
  const numbers = new Map(stilts.map(s => [s.id, s.number])), webMm = options.given.has('web') ? options.webMm : (of?.job.resin.webMm ?? DEFAULT_RESIN.webMm)
  const verdicts = [
    ...stilts.flatMap(s => judgeStilt(surface, s, { gauge: gaugeFor(s, gauges), isHeld: n => plan.index.isHeld(n), diameters: plan.index.diametersOf(s) })), ...judgeTips(stilts, webMm),
    ...new Clearance(plan.index).nearer(part, webMm).map(n => ({ kind: 'near' as const, at: n.at, stilts: n.stilts, gapMm: n.gapMm, limitMm: webMm })),
    ...stilts.flatMap(s => (s.foot === 'lost' ? [{ kind: 'lost' as const, at: s.path[0], stilts: [s.id], because: s.lostFor ?? '' }] : [])),
  ]
  const report: PlanCheckReport = {
    stilts: stilts.length,
    verdicts: verdicts.map(({ kind, at, stilts: ids, ...figures }) => ({ kind, stilts: ids.map(id => numbers.get(id) ?? 0), at: [at[0], at[1], at[2]], figures: { ...figures } })),
  }
  const counts = new Map<string, number>()
  for (const v of report.verdicts) counts.set(v.kind, (counts.get(v.kind) ?? 0) + 1)
  output.result(options.json ? JSON.stringify(report) : [
    ...report.verdicts.map(v => `${v.kind.padEnd(8)} stilt ${v.stilts.join(' and ')}: ${Object.entries(v.figures).map(([name, value]) => `${name} ${typeof value === 'number' ? value.toFixed(2) : value}`).join(', ')}`),
    `${report.stilts} stilts, ${report.verdicts.length === 0 ? 'nothing to be said' : [...counts].map(([kind, n]) => `${n} ${kind}`).join(', ')}`,
  ].join('\n'))
}
