import Module from 'manifold-3d'
import { prepareMesh, volumeOf, type Mesh } from '../core/mesh'
import { ModelScan } from '../core/scan'
import { knot } from '../core/testing/shapes'

const RUNS = 5
const raster = { pixelMm: 0.05, layerMm: 0.05 }

const wasm = await Module()
wasm.setup()

function median(values: number[]): number {
  return [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]
}

function timed<T>(work: () => T): [T, number] {
  const start = performance.now()
  const value = work()
  return [value, performance.now() - start]
}

/** The same planes cut by a general-purpose geometry library. */
function cutAll(solid: InstanceType<typeof wasm.Manifold>, layerCount: number): number {
  let contours = 0
  for (let k = 0; k < layerCount; k++) {
    const cut = solid.slice((k + 0.5) * raster.layerMm)
    contours += cut.numContour()
    cut.delete()
  }
  return contours
}

function toManifold(mesh: Mesh): InstanceType<typeof wasm.Manifold> {
  const input = new wasm.Mesh({ numProp: 3, vertProperties: mesh.positions, triVerts: mesh.triangles })
  return new wasm.Manifold(input)
}

const source = knot(5000, 100, 24, 15, 4.5, [0, 0, 27.5])
const { mesh } = prepareMesh(source)
console.log(`torus knot: ${mesh.triangles.length / 3} triangles, ${volumeOf(mesh).toFixed(0)} mm³`)
const [solid, buildMs] = timed(() => toManifold(mesh))
const scanTimes: number[] = [], cutTimes: number[] = []
for (let run = 0; run <= RUNS; run++) {
  const [result, scanMs] = timed(() => new ModelScan(mesh, raster).runToEnd())
  const [contours, cutMs] = timed(() => cutAll(solid, result.layerCount))
  if (run === 0) {
    console.log(`${result.layerCount} layers, ${result.islands.length} islands, ${result.cups.length} cups; the reference cut ${contours} contours, its build took ${buildMs.toFixed(0)} ms`)
    continue
  }
  scanTimes.push(scanMs)
  cutTimes.push(cutMs)
}
console.log(`scan, islands and suction: ${median(scanTimes).toFixed(0)} ms (${scanTimes.map(t => t.toFixed(0)).join(', ')})`)
console.log(`manifold-3d, the same planes: ${median(cutTimes).toFixed(0)} ms (${cutTimes.map(t => t.toFixed(0)).join(', ')})`)
console.log(`ratio ${(median(scanTimes) / median(cutTimes)).toFixed(2)}, peak memory ${(process.resourceUsage().maxRSS / 1024).toFixed(0)} MB (both in one process)`)
