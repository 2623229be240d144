import { createHash } from 'node:crypto'
import { basename, extname } from 'node:path'
import { contentOf, DEFAULT_PRINTER, DEFAULT_RESIN, gaugesToKeep, listsOf, newId, NO_RAFT, PLAIN_PRINT, stateOfPart, type Job, type Part, type ReadyReport } from '@oak-stilts/core/contract'
import { readJobFile, writeJobFile } from '@oak-stilts/core/job-file'
import { encodeMesh, PREPARE_VERSION, prepareSolid, readModel, UNIT_MM, type Mesh } from '@oak-stilts/core/mesh'
import { finishParts } from '@oak-stilts/core/finish'
import { looksStanding, shapeOf } from '@oak-stilts/core/pose'
import { withWritten } from '@oak-stilts/core/proof'
import { makeReady } from '@oak-stilts/core/ready'
import { ModelScan } from '@oak-stilts/core/scan'
import { Surface } from '@oak-stilts/core/stilts'
import { UsageError, type Options } from './arguments'
import { read, readBytes, save, withFile } from './files'
import { leftInWords } from './left'
import type { Output } from './output'
import { overPlate, reportOf, resinNamed } from './proof'
import { plateFor, standOnPlate, type Posed } from './posed'

/** A job to be written: with the bytes of all files that its parts come from, and the mesh of each part as its recipe makes it. */
interface Whole {
  readonly job: Job
  readonly files: ReadonlyMap<string, Uint8Array>
  meshOf(part: Part): Mesh
  readonly picture: Uint8Array | null
}

/** Brings a part to a proof and writes the job that it is then; what is there of its plan is kept. Gives whether it is ready. */
export async function ready(asked: Options, output: Output): Promise<boolean> {
  if (!asked.job && (await read(asked.file as string)).objects.length !== 1) throw new UsageError('This file holds several models. Bring it in, export the whole job, and name a part of it: --job JOB.3mf --part NAME.')
  const posed = await standOnPlate(asked, output), { options, part, plan, mesh, stand, recipe, worths, gauges, of } = posed
  const resin = options.resin === null ? (of?.job.resin ?? DEFAULT_RESIN) : resinNamed(options.resin)
  const surface = new Surface(mesh, { shape: shapeOf(recipe), stand })
  surface.setWorths(worths)
  const waivers = of?.job.waivers.filter(w => w.part === part) ?? []
  const steps = makeReady({ scan: new ModelScan(mesh, { pixelMm: options.pixelMm, layerMm: options.layerMm }, stand, options.settings), surface, part, index: plan.index, raft: plan.raft, resin, gauges, plate: plateFor(posed), onPlate: { overMm: overPlate(posed), meets: of && of.job.copies.length > 1 ? null : 0, cups: 0 }, waivers })
  let step = steps.next()
  while (!step.done) step = steps.next()
  const { change, proven, placed, braces, thickened, notHeld } = step.value, proof = await withWritten(proven, step.value.proof)
  plan.apply(change)
  const whole = await wholeOf(asked, posed), { job } = whole
  const made: Job = {
    ...job, resin, layerMm: options.layerMm, settings: options.settings,
    nodes: [...job.nodes.filter(n => n.part !== part), ...plan.nodes.values()], beams: [...job.beams.filter(b => b.part !== part), ...plan.beams.values()],
    gauges: gaugesToKeep(gauges, new Set([...job.nodes, ...plan.nodes.values()].flatMap(n => (n.kind === 'tip' ? [n.gauge] : [])))), proofs: [],
  }
  const kept: Job = { ...made, proofs: [...job.proofs.filter(p => p.id !== part), { id: part, of: stateOfPart(contentOf(made), part), checks: [...proof.checks] }] }
  const pieces: Uint8Array[] = []
  await writeJobFile({ job: kept, meshOf: p => whole.meshOf(p), picture: whole.picture, files: [...whole.files].map(([hash, bytes]) => ({ hash, read: () => [bytes] })) }, bytes => pieces.push(bytes.slice()))
  save(options.out as string, Buffer.concat(pieces))
  const found = reportOf(proof, plan.beams, job.checkWaivers.filter(w => w.part === part)), left = [...found.checks.filter(c => c.state === 'bad' && c.waived === null).map(c => c.sentence), ...leftInWords(notHeld)]
  const report: ReadyReport = { out: options.out as string, placed, braces, thickened, left, proof: found }
  output.result(options.json ? JSON.stringify(report) : [found.verdict, `${placed} stilts placed, ${braces} braces put in, ${thickened} stilts made thicker; written to ${report.out}`, ...left.map(l => `see  ${l}`)].join('\n'))
  return found.ready
}

