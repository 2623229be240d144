import { readFileSync } from 'node:fs'
import { parentPort, workerData } from 'node:worker_threads'
import { PNG } from 'pngjs'
import type { MeshSummary } from '@oak-stilts/core/contract'
import { drawPicture, encodeMesh, MeshError, prepareMesh, readStl, writeStl } from '@oak-stilts/core/mesh'
import { looksStanding, placementOf, placeMesh, type Pose } from '@oak-stilts/core/pose'
import { sculpt, type DemoModel } from '@oak-stilts/demo'

/** What an import worker is asked for. */
export type ImportTask =
  | { readonly kind: 'read'; readonly path: string; readonly pose: Pose; readonly pixelMm: number }
  | { readonly kind: 'sculpt'; readonly model: DemoModel }

export type ImportAnswer =
  | { readonly ok: true; readonly mesh: Uint8Array; readonly summary: MeshSummary; readonly picture: Uint8Array }
  | { readonly ok: true; readonly stl: Uint8Array }
  | { readonly ok: false; readonly code: string; readonly sentence: string }

const PICTURE = { width: 480, height: 320, azimuthDeg: 32, elevationDeg: -6 }

function read(task: Extract<ImportTask, { kind: 'read' }>): ImportAnswer {
  const prepared = prepareMesh(readStl(readFileSync(task.path)))
  if (prepared.mesh.triangles.length === 0) throw new MeshError('no-solid', 'This file holds only sheets without a thickness, nothing that could be printed. Give it a thickness and export it again.')
  const placed = placeMesh(prepared.mesh, placementOf(prepared.mesh.positions, task.pose, task.pixelMm))
  const drawn = drawPicture([{ mesh: placed, lit: [225, 219, 205], shade: [105, 98, 85] }], PICTURE.width, PICTURE.height, PICTURE.azimuthDeg, PICTURE.elevationDeg)
  const png = new PNG({ width: drawn.width, height: drawn.height })
  png.data = Buffer.from(drawn.rgba)
  const { sizeMm, ...report } = prepared.report
  return { ok: true, mesh: encodeMesh(prepared.mesh), summary: { ...report, sizeMm: [...sizeMm], looksStanding: looksStanding(prepared.mesh) }, picture: PNG.sync.write(png) }
}

async function run(task: ImportTask): Promise<ImportAnswer> {
  try {
    if (task.kind === 'read') return read(task)
    return { ok: true, stl: writeStl(await sculpt(task.model), `Oak Stilts demo: ${task.model}`) }
  } catch (error) {
    if (error instanceof MeshError) return { ok: false, code: error.code, sentence: error.message }
    if (error instanceof RangeError) return { ok: false, code: 'too-large', sentence: 'This model needs more memory than there is. Reduce the number of triangles and export it again.' }
    throw error
  }
}

void run(workerData as ImportTask).then(answer => parentPort?.postMessage(answer))
