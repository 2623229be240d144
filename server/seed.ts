import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { z } from 'zod'
import { BUILT_IN_GAUGES, CheckWaiverSchema, contentOf, MarkSchema, newId, PlanBeamSchema, PlanNodeSchema, ProofCheckSchema, RaftSchema, stateOfPart, stateOfPrint } from '@oak-stilts/core/contract'
import { factsOf } from '@oak-stilts/core/print'
import { DEMO_JOBS, DEMO_PRINTS, DEMO_VERSIONS, type DemoModel, type DemoPrint, type DemoVersion } from '@oak-stilts/demo'
import { importJob } from './api/bring-in'
import type { Stores } from './api/stores'
import { runImport } from './import/run-import'

const root = join(dirname(fileURLToPath(import.meta.url)), '..')
const demoFolder = join(root, 'demo')
const cacheFolder = join(root, 'node_modules', '.cache', 'oak-stilts')

const BegunSchema = z.object({
  nodes: z.array(PlanNodeSchema), beams: z.array(PlanBeamSchema), liftMm: z.number().optional(), raft: RaftSchema.optional(),
  checks: z.array(ProofCheckSchema).optional(), waived: z.array(CheckWaiverSchema.omit({ id: true, part: true })).default([]),
}).nullable()

/** Seeds the demo jobs into an empty data folder, once: who deletes them keeps them deleted. Goes on where an earlier start was interrupted. */
export async function seedDemo(stores: Stores, say: (line: string) => void): Promise<void> {
  const { jobs } = stores
  if (await jobs.flag('demo-seeded')) return
  if ((await jobs.list()).length === 0 || (await jobs.flag('demo-begun'))) {
    say('First start: sculpting the demo models. This takes a minute or two.')
    await jobs.setFlag('demo-begun', new Date().toISOString())
    const paths = await Promise.all(DEMO_JOBS.map(job => demoStl(job.model)))
    for (const [i, job] of DEMO_JOBS.entries()) {
      if (await jobs.flag(`demo-${job.model}`)) continue
      const begun = BegunSchema.parse(JSON.parse(readFileSync(`${paths[i]}.plan`, 'utf8'))), pose = { ...job.pose, ...(begun?.liftMm !== undefined && { liftMm: begun.liftMm }) }
      const id = await importJob(stores, { path: paths[i], name: job.name, fileName: `${job.model}.stl`, pose, keep: true, plan: begun ?? undefined, marks: z.array(MarkSchema.pick({ worth: true, runs: true })).parse(JSON.parse(readFileSync(`${paths[i]}.marks`, 'utf8'))) })
      if (begun?.checks) await noteProof(stores, id, begun)
      for (const print of DEMO_PRINTS) if (print.model === job.model) await notePrint(stores, id, print)
      for (const version of DEMO_VERSIONS) if (version.model === job.model) await keepVersion(stores, id, version)
      await jobs.setFlag(`demo-${job.model}`, job.name)
      say(`  ${job.name}`)
    }
  }
  await jobs.setFlag('demo-seeded', new Date().toISOString())
}

/** Notes with a job what it stands on, what its proof found, and what of that was left as it is. */
async function noteProof({ jobs }: Stores, id: string, { raft, checks = [], waived }: NonNullable<z.infer<typeof BegunSchema>>): Promise<void> {
  const job = await jobs.get(id)
  if (!job) return
  const part = { ...job.parts[0], ...(raft && { raft }) }, content = contentOf({ ...job, parts: [part] })
  await jobs.edit(id, { batch: newId(), baseRevision: job.revision, edits: [{
    label: 'begin', step: newId(), way: 'note',
    put: { parts: [part], checkWaivers: waived.map(w => ({ ...w, id: newId(), part: part.id })), proofs: [{ id: part.id, of: stateOfPart(content, part.id), checks }] },
  }] })
}

/** Notes a made-up print of a job in the log. */
async function notePrint({ jobs, prints }: Stores, id: string, { at, seconds, resinMl, outcome, exposureS }: DemoPrint): Promise<void> {
  const job = await jobs.get(id)
  if (!job) return
  const resin = { ...job.resin, ...(exposureS !== undefined && { exposureS }) }, tips = job.nodes.flatMap(n => (n.kind === 'tip' ? [n] : []))
  const facts = factsOf({ ...job, resin }, job.parts, job.copies, Math.ceil((job.parts[0].source.summary.sizeMm[2] + job.parts[0].pose.liftMm) / job.layerMm), part => tips.filter(n => n.part === part.id).map(n => ({ gauge: BUILT_IN_GAUGES.find(g => g.id === n.gauge)?.name ?? n.gauge, diameterMm: n.fitted.tipDiameterMm })))
  await prints.put({ id: newId(), job: { id, state: stateOfPrint(contentOf({ ...job, resin })) }, name: job.name, at, facts, seconds, resinMl, sha256: null, outcome, photo: null })
}

/** Keeps another state of a job as a version of it: the job itself is as before afterwards. */
async function keepVersion({ jobs }: Stores, id: string, { name, made }: DemoVersion): Promise<void> {
  const before = await jobs.get(id)
  if (!before) return
  const [part] = before.parts, [copy] = before.copies, { parts, copies } = made(part, copy), fresh = <R extends { readonly id: string }>(rows: readonly R[], old: R): string[] => rows.flatMap(r => (r.id === old.id ? [] : [r.id]))
  const revision = await jobs.edit(id, { batch: newId(), baseRevision: before.revision, edits: [{ label: 'begin', step: newId(), way: 'note', put: { parts: [...parts], copies: [...copies] } }] })
  if (revision === null) return
  await jobs.keepVersion(id, name)
  await jobs.edit(id, { batch: newId(), baseRevision: revision, edits: [{ label: 'begin', step: newId(), way: 'note', put: { parts: [part], copies: [copy] }, drop: { copies: fresh(copies, copy), parts: fresh(parts, part) } }] })
}

/** The path of a demo model as STL, its face marks beside it; sculpted when its sources have changed since the last time. */
export async function demoStl(model: DemoModel): Promise<string> {
  const path = join(cacheFolder, `${model}-${sourceHash()}.stl`)
  if (existsSync(path) && existsSync(`${path}.marks`) && existsSync(`${path}.plan`)) return path
  mkdirSync(cacheFolder, { recursive: true })
  const part = `${path}.${process.pid}.part`
  const answer = await runImport({ kind: 'sculpt', model, path: part })
  if (!answer.ok) throw new Error(`The demo model ${model} could not be made: ${answer.sentence}`)
  renameSync(`${part}.marks`, `${path}.marks`)
  renameSync(`${part}.plan`, `${path}.plan`)
  renameSync(part, path)
  return path
}

function sourceHash(): string {
  const hash = createHash('sha256').update(readFileSync(join(demoFolder, 'marks.ts'))).update(readFileSync(join(demoFolder, 'plans.ts'))).update(readFileSync(join(demoFolder, 'proved.ts')))
  for (const folder of ['models', 'sculpt']) {
    for (const file of readdirSync(join(demoFolder, folder)).sort()) hash.update(readFileSync(join(demoFolder, folder, file)))
  }
  return hash.digest('hex').slice(0, 16)
}
