import { createRequire } from 'node:module'
import type * as OpenCv from '@techstark/opencv-js'
import Module from 'manifold-3d'
import { beforeAll, describe, expect, it } from 'vitest'
import { prepareMesh, volumeOf, type Mesh } from '../mesh'
import { motionOfPose, moveMesh } from '../pose'
import { bunnyMesh } from '../testing/bunny'
import { box, joinMeshes, knot } from '../testing/shapes'
import { labelLayer, newLabels } from './graph/layer-labels'
import { ModelScan } from './index'

// Reference libraries, run beside the scan: manifold-3d cuts the same planes, OpenCV labels the same rasters.
// Open data set: Stanford bunny (Stanford 3D Scanning Repository), as the npm package "bunny" carries it.
const raster = { pixelMm: 0.05, layerMm: 0.05 }
const HEIGHTS = 50

let wasm: Awaited<ReturnType<typeof Module>>
let cv: typeof OpenCv
// an import would be taken for a promise, since the module is a thenable that gives itself
const cvModule = createRequire(import.meta.url)('@techstark/opencv-js') as { then(done: (c: typeof OpenCv) => void): void }
beforeAll(async () => {
  wasm = await Module()
  wasm.setup()
  await new Promise<void>(resolve => {
    cvModule.then(c => {
      cv = c
      resolve()
    })
  })
}, 120000)

const models: [string, () => Mesh][] = [['the Stanford bunny', bunnyMesh], ['a torus knot', () => knot(900, 40, 12, 7, 2.2, [0, 0, 20])]]

describe.each(models)('%s beside the reference libraries', (_, make) => {
  const prepared = prepareMesh(make())
  const stand = motionOfPose(prepared.mesh.positions, { tiltXDeg: 12, tiltYDeg: -7, turnDeg: 20, liftMm: 5 }, 0.05)
  const scan = new ModelScan(prepared.mesh, raster, stand)
  const result = scan.runToEnd()
  const layers = Array.from({ length: HEIGHTS }, (_, i) => 102 + Math.floor(((result.layerCount - 106) * i) / HEIGHTS))

  it('has the layer areas that manifold-3d cuts, within half a percent', () => {
    const placed = moveMesh(prepared.mesh, stand)
    const solid = new wasm.Manifold(new wasm.Mesh({ numProp: 3, vertProperties: placed.positions, triVerts: placed.triangles }))
    expect(solid.volume()).toBeCloseTo(volumeOf(prepared.mesh), 0)
    let strictly = 0
    for (const k of layers) {
      const cut = solid.slice((k + 0.5) * 0.05)
      const outline = cut.toPolygons().reduce((sum, p) => sum + p.reduce((l, q, i) => l + Math.hypot(q[0] - p[(i + 1) % p.length][0], q[1] - p[(i + 1) % p.length][1]), 0), 0)
      const off = Math.abs(result.areaMm2[k] - cut.area())
      // where a section is so small that a few pixels are more, pixels of its outline fall in or out like coins
      expect(off).toBeLessThanOrEqual(Math.max(0.005 * cut.area(), 3 * Math.sqrt(outline / 0.05) * 0.05 ** 2))
      if (off <= 0.005 * cut.area()) strictly++
      cut.delete()
    }
    expect(strictly).toBeGreaterThanOrEqual(HEIGHTS - 2)
    const volume = result.areaMm2.reduce((a, b) => a + b, 0) * 0.05
    expect(volume / solid.volume()).toBeCloseTo(1, 2)
    solid.delete()
  })

  it('has the regions and their areas that OpenCV labels, and the enclosed empty ones', () => {
    const { rows } = scan.frame
    for (const k of layers.filter((_, i) => i % 4 === 0)) {
      const { model } = scan.layerSpans(k)
      const x0 = Math.min(...model.pairs) - 1, width = Math.max(...model.pairs) - x0 + 2
      const image = new cv.Mat(rows + 2, width, cv.CV_8UC1, new cv.Scalar(0))
      for (let r = 0; r < rows; r++) for (let s = model.starts[r]; s < model.starts[r + 1]; s++) image.data.fill(255, (r + 1) * width + model.pairs[2 * s] - x0, (r + 1) * width + model.pairs[2 * s + 1] - x0)
      const own = newLabels()
      labelLayer(model.starts, 0, rows, model.pairs, own)
      const areas = (inverted: boolean): number[] => {
        const source = new cv.Mat()
        if (inverted) cv.bitwise_not(image, source)
        else image.copyTo(source)
        const labels = new cv.Mat(), stats = new cv.Mat(), centers = new cv.Mat()
        const n = cv.connectedComponentsWithStats(source, labels, stats, centers, 4, cv.CV_32S)
        const outside = inverted ? labels.data32S[0] : 0
        const out: number[] = []
        for (let i = 1; i < n; i++) if (i !== outside) out.push(stats.data32S[i * stats.cols + cv.CC_STAT_AREA])
        for (const m of [source, labels, stats, centers]) m.delete()
        return out.sort((a, b) => a - b)
      }
      const solid = new Array<number>(own.solidCount).fill(0), empty = new Array<number>(own.emptyCount).fill(0)
      for (let r = 0; r < rows; r++) {
        for (let s = model.starts[r]; s < model.starts[r + 1]; s++) {
          solid[own.solid[s]] += model.pairs[2 * s + 1] - model.pairs[2 * s]
          if (own.empty[s] >= 0) empty[own.empty[s]] += model.pairs[2 * s] - model.pairs[2 * s - 1]
        }
      }
      expect(solid.sort((a, b) => a - b)).toEqual(areas(false))
      expect(empty.sort((a, b) => a - b)).toEqual(areas(true))
      image.delete()
    }
  })
})

