import { beforeAll, describe, expect, it } from 'vitest'
import { DEFAULT_PRINTER, DEFAULT_RESIN, PLAIN_PRINT } from '../../contract'
import { boundsOf, isClosed, joinMeshes, sourceOfBytes, volumeOf, type Mesh } from '../../mesh'
import { AS_IS, type Stand } from '../../pose'
import { ModelScan } from '../../scan'
import { bowl, box, sphere } from '../../testing/shapes'
import { openPackage } from '../package/read-package'
import { PackageWriter } from '../package/write-package'
import { readPng } from '../png/read-png'
import { writePng } from '../png/write-png'
import { PlateSlicer, type SlicedLayer } from '../slice/plate-slicer'
import { timesOfLayers } from '../time'
import { rebuild } from './rebuild'
import { rehearse, type Rehearsal } from './rehearse'

const printer = { ...DEFAULT_PRINTER, widthMm: 30, depthMm: 15, pixelsX: 300, pixelsY: 150 }, resin = DEFAULT_RESIN, raster = { pixelMm: 0.1, layerMm: 0.1 }
// a lopsided part on a post, with a dish on it
const post = box([-3, -1, 0], [-2, 0, 5]), part = joinMeshes([box([-5, -3, 4.5], [4, 2, 8])]), dish = bowl(3, 0.6, 4, 0.8, 7.5, 48)

function layersOf(mesh: Mesh, stilts: readonly Mesh[] = [], smoothing: 'none' | 'fourfold' = 'none'): SlicedLayer[] {
  const slicer = new PlateSlicer({ parts: [{ id: 'a', mesh, stand: AS_IS as unknown as Stand, stilts, raft: null }], copies: [{ part: 'a', xPixels: 20, yPixels: -11, turnDeg: 0 }], printer, layerMm: 0.1, printing: { ...PLAIN_PRINT, smoothing }, resin })
  return Array.from({ length: slicer.bands }, (_, b) => [...slicer.band(b)]).flat()
}
function packaged(layers: readonly SlicedLayer[]): Uint8Array {
  const pieces: Uint8Array[] = [], writer = new PackageWriter({ name: 'Test', job: null, parts: [], layerMm: 0.1, printer, resin, printing: PLAIN_PRINT }, b => pieces.push(b.slice())), times = timesOfLayers(layers.length, 0.1, resin, [], printer)
  layers.forEach((l, k) => writer.add(l, times[k]))
  writer.finish()
  return Uint8Array.from(Buffer.concat(pieces))
}
const rehearsed = (bytes: Uint8Array): Promise<Rehearsal> => openPackage(sourceOfBytes(bytes), found => {
  const steps = rehearse(found)
  let step = steps.next()
  for (; !step.done; step = steps.next()) expect(step.value.share).toBeLessThanOrEqual(1)
  return Promise.resolve(step.value)
})
/** A layer with another picture. */
const changed = (layer: SlicedLayer, png: Uint8Array): SlicedLayer => ({ ...layer, png })

