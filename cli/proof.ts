import { existsSync } from 'node:fs'
import { BUILT_IN_RESINS, DEFAULT_PRINTER, DEFAULT_RESIN, KitFileSchema, loadsOf, ResinSchema, WORTHS, type CheckWaiver, type PlanBeam, type ProofReport, type Resin } from '@oak-stilts/core/contract'
import { boundsOf } from '@oak-stilts/core/mesh'
import { rolesOfTips } from '@oak-stilts/core/plan'
import { after, moveMesh, plateOf, shapeOf } from '@oak-stilts/core/pose'
import { prove, verdictOf, waiverOf, withWritten, type Proof, type Proven } from '@oak-stilts/core/proof'
import { ModelScan } from '@oak-stilts/core/scan'
import { Surface } from '@oak-stilts/core/stilts'
import { UsageError, type Options } from './arguments'
import { jsonFrom } from './files'
import type { Output } from './output'
import { standOnPlate, type Posed } from './posed'

/** Proves a part with the stilts of its plan, and tells the verdict with all that was looked at. Gives whether it is ready. */
export async function proof(asked: Options, output: Output): Promise<boolean> {
  const posed = await standOnPlate(asked, output), { options, part, plan, mesh, stand, recipe, worths, gauges, of } = posed, stilts = plan.index.stiltsOf(part)
  if (stilts.length === 0) throw new UsageError('There are no stilts to prove. Name a plan with --plan PLAN.json, or a job with --job JOB.3mf.')
  const resin = options.resin === null ? (of?.job.resin ?? DEFAULT_RESIN) : resinNamed(options.resin)
  const scan = new ModelScan(mesh, { pixelMm: options.pixelMm, layerMm: options.layerMm }, stand, options.settings)
  scan.setLoads(loadsOf(resin))
  scan.setStilts(plan.solids())
  const result = scan.runToEnd(), surface = new Surface(mesh, { shape: shapeOf(recipe), stand })
  surface.setWorths(worths)
  const roles = rolesOfTips(scan, result, stilts)
  const proven: Proven = { scan, result, index: plan.index, part, surface, raft: plan.raft, resin, gauges, roleOf: tip => roles.get(tip) ?? 'detail', onPlate: { overMm: overPlate(posed), meets: of && of.job.copies.length > 1 ? null : 0, cups: 0 }, waivers: of?.job.waivers.filter(w => w.part === part) ?? [] }, steps = prove(proven)
  let step = steps.next()
  while (!step.done) step = steps.next()
  const report = reportOf(await withWritten(proven, step.value), plan.beams, of?.job.checkWaivers.filter(w => w.part === part) ?? [])
  output.result(options.json ? JSON.stringify(report) : textOf(report))
  return report.ready
}

/** A built-in resin by its name, or one from a file: a resin, or a kit that holds just one. @throws UsageError */
export function resinNamed(name: string): Resin {
  const known = BUILT_IN_RESINS.find(r => r.name.toLowerCase() === name.toLowerCase())
  if (known) return known
  if (!existsSync(name)) throw new UsageError(`There is no resin "${name}", and no file of that name. Built in are ${BUILT_IN_RESINS.map(r => `"${r.name}"`).join(', ')}.`)
  const json = jsonFrom(name), alone = ResinSchema.safeParse(json), kit = KitFileSchema.safeParse(json)
  if (alone.success) return alone.data
  if (kit.success && kit.data.resins.length === 1) return kit.data.resins[0]
  throw new UsageError(kit.success ? `${name} holds ${kit.data.resins.length} resins; one is wanted.` : `${name} holds no resin.`)
}

/** How far the part or its supports reach beyond what the printer can print, mm. */
export function overPlate({ mesh, stand, shift, plan, of }: Posed): number {
  const plate = plateOf(shift), { widthMm, depthMm, heightMm } = of?.job.printer ?? DEFAULT_PRINTER
  return [moveMesh(mesh, after(plate, stand)), ...plan.solids().map(s => moveMesh(s, plate))].reduce((over, m) => {
    const { min, max } = boundsOf(m.positions)
    return Math.max(over, max[0] - widthMm / 2, -widthMm / 2 - min[0], max[1] - depthMm / 2, -depthMm / 2 - min[1], max[2] - heightMm)
  }, 0)
}

/** All that a proof found, in the published form. */
export function reportOf({ checks, ends, beams, stretches, idle, needed, lanes, stiltOf }: Proof, rows: ReadonlyMap<string, PlanBeam>, waivers: readonly CheckWaiver[]): ProofReport {
  const numbers = new Map(ends.map(e => [e.id, e.stilt])), layerOf = (k: number): number | null => (k < 0 ? null : k), series = (values: Float64Array): (number | null)[] => [...values].map(v => (Number.isFinite(v) ? v : null))
  const ofBeam = (id: string): number[] => (stiltOf.has(id) ? [stiltOf.get(id) as number] : [])
  const distinct = (ids: readonly string[]): number[] => [...new Set(ids.flatMap(id => numbers.get(id) ?? []))].sort((a, b) => a - b)
  return {
    ...verdictOf(checks, waivers), checks: checks.map(c => ({ ...c, waived: waiverOf(c, waivers)?.reason ?? null })),
    tips: ends.map(({ stilt, kind, share, layer, pulledN, pressedN, contactMm2, at }) => ({ stilt, end: kind, share, layer: layerOf(layer), pulledN, pressedN, contactMm2, at: [at[0], at[1], at[2]] })),
    beams: beams.map(({ id, share, layer }) => ({ kind: rows.get(id)?.kind ?? 'shaft', stilts: ofBeam(id), share, layer: layerOf(layer) })),
    slender: stretches.map(({ beams: ids, stretch, share, layer, pressedN, criticalN }) => ({ stilts: [...new Set(ids.flatMap(ofBeam))], share, layer: layerOf(layer), lengthMm: stretch.lengthMm, pressedN, bucklesAtN: Number.isFinite(criticalN) ? criticalN : 0 })),
    needed: distinct(needed), idle: distinct(idle),
    scars: WORTHS.map(worth => ({ worth, count: ends.filter(e => e.worth === worth).length, areaMm2: ends.reduce((sum, e) => sum + (e.worth === worth ? e.contactMm2 : 0), 0) })),
    lanes: { pullN: [...lanes.pullN], canN: series(lanes.canN), swayMm: series(lanes.swayMm), softDeg: series(lanes.softDeg) },
  }
}

function textOf({ verdict, checks, tips, needed, idle }: ProofReport): string {
  return [
    verdict,
    ...checks.map(c => `${c.state === 'good' ? 'ok  ' : c.state === 'bad' ? 'see ' : '    '} ${c.sentence}`),
    `weakest tips, estimates of load over capacity: ${tips.slice(0, 5).map(t => `stilt ${t.stilt} ${Math.round(t.share * 100)} %`).join(', ')}`,
    `${needed.length} of ${new Set(tips.map(t => t.stilt)).size} stilts cannot be missed, ${idle.length} bear next to nothing`,
  ].join('\n')
}
