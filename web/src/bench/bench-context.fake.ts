import { createPinia, setActivePinia } from 'pinia'
import { DEFAULT_PRINTER, DEFAULT_SETTINGS, type Job } from '@oak-stilts/core/contract'
import type { Mesh } from '@oak-stilts/core/mesh'
import { placementOf } from '@oak-stilts/core/pose'
import { ModelScan, type ScanResult } from '@oak-stilts/core/scan'
import { api } from '../api/client'
import type { Workers } from '../workers/clients'
import { createContext, type BenchContext } from './context'

/** For tests: a bench without a page. The job is there, nothing is sent, and workers answer what the test lets them. */
export async function fakeBench(mesh: Mesh, workers: { scan?: object; place?: object } = {}): Promise<BenchContext> {
  setActivePinia(createPinia())
  const job: Job = {
    id: 'job', name: 'A job', revision: 1, meshHash: '', printer: { ...DEFAULT_PRINTER, pixelMm: 0.1, layerMm: 0.1 },
    mesh: { triangles: mesh.triangles.length / 3, unclosedEdges: 0, zippedEdges: 0, cappedLoops: 0, duplicateTriangles: 0, degenerateTriangles: 0, shells: 1, turnedShells: 0, cavities: 0, sheets: 0, tooDamaged: false, volumeMm3: 1, sizeMm: [1, 1, 1], looksStanding: true },
    pose: { tiltXDeg: 0, tiltYDeg: 0, turnDeg: 0, liftMm: 0 }, poseSettled: true, nodes: [], beams: [], settings: DEFAULT_SETTINGS, waivers: [], batches: [],
  }
  api.job = () => Promise.resolve(job)
  api.edit = () => new Promise(() => undefined)
  const context = createContext()
  await context.store.open('job')
  context.workers.value = { scan: {}, place: {}, died: new Promise<void>(() => undefined), end: () => undefined, ...workers } as unknown as Workers
  context.model.value = { mesh, normals: new Float32Array(mesh.positions.length), buffer: new ArrayBuffer(0) }
  context.placement.value = placementOf(mesh.positions, job.pose, 0.1)
  context.state.placement = context.placement.value
  return context
}

/** What the scan of a mesh as it stands on the plate finds, on coarse pixels. */
export function scanned(mesh: Mesh, ...stilts: Mesh[]): ScanResult {
  const placement = placementOf(mesh.positions, { tiltXDeg: 0, tiltYDeg: 0, turnDeg: 0, liftMm: 0 }, 0.1)
  const scan = new ModelScan(mesh, { pixelMm: 0.1, layerMm: 0.1 }, placement)
  scan.setStilts(stilts)
  return scan.runToEnd()
}

/** Lets everything that is due happen. */
export async function settle(): Promise<void> {
  for (let i = 0; i < 12; i++) await Promise.resolve()
}
