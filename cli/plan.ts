import { DEFAULT_RESIN, loadsOf, type PlanReport } from '@oak-stilts/core/contract'
import { DEFAULT_POSE, shapeOf } from '@oak-stilts/core/pose'
import { raftAsked } from '@oak-stilts/core/raft'
import { remedyInWords, tiltFor } from '@oak-stilts/core/plan'
import { withWritten } from '@oak-stilts/core/proof'
import { measuresOf, planned } from '@oak-stilts/core/ready'
import { ModelScan } from '@oak-stilts/core/scan'
import { Surface } from '@oak-stilts/core/stilts'
import { aimOf } from './aim'
import type { Options } from './arguments'
import { save } from './files'
import { leftInWords } from './left'
import type { Output } from './output'
import { planFileOf } from './plan-file'
import { plateFor, standOnPlate } from './posed'
import { askedBy } from './recipe'
import { overPlate, reportOf, resinNamed } from './proof'

/** Plans a part, keeping what is there of its plan, and writes the plan; tells what is left and what it comes to. */
export async function plan(asked: Options, output: Output): Promise<void> {
  const posed = await standOnPlate(asked, output), { options, part, plan, mesh, stand, recipe, worths, pose, gauges, of } = posed
  const resin = options.resin === null ? (of?.job.resin ?? DEFAULT_RESIN) : resinNamed(options.resin)
  const surface = new Surface(mesh, { shape: shapeOf(recipe), stand }), scan = new ModelScan(mesh, { pixelMm: options.pixelMm, layerMm: options.layerMm }, stand, options.settings)
  surface.setWorths(worths)
  scan.setLoads(loadsOf(resin))
  const alone = scan.runToEnd(), waivers = of?.job.waivers.filter(w => w.part === part) ?? []
  const { planning, gauges: known } = askedBy(options, gauges)
  plan.raft = raftAsked(planning, { raft: plan.raft, pose: pose ?? DEFAULT_POSE })
  const steps = planned({ options: planning, aim: aimOf(options, alone, posed), pose: pose ?? undefined, scan, surface, part, index: plan.index, raft: plan.raft, resin, gauges: known, plate: plateFor(posed), onPlate: { overMm: overPlate(posed), meets: of && of.job.copies.length > 1 ? null : 0, cups: 0 }, waivers })
  let step = steps.next()
  while (!step.done) step = steps.next()
  const { change, proven, placed, notHeld } = step.value, proof = await withWritten(proven, step.value.proof)
  plan.apply(change)
  save(options.out as string, JSON.stringify(planFileOf({ ...posed, gauges: known })))
  const stilts = plan.index.stiltsOf(part), found = reportOf(proof, plan.beams, of?.job.checkWaivers.filter(w => w.part === part) ?? [])
  const report: PlanReport = {
    out: options.out as string, placed, tips: stilts.length, feet: [...plan.nodes.values()].filter(n => n.kind === 'foot' && n.on.kind !== 'lost').length,
    notHeld: notHeld.map(n => ({ kind: n.kind, layer: n.layer, at: [n.at[0], n.at[1], n.at[2]], reason: n.reason })), measures: measuresOf(proof, proven, alone.areaMm2), proof: found,
  }
  const { measures: m } = report, helps = pose ? remedyInWords(tiltFor(surface, pose, notHeld.map(n => n.at)), notHeld.length) : ''
  output.result(options.json ? JSON.stringify(report) : [
    found.verdict, `${report.placed} tips placed; ${report.tips} tips on ${report.feet} feet, ${(m.resinMm3 / 1000).toFixed(2)} cm³ of resin, scars of ${Object.values(m.scarMm2).reduce((a, b) => a + b, 0).toFixed(1)} mm²; written to ${report.out}`,
    ...found.checks.filter(c => c.state === 'bad' && c.waived === null).map(c => `see  ${c.sentence}`), ...leftInWords(notHeld).map(l => `left ${l}`), ...(helps && notHeld.length > 1 ? [`try  ${helps}`] : []),
  ].join('\n'))
}