describe('the reach beside the distance transform of an image library', () => {
  // a broad plate is laid in one layer on a few posts; nothing stands in a straight way's way
  it.each([1, 2, 3, 4, 5, 6])('is as far as OpenCV says, scene %i', seed => {
    const pixelMm = 0.1
    const at = (n: number): number => Math.floor(((Math.sin(seed * 12.9898 + n * 78.233) * 43758.5453) % 1 + 1) % 1 * 140) / 10
    const posts = Array.from({ length: 1 + (seed % 4) }, (_, i) => box([at(i), at(i + 9), 0], [at(i) + 0.8, at(i + 9) + 0.8, 3.05]))
    const scan = new ModelScan(joinMeshes([box([0, 0, 3], [15, 15, 4]), ...posts]), { pixelMm, layerMm: 0.1 })
    scan.runToEnd()
    const pieces = scan.reachLog[30]?.pieces ?? []
    const below = scan.layerSpans(29).model, { rows } = scan.frame
    // the library measures to the nearest zero: what the layer below has
    const image = new cv.Mat(150, 150, cv.CV_8UC1, new cv.Scalar(255))
    for (let r = 0; r < rows; r++) for (let s = below.starts[r]; s < below.starts[r + 1]; s++) image.data.fill(0, (r + scan.frame.row0) * 150 + below.pairs[2 * s], (r + scan.frame.row0) * 150 + below.pairs[2 * s + 1])
    const distance = new cv.Mat()
    cv.distanceTransform(image, distance, cv.DIST_L2, cv.DIST_MASK_PRECISE)
    let farthest = 0, over = 0
    for (const d of distance.data32F) {
      if (d > farthest) farthest = d
      if (d > 10.003) over++
    }
    expect(Math.abs(Math.max(...pieces.map(p => p.reach)) - farthest)).toBeLessThan(0.05)
    expect(Math.abs(pieces.reduce((n, p) => n + p.pixels, 0) - over) / over).toBeLessThan(0.005)
    image.delete()
    distance.delete()
  })
})