describe('a rehearsal', () => {
  let good: SlicedLayer[] = []
  beforeAll(() => {
    good = layersOf(joinMeshes([part]), [post, moved(dish)])
  })

  it('of a whole package finds what a scan of the same bodies finds: layers, areas, islands, cups', async () => {
    const { result, faults, firstLayer } = await rehearsed(packaged(good)), scan = new ModelScan(part, raster)
    scan.setStilts([post, moved(dish)])
    const own = scan.runTo('graph')
    expect(faults).toEqual([])
    expect([...result.areaMm2]).toEqual([...own.areaMm2])
    expect(firstLayer).toEqual({ regions: 1, areaMm2: expect.closeTo(1, 6) })
    expect(result.cups.map(c => [c.firstLayer, c.lastLayer, c.volumeMm3])).toEqual(own.cups.map(c => [c.firstLayer, c.lastLayer, c.volumeMm3]))
    expect(result.cups).toHaveLength(1)
    expect(result.islands.filter(i => i.state === 'open')).toEqual([])
    expect([...result.signals.peelN].every((n, k) => Math.abs(n - own.signals.peelN[k]) < 1e-9)).toBe(true)
  })
  it('with shades takes what is at least half lit as solid (second opinion: the plain layers)', async () => {
    const ball = sphere([0, 0, 3], 3, 48), shaded = await rehearsed(packaged(layersOf(ball, [], 'fourfold'))), plain = await rehearsed(packaged(layersOf(ball)))
    for (const [k, area] of plain.result.areaMm2.entries()) expect(Math.abs(shaded.result.areaMm2[k] - area)).toBeLessThan(0.05 * area + 0.1)
    expect(shaded.faults).toEqual([])
  })
  it('finds a layer that is missing: black, or left out so that all above come down', async () => {
    const black = writePng({ width: 300, height: 150, starts: new Int32Array(151), pairs: new Int32Array(0), shades: null })
    const holed = await rehearsed(packaged(good.map((l, k) => (k === 60 ? changed(l, black) : l))))
    expect(holed.faults.map(f => [f.kind, f.layer])).toEqual([['empty', 60], ['lit', 60]])
    expect(holed.result.islands.some(i => i.layer === 61 && i.state === 'open')).toBe(true)
    // pictures in the wrong places
    const fewer = await rehearsed(packaged(good.map((l, k) => (k >= 30 && k + 1 < good.length ? changed(l, good[k + 1].png) : l))))
    expect(fewer.faults[0]).toMatchObject({ kind: 'lit', layer: 44 })
  })
  it('finds a region that floats', async () => {
    const own = readPng(good[70].png), pairs: number[] = [], starts = new Int32Array(151)
    for (let r = 0; r < 150; r++) {
      for (let i = own.starts[r]; i < own.starts[r + 1]; i++) pairs.push(own.pairs[2 * i], own.pairs[2 * i + 1])
      if (r >= 10 && r < 20) pairs.push(280, 290)
      starts[r + 1] = pairs.length / 2
    }
    const floating = await rehearsed(packaged(good.map((l, k) => (k === 70 ? { ...changed(l, writePng({ width: 300, height: 150, starts, pairs: Int32Array.from(pairs), shades: null })), pixels: l.pixels + 100 } : l))))
    expect(floating.faults).toEqual([])
    expect(floating.result.islands.filter(i => i.state === 'open').map(i => [i.layer, i.areaMm2])).toEqual([[70, expect.closeTo(1, 6)]])
  })
  it('finds a layer that is mirrored, though it lights as much', async () => {
    const own = readPng(good[90].png), pairs: number[] = []
    for (let r = 0; r < 150; r++) for (let i = own.starts[r + 1] - 1; i >= own.starts[r]; i--) pairs.push(300 - own.pairs[2 * i + 1], 300 - own.pairs[2 * i])
    const mirrored = await rehearsed(packaged(good.map((l, k) => (k === 90 ? changed(l, writePng({ ...own, pairs: Int32Array.from(pairs) })) : l))))
    expect(mirrored.faults.map(f => [f.kind, f.layer, f.layers])).toEqual([['misplaced', 90, 1]])
    expect(mirrored.faults[0].sentence).toMatch(/^Layer 91 does not lie between its neighbours/)
  })
  it('rebuilds what the pictures print: closed, where it stands, of about its volume (closed forms: a ball, a box on the plate)', async () => {
    const ball = sphere([0, 0, 4], 3, 64), block = box([-7, -2, 0], [-4, 2, 5]), mesh = await openPackage(sourceOfBytes(packaged(layersOf(joinMeshes([ball, block])))), found => {
      const steps = rebuild(found)
      let step = steps.next()
      for (; !step.done; step = steps.next()) expect(step.value).toBeLessThanOrEqual(1)
      return Promise.resolve(step.value)
    })
    expect(isClosed(mesh)).toBe(true)
    expect(volumeOf(mesh) / ((4 / 3) * Math.PI * 27 + 60)).toBeCloseTo(1, 1)
    const { min, max } = boundsOf(mesh.positions)
    // copies stand 20 pixels of 0.1 mm to the right and 11 to the front
    for (const [i, mm] of [-7 + 2, -3 - 1.1, 0].entries()) expect(Math.abs(min[i] - mm)).toBeLessThan(0.21)
    for (const [i, mm] of [3 + 2, 3 - 1.1, 7].entries()) expect(Math.abs(max[i] - mm)).toBeLessThan(0.21)
  })
  it('says where the picture ends too early, and refuses one of another size', async () => {
    const wide = await rehearsed(packaged(layersOf(box([-30, -1, 0], [4, 1, 2]))))
    expect(wide.faults).toMatchObject([{ kind: 'edge', layer: 0, layers: 20 }])
    const small = writePng({ width: 299, height: 150, starts: new Int32Array(151), pairs: new Int32Array(0), shades: null })
    await expect(rehearsed(packaged(good.map((l, k) => (k === 3 ? changed(l, small) : l))))).rejects.toThrow('The picture of layer 4 has 299 × 150 pixels; the printer shows 300 × 150.')
    await expect(rehearsed(packaged(good.map((l, k) => (k === 3 ? changed(l, new Uint8Array(60)) : l))))).rejects.toMatchObject({ code: 'picture' })
  })
})

/** Onto the right end of the part. */
function moved(mesh: Mesh): Mesh {
  return { ...mesh, positions: mesh.positions.map((v, i) => (i % 3 === 0 ? v + 0.8 : v)) }
}
