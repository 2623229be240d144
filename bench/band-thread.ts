import { parentPort, workerData } from 'node:worker_threads'
import type { Mesh } from '../core/mesh'
import { buffersOf, ModelScan, type Raster } from '../core/scan'

// One core of the benchmark: makes the graphs of the bands that it is asked for; spans stay here.
const { positions, triangles, raster } = workerData as Mesh & { raster: Raster }
let scan: ModelScan | null = null
parentPort?.on('message', (message: { prepare?: true; list?: number[] }) => {
  if (message.prepare) {
    scan = new ModelScan({ positions, triangles }, raster)
    parentPort?.postMessage({ bands: scan.bands, chunks: [] })
    return
  }
  const current = scan
  if (!current) return
  const chunks = [...(message.list ?? [])].sort((a, b) => a - b).map(b => [b, current.makeBand(b)] as const)
  parentPort?.postMessage({ bands: current.bands, chunks }, chunks.flatMap(([, c]) => buffersOf(c)))
})
