import { createHash } from 'node:crypto'
import { closeSync, fstatSync, fsyncSync, openSync, readFileSync, readSync, writeSync } from 'node:fs'
import { join } from 'node:path'
import { DEFAULT_PRINTER, pixelMmOf, type BringingIn, type Job, type JobFile, type MeshFaults, type MeshSummary, type Part, type Source } from '@oak-stilts/core/contract'
import { readJobFile, writeJobFile } from '@oak-stilts/core/job-file'
import { runsOf } from '@oak-stilts/core/marks'
import { finishParts } from '@oak-stilts/core/finish'
import { boundsOf, centerOf, decodeMesh, drawPicture, encodeMesh, joinMeshes, MeshError, PREPARE_VERSION, prepareSolid, readModel, sourceOfFile, UNIT_MM, wholeOf, writeStl, type ByteSource, type Mesh, type ModelObject } from '@oak-stilts/core/mesh'
import { looksStanding, motionOfPose, moveMesh, type Pose } from '@oak-stilts/core/pose'
import type { DemoModel } from '@oak-stilts/demo'
import { writeSynced } from '../store/write-synced'

/** What an import is asked for. Whatever is large is written to files. */
export type ImportTask =
  | { readonly kind: 'read'; readonly path: string; readonly pose: Pose; readonly pixelMm: number; readonly meshPaths: string; readonly picturePath: string }
  | { readonly kind: 'sculpt'; readonly model: DemoModel; readonly path: string }
  | { readonly kind: 'open-job'; readonly path: string; readonly folder: string }
  | { readonly kind: 'write-job'; readonly job: Job; readonly meshes: Readonly<Record<string, string>>; readonly files: Readonly<Record<string, string>>; readonly picturePath: string | null; readonly outPath: string }

/** A model of the file: its mesh lies at `meshPaths` with its number behind, with `.plain` and `.faults` behind that the mesh as it came and what was found in it. */
export interface ReadObject {
  readonly name: string
  readonly source: Omit<Source, 'fileName'>
  /** The middle of each of its copies, mm from the middle of all. */
  readonly places: readonly [number, number][]
}
export type ImportAnswer =
  | { readonly ok: true; readonly objects: readonly ReadObject[]; readonly opened?: OpenedJob | null }
  | { readonly ok: false; readonly code: string; readonly sentence: string }
/** A job that was found in a file: its content and the files that its parts come from, on disk. */
export interface OpenedJob {
  readonly job: JobFile
  readonly files: readonly { readonly hash: string; readonly path: string }[]
  readonly picturePath: string | null
}
/** Told while a task is under way. */
export interface ImportProgress {
  readonly progress: BringingIn
}

const PICTURE = { width: 480, height: 320, azimuthDeg: 32, elevationDeg: -6 }
/** Memory that reading and preparing take for every triangle, bytes, measured on binary STL. */
const BYTES_PER_TRIANGLE = 450
/** Parts that a file may come to; more are kept together as one. */
const MOST_PARTS = 60

function hashOf(bytes: Uint8Array): string {
  return createHash('sha256').update(bytes).digest('hex')
}

function hashOfSource(source: ByteSource): string {
  const hash = createHash('sha256')
  for (let at = 0; at < source.size;) {
    const block = source.read(at, 1 << 22)
    if (block.length === 0) break
    hash.update(block)
    at += block.length
  }
  return hash.digest('hex')
}

const say = (progress: BringingIn): void => void process.send?.({ progress } satisfies ImportProgress)

