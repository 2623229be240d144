import { createHash } from 'node:crypto'
import { readFileSync, statSync } from 'node:fs'
import type { MeshSummary, Source } from '@oak-stilts/core/contract'
import { drawPicture, encodeMesh, MeshError, PREPARE_VERSION, prepareSolid, readStl, writeStl } from '@oak-stilts/core/mesh'
import { looksStanding, motionOfPose, moveMesh, type Pose } from '@oak-stilts/core/pose'
import type { DemoModel } from '@oak-stilts/demo'
import { writeSynced } from '../store/write-synced'

/** What an import is asked for. Whatever is large is written to files. */
export type ImportTask =
  | { readonly kind: 'read'; readonly path: string; readonly pose: Pose; readonly pixelMm: number; readonly meshPath: string; readonly picturePath: string }
  | { readonly kind: 'sculpt'; readonly model: DemoModel; readonly path: string }

export type ImportAnswer =
  | { readonly ok: true; readonly source: Omit<Source, 'fileName'> | null }
  | { readonly ok: false; readonly code: string; readonly sentence: string }

const PICTURE = { width: 480, height: 320, azimuthDeg: 32, elevationDeg: -6 }
/** Memory that preparing takes for every byte of a file, measured on binary STL; less on text. */
const BYTES_PER_BYTE = 9

function hashOf(bytes: Uint8Array): string {
  return createHash('sha256').update(bytes).digest('hex')
}

async function read(task: Extract<ImportTask, { kind: 'read' }>, memoryMb: number): Promise<ImportAnswer> {
  if (statSync(task.path).size * BYTES_PER_BYTE > memoryMb * 1024 * 1024) throw new RangeError('over the limit')
  const file = readFileSync(task.path)
  const prepared = prepareSolid(readStl(file))
  const placed = moveMesh(prepared.mesh, motionOfPose(prepared.mesh.positions, task.pose, task.pixelMm))
  const drawn = drawPicture([{ mesh: placed, lit: [225, 219, 205], shade: [105, 98, 85] }], PICTURE.width, PICTURE.height, PICTURE.azimuthDeg, PICTURE.elevationDeg)
  const { PNG } = await import('pngjs')
  const png = new PNG({ width: drawn.width, height: drawn.height })
  png.data = Buffer.from(drawn.rgba)
  const { sizeMm, ...report } = prepared.report
  const bytes = encodeMesh(prepared.mesh)
  writeSynced(task.meshPath, bytes)
  writeSynced(task.picturePath, PNG.sync.write(png))
  const summary: MeshSummary = { ...report, sizeMm: [...sizeMm], looksStanding: looksStanding(prepared.mesh) }
  return { ok: true, source: { fileHash: hashOf(file), format: 'stl', meshHash: hashOf(bytes), prepareVersion: PREPARE_VERSION, summary } }
}

async function sculptTo(task: Extract<ImportTask, { kind: 'sculpt' }>): Promise<ImportAnswer> {
  const { sculpt } = await import('@oak-stilts/demo')
  writeSynced(task.path, writeStl(await sculpt(task.model), `Oak Stilts demo: ${task.model}`))
  return { ok: true, source: null }
}

async function run(task: ImportTask & { readonly memoryMb: number }): Promise<ImportAnswer> {
  try {
    return task.kind === 'read' ? await read(task, task.memoryMb) : await sculptTo(task)
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
