import { DOMParser } from 'linkedom'
import type { Mesh as ThreeMesh} from 'three';
import { type BufferGeometry } from 'three'
import { ThreeMFLoader } from 'three/addons/loaders/3MFLoader.js'
import { OBJLoader } from 'three/addons/loaders/OBJLoader.js'
import { PLYLoader } from 'three/addons/loaders/PLYLoader.js'
import { STLLoader } from 'three/addons/loaders/STLLoader.js'
import { prepareMesh, readModel, wholeOf, write3mf, writeStl, type Mesh } from '../core/mesh'
import { ModelScan } from '../core/scan'
import { objText, plyBytes, stlText } from '../core/testing/model-files'
import { knot } from '../core/testing/shapes'
import { median } from './timing'

// Reading and checking a file of a million triangles in every format, beside the readers of three in the same run. Medians of three
// after a warm-up; one core.
const RUNS = 3
globalThis.DOMParser = DOMParser as unknown as typeof globalThis.DOMParser

async function timedRuns(work: () => unknown): Promise<number> {
  const times: number[] = []
  for (let run = 0; run <= RUNS; run++) {
    const start = performance.now()
    await work()
    if (run > 0) times.push(performance.now() - start)
  }
  return median(times)
}
const triangles = (g: BufferGeometry): number => (g.index?.count ?? g.attributes.position.count) / 3
const buffer = (bytes: Uint8Array): ArrayBuffer => bytes.slice().buffer
const text = (bytes: Uint8Array): string => new TextDecoder().decode(bytes)

const big = knot(5000, 100, 24, 15, 4.5, [0, 0, 27.5]), small = knot(500, 100, 24, 15, 4.5, [0, 0, 27.5])
const encode = (s: string): Uint8Array => new TextEncoder().encode(s)
const FILES: readonly (readonly [name: string, bytes: Uint8Array, theirs: (bytes: Uint8Array) => number])[] = [
  ['STL in binary', writeStl(big, 'knot'), b => triangles(new STLLoader().parse(buffer(b)))],
  ['STL in text', encode(stlText(big)), b => triangles(new STLLoader().parse(buffer(b)))],
  ['OBJ', encode(objText(big)), b => triangles((new OBJLoader().parse(text(b)).children[0] as ThreeMesh).geometry)],
  ['PLY in text', plyBytes(big, 'ascii'), b => triangles(new PLYLoader().parse(buffer(b)))],
  ['PLY in binary', plyBytes(big, 'binary_little_endian'), b => triangles(new PLYLoader().parse(buffer(b)))],
  ['3MF', write3mf([{ name: 'Knot', mesh: big }], 'knot'), () => 0],
]
const count = (m: Mesh): string => (m.triangles.length / 3).toLocaleString('en')
for (const [name, bytes, theirs] of FILES) {
  const ours = await timedRuns(() => readModel(bytes))
  const read = count(wholeOf(await readModel(bytes)))
  if (name === '3MF') {
    // their reader builds a tree of all the XML: a tenth of the triangles is what it manages
    const tenth = write3mf([{ name: 'Knot', mesh: small }], 'knot')
    const [own, other] = [await timedRuns(() => readModel(tenth)), await timedRuns(() => new ThreeMFLoader().parse(buffer(tenth)))]
    console.log(`${name}, ${(bytes.length / 1e6).toFixed(0)} MB, ${read} triangles: ${ours.toFixed(0)} ms; of ${count(small)} triangles ${own.toFixed(0)} ms, three on linkedom ${other.toFixed(0)} ms`)
  } else {
    const other = await timedRuns(() => theirs(bytes))
    console.log(`${name}, ${(bytes.length / 1e6).toFixed(0)} MB, ${read} triangles: ${ours.toFixed(0)} ms; three ${other.toFixed(0)} ms`)
  }
}
const mesh = prepareMesh(big).mesh
const prepare = await timedRuns(() => prepareMesh(big)), check = await timedRuns(() => prepareMesh(big, { crossings: true }))
const scan = await timedRuns(() => {
  for (const step of new ModelScan(mesh, { pixelMm: 0.05, layerMm: 0.05 }).run()) if (step.stage === 'graph') break
})
console.log(`mended ${prepare.toFixed(0)} ms, checked as well ${check.toFixed(0)} ms; layers and islands of the same mesh at 0.05 mm ${scan.toFixed(0)} ms`)