/** The job that a part is of; of a file alone, a new one. */
async function wholeOf({ job: path, file }: Options, posed: Posed): Promise<Whole> {
  return path ? jobOf(path) : newJob(file as string, posed)
}

async function jobOf(path: string): Promise<Whole> {
  return withFile(path, source => readJobFile(source, async found => {
    if (!found) throw new UsageError(`${path} holds no job.`)
    const files = new Map<string, Uint8Array>(), meshes = new Map<string, Mesh>()
    for (const { id, source: { fileHash, object }, recipe } of found.job.parts) {
      const hash = fileHash as string
      if (!files.has(hash)) {
        const pieces: Uint8Array[] = []
        await found.extract(hash, bytes => pieces.push(bytes.slice()))
        files.set(hash, Buffer.concat(pieces))
      }
      const prepared = prepareSolid((await readModel(files.get(hash) as Uint8Array)).objects[object].mesh)
      meshes.set(id, recipe.mended ? prepared.mesh : (prepared.asCame ?? prepared.mesh))
    }
    const bare = { id: '', revision: 0, batches: [] }, { fields, tables } = contentOf({ ...found.job, ...bare })
    return { job: { ...bare, ...fields, ...listsOf(tables) }, files, meshOf: await finishParts(found.job.parts, part => meshes.get(part.id) as Mesh), picture: await found.picture() }
  }))
}

const hashOf = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex')

/** A job of the one part that a file is. */
async function newJob(path: string, { options, part, prepared, recipe, pose, meshHash, shift, plan, mesh: made }: Posed): Promise<Whole> {
  const bytes = readBytes(path), { format, unit, notes } = await read(path), { mesh, asCame, report: { sizeMm, ...report } } = prepared, fileHash = hashOf(bytes), name = basename(path, extname(path)).slice(0, 110) || 'Model'
  if (!pose) throw new UsageError('A job keeps how its part is tilted and lifted; --as-is does not go with "ready".')
  const row: Part = {
    id: part, name, recipe, sizeSettled: false, pose, raft: plan.raft ?? NO_RAFT, plannedBy: null, poseSettled: true,
    source: { fileHash, fileName: basename(path), format, object: 0, statedUnitMm: unit && UNIT_MM[unit], notes: [...notes], meshHash, plainHash: asCame && hashOf(encodeMesh(asCame)), faultsHash: null, prepareVersion: PREPARE_VERSION, summary: { ...report, sizeMm: [...sizeMm], looksStanding: looksStanding(mesh) } },
  }
  const job: Job = {
    id: '', revision: 0, name, printer: DEFAULT_PRINTER, resin: DEFAULT_RESIN, layerMm: options.layerMm, settings: options.settings, printing: PLAIN_PRINT, batches: [],
    parts: [row], copies: [{ id: newId(), part, xPixels: 0, yPixels: 0, turnDeg: shift.turnDeg }], nodes: [], beams: [], waivers: [], marks: [], gauges: [], spreads: [], checkWaivers: [], proofs: [],
  }
  return { job, files: new Map([[fileHash, bytes]]), meshOf: () => made, picture: null }
}