async function read(task: Extract<ImportTask, { kind: 'read' }>, memoryMb: number): Promise<ImportAnswer> {
  const file = openSync(task.path, 'r')
  try {
    const bytes = sourceOfFile(fstatSync(file).size, (buffer, at) => readSync(file, buffer, 0, buffer.length, at))
    const model = await readModel(bytes, { mostTriangles: (memoryMb * 1024 * 1024) / BYTES_PER_TRIANGLE, progress: share => say({ stage: 'reading', share }) })
    say({ stage: 'preparing', share: 1 })
    const found: readonly ModelObject[] = model.objects.length > MOST_PARTS ? [{ name: '', mesh: wholeOf(model), places: [[0, 0, 0]] }] : model.objects
    const notes = found === model.objects ? [...model.notes] : [...model.notes, { kind: 'joined' as const, count: model.objects.length }]
    const fileHash = hashOfSource(bytes)
    const prepared = found.map(o => prepareSolid(o.mesh, { crossings: true }))
    const sources = prepared.map(({ mesh, asCame, faults, report: { sizeMm, ...report } }, object): Omit<Source, 'fileName'> => {
      const coded = encodeMesh(mesh), summary: MeshSummary = { ...report, sizeMm: [...sizeMm], looksStanding: looksStanding(mesh) }
      writeSynced(`${task.meshPaths}${object}`, coded)
      const plain = asCame && encodeMesh(asCame), told = Buffer.from(JSON.stringify(faults.map((f): MeshFaults[number] => ({ ...f, segments: Array.from(f.segments) }))))
      if (plain) writeSynced(`${task.meshPaths}${object}.plain`, plain)
      writeSynced(`${task.meshPaths}${object}.faults`, told)
      return { fileHash, format: model.format, object, statedUnitMm: model.unit && UNIT_MM[model.unit], notes, meshHash: hashOf(coded), plainHash: plain && hashOf(plain), faultsHash: hashOf(told), prepareVersion: PREPARE_VERSION, summary }
    })
    const middles = found.map((o, i) => o.places.map(at => centerOf(boundsOf(prepared[i].mesh.positions)).map((v, c) => v + at[c])))
    const middle = centerOf(boundsOf(middles.flat(2)))
    const posed = prepared.flatMap(({ mesh }, i) => {
      const stand = moveMesh(mesh, motionOfPose(mesh.positions, task.pose, task.pixelMm))
      return middles[i].map(([x, y]) => ({ positions: stand.positions.map((v, k) => v + (k % 3 === 0 ? x - middle[0] : k % 3 === 1 ? y - middle[1] : 0)), triangles: stand.triangles }))
    })
    const drawn = drawPicture([{ mesh: posed.length === 1 ? posed[0] : joinMeshes(posed), lit: [225, 219, 205], shade: [105, 98, 85] }], PICTURE.width, PICTURE.height, PICTURE.azimuthDeg, PICTURE.elevationDeg)
    const { PNG } = await import('pngjs')
    const png = new PNG({ width: drawn.width, height: drawn.height })
    png.data = Buffer.from(drawn.rgba)
    writeSynced(task.picturePath, PNG.sync.write(png))
    return { ok: true, objects: sources.map((source, i) => ({ name: found[i].name, source, places: middles[i].map(([x, y]) => [x - middle[0], y - middle[1]]) })) }
  } finally {
    closeSync(file)
  }
}

async function sculptTo(task: Extract<ImportTask, { kind: 'sculpt' }>): Promise<ImportAnswer> {
  const { marksOf, planOf, sculpt } = await import('@oak-stilts/demo')
  const file = writeStl(await sculpt(task.model), `Oak Stilts demo: ${task.model}`)
  writeSynced(task.path, file)
  const marks = marksOf(task.model, wholeOf(await readModel(file))).map(({ worth, faces }) => ({ worth, runs: runsOf(faces) }))
  writeSynced(`${task.path}.marks`, Buffer.from(JSON.stringify(marks)))
  writeSynced(`${task.path}.plan`, Buffer.from(JSON.stringify(await planOf(task.model, prepareSolid(wholeOf(await readModel(file))).mesh, pixelMmOf(DEFAULT_PRINTER)))))
  return { ok: true, objects: [] }
}

