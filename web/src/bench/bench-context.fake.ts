import { createPinia, setActivePinia } from 'pinia'
import { DEFAULT_PRINTER } from '@oak-stilts/core/contract'
import { encodeMesh, type Mesh } from '@oak-stilts/core/mesh'
import { motionOfPose, standOf } from '@oak-stilts/core/pose'
import { ModelScan, type ScanResult } from '@oak-stilts/core/scan'
import { jobRow, partRow, SUMMARY } from '../../../core/testing/jobs'
import { api } from '../api/client'
import type { Workers } from '../workers/clients'
import { createContext, type BenchContext } from './context'

/** For tests: a bench without a page. The job is there, nothing is sent, and workers answer what the test lets them. */
export async function fakeBench(mesh: Mesh, workers: { scan?: object; surface?: object } = {}): Promise<BenchContext> {
  setActivePinia(createPinia())
  const job = jobRow('job', {
    name: 'A job', revision: 1, layerMm: 0.1, printer: { ...DEFAULT_PRINTER, widthMm: 153.3, depthMm: 77.7, pixelsX: 1533, pixelsY: 777 },
    parts: [partRow('part', { pose: { tiltXDeg: 0, tiltYDeg: 0, liftMm: 0 }, source: { ...partRow().source, summary: { ...SUMMARY, triangles: mesh.triangles.length / 3 } } })],
  })
  api.job = () => Promise.resolve(job)
  api.history = () => Promise.resolve({ done: [], undone: [] })
  api.mesh = () => Promise.resolve(encodeMesh(mesh).buffer as ArrayBuffer)
  api.edit = () => new Promise(() => undefined)
  const context = createContext()
  await context.store.open('job')
  context.workers.value = { scan: {}, surface: {}, died: new Promise<void>(() => undefined), end: () => undefined, ...workers } as unknown as Workers
  context.model.value = { mesh, normals: new Float32Array(mesh.positions.length), buffer: new ArrayBuffer(0) }
  context.stand.value = standOf(mesh.positions, job.parts[0].pose, 0.1)
  context.state.stand = context.stand.value
  return context
}

/** What the scan of a mesh as it stands on the plate finds, on coarse pixels. */
export function scanned(mesh: Mesh, ...stilts: Mesh[]): ScanResult {
  const stand = motionOfPose(mesh.positions, { tiltXDeg: 0, tiltYDeg: 0, turnDeg: 0, liftMm: 0 }, 0.1)
  const scan = new ModelScan(mesh, { pixelMm: 0.1, layerMm: 0.1 }, stand)
  scan.setStilts(stilts)
  return scan.runToEnd()
}

/** Lets everything that is due happen. */
export async function settle(): Promise<void> {
  for (let i = 0; i < 12; i++) await Promise.resolve()
}
