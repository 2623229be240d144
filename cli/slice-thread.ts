import { parentPort, workerData } from 'node:worker_threads'
import { PlateSlicer, type PlateToSlice } from '@oak-stilts/core/print'

/** One core of `slice`: makes the layers of the bands that it is asked for. */
const slicer = new PlateSlicer(workerData as PlateToSlice)
parentPort?.on('message', (band: number) => {
  const layers = [...slicer.band(band)]
  parentPort?.postMessage(layers, layers.map(l => l.png.buffer as ArrayBuffer))
})