/** Unpacks the job that a file holds, if it holds one. */
async function openJob({ path, folder }: Extract<ImportTask, { kind: 'open-job' }>): Promise<ImportAnswer> {
  const file = openSync(path, 'r')
  try {
    const source = sourceOfFile(fstatSync(file).size, (buffer, at) => readSync(file, buffer, 0, buffer.length, at))
    return await readJobFile(source, async (found): Promise<ImportAnswer> => {
      if (!found) return { ok: true, objects: [], opened: null }
      const hashes = [...new Set(found.job.parts.flatMap(p => p.source.fileHash ?? []))], files = []
      for (const [i, hash] of hashes.entries()) {
        const own = createHash('sha256')
        await writtenTo(join(folder, `${i}`), write => found.extract(hash, bytes => {
          own.update(bytes)
          write(bytes)
        }))
        if (own.digest('hex') !== hash) throw new MeshError('damaged', 'A file that this job comes from is not what it was when the job was exported. Export the job again.')
        files.push({ hash, path: join(folder, `${i}`) })
      }
      const picture = await found.picture(), picturePath = picture && join(folder, 'picture.png')
      if (picture && picturePath) writeSynced(picturePath, picture)
      return { ok: true, objects: [], opened: { job: found.job, files, picturePath } }
    })
  } finally {
    closeSync(file)
  }
}

async function writtenTo(path: string, work: (write: (bytes: Uint8Array) => void) => Promise<void>): Promise<void> {
  const out = openSync(path, 'w')
  try {
    await work(bytes => {
      for (let at = 0; at < bytes.length;) at += writeSync(out, bytes, at)
    })
    fsyncSync(out)
  } finally {
    closeSync(out)
  }
}

/** Writes a job with all that it is made of as one file. */
async function writeJob({ job, meshes, files, picturePath, outPath }: Extract<ImportTask, { kind: 'write-job' }>): Promise<ImportAnswer> {
  const meshOf = ({ source, recipe }: Part): Mesh => decodeMesh(new Uint8Array(readFileSync(meshes[recipe.mended ? source.meshHash : (source.plainHash ?? source.meshHash)])).buffer)
  const made = new Map<string, Uint8Array>()
  // older versions did not keep files: the mesh stands for one, its triangles in the same order
  const parts = job.parts.map((part): Part => {
    if (part.source.fileHash !== null) return part
    const bytes = writeStl(meshOf(part), part.name), fileHash = hashOf(bytes)
    made.set(fileHash, bytes)
    return { ...part, source: { ...part.source, fileHash, fileName: `${part.name}.stl`, format: 'stl', object: 0 } }
  })
  const hashes = new Set(parts.map(p => p.source.fileHash as string))
  const finished = await finishParts(parts, meshOf)
  await writtenTo(outPath, write => writeJobFile({
    job: { ...job, parts }, meshOf: finished, picture: picturePath === null ? null : new Uint8Array(readFileSync(picturePath)),
    files: [...hashes].map(hash => ({ hash, read: () => (made.has(hash) ? [made.get(hash) as Uint8Array] : piecesOf(files[hash])) })),
  }, write))
  return { ok: true, objects: [] }
}

const PIECE_BYTES = 1 << 20
function* piecesOf(path: string): Generator<Uint8Array, void, void> {
  const file = openSync(path, 'r')
  try {
    for (;;) {
      const buffer = new Uint8Array(PIECE_BYTES), length = readSync(file, buffer)
      if (length === 0) return
      yield buffer.subarray(0, length)
    }
  } finally {
    closeSync(file)
  }
}

async function run(task: ImportTask & { readonly memoryMb: number }): Promise<ImportAnswer> {
  try {
    switch (task.kind) {
      case 'read': return await read(task, task.memoryMb)
      case 'sculpt': return await sculptTo(task)
      case 'open-job': return await openJob(task)
      case 'write-job': return await writeJob(task)
    }
  } catch (error) {
    if (error instanceof MeshError) return { ok: false, code: error.code, sentence: error.message }
    if (error instanceof RangeError) return { ok: false, code: 'too-large', sentence: 'This model needs more memory than there is. Reduce the number of triangles and export it again.' }
    if ((error as { code?: string }).code === 'ENOSPC') return { ok: false, code: 'disk-full', sentence: 'The disk of the data folder is full. Nothing was changed. Make room and bring the model in again.' }
    throw error
  }
}

process.once('message', (task: ImportTask & { readonly memoryMb: number }) => {
  void run(task).then(answer => process.send?.(answer, () => process.exit(0)))
})
// who asked is gone
process.once('disconnect', () => process.exit(0))
