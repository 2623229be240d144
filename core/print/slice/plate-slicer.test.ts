import { inflateSync } from 'node:zlib'
import Module from 'manifold-3d'
import { describe, expect, it } from 'vitest'
import { DEFAULT_RESIN, PLAIN_PRINT, SMOOTHINGS, type Smoothing } from '../../contract'
import { joinMeshes, prepareMesh, type Mesh } from '../../mesh'
import { AS_IS, DEFAULT_POSE, standOf, type Stand } from '../../pose'
import { ModelScan } from '../../scan'
import { bunnyMesh } from '../../testing/bunny'
import { between, random } from '../../testing/random'
import { box, sphere } from '../../testing/shapes'
import { PlateSlicer, SLICED_AT_ONCE } from './plate-slicer'
import type { PlateToSlice } from './plate-to-slice'

const wasm = await Module()
wasm.setup()

const printer = { widthMm: 20, depthMm: 15, pixelsX: 400, pixelsY: 301 }
const W = printer.pixelsX, MIDDLE_X = 200, MIDDLE_Y = 150
const asIs = AS_IS as unknown as Stand
function plateOf(more: Partial<PlateToSlice>, smoothing: Smoothing = 'none'): PlateToSlice {
  return { parts: [], copies: [{ part: 'a', xPixels: 0, yPixels: 0, turnDeg: 0 }], printer, layerMm: 0.05, printing: { ...PLAIN_PRINT, smoothing }, resin: DEFAULT_RESIN, ...more }
}
const alone = (mesh: Mesh, stand: Stand = asIs) => ({ id: 'a', mesh, stand, stilts: [], raft: null })

/** All pictures, one byte a pixel, the front row first (Reference library: node:zlib; the pictures are read by another decoder elsewhere). */
function pictures(plate: PlateToSlice): { grey: Uint8Array[]; lit: number[]; part: number[]; raft: number[]; cut: number[] } {
  const slicer = new PlateSlicer(plate), layers = Array.from({ length: slicer.bands }, (_, b) => [...slicer.band(b)]).flat(), { pixelsX: w, pixelsY: h } = plate.printer
  expect(layers).toHaveLength(slicer.layerCount)
  return {
    grey: layers.map(({ png }) => {
      const view = new DataView(png.buffer, png.byteOffset), rows = inflateSync(png.subarray(41, 41 + view.getUint32(33))), out = new Uint8Array(w * h)
      expect([view.getUint32(16), view.getUint32(20)]).toEqual([w, h])
      for (let y = 0; y < h; y++) out.set(rows.subarray(y * (w + 1) + 1, (y + 1) * (w + 1)), (h - 1 - y) * w)
      return out
    }),
    lit: layers.map(l => l.pixels), part: layers.map(l => l.partPixels), raft: layers.map(l => l.raftPixels), cut: layers.map(l => l.cutPixels),
  }
}

describe('layers as pictures', () => {
  const bunny = prepareMesh({ ...bunnyMesh(), positions: bunnyMesh().positions.map(v => v * 0.2) }).mesh, stand = standOf(bunny.positions, { ...DEFAULT_POSE, liftMm: 2 }, 0.05)
  const posts = [box([-3, -2.6, 0], [-2.4, -2, 4]), box([0, 0, 0], [0.6, 0.6, 5]), sphere([2, 1, 1], 1.2, 16)]

  it('are pixel for pixel those of the scan at one shade, wherever a copy stands', () => {
    const scan = new ModelScan(bunny, { pixelMm: 0.05, layerMm: 0.05 }, stand)
    scan.setStilts(posts)
    scan.runTo('graph')
    for (const [xPixels, yPixels] of [[0, 0], [-57, 33]]) {
      const { grey, lit } = pictures(plateOf({ parts: [{ ...alone(bunny, stand), stilts: posts }], copies: [{ part: 'a', xPixels, yPixels, turnDeg: 0 }] }))
      expect(grey).toHaveLength(scan.layerCount)
      for (const [k, picture] of grey.entries()) {
        const { all } = scan.layerSpans(k), own = new Uint8Array(picture.length), { row0, rows } = scan.frame
        for (let r = 0; r < rows; r++) for (let s = all.starts[r]; s < all.starts[r + 1]; s++) own.fill(255, (row0 + r + yPixels + MIDDLE_Y) * W + all.pairs[2 * s] + xPixels + MIDDLE_X, (row0 + r + yPixels + MIDDLE_Y) * W + all.pairs[2 * s + 1] + xPixels + MIDDLE_X)
        expect(Buffer.compare(picture, own), `layer ${k}`).toBe(0)
        expect(lit[k]).toBe(own.reduce((n, v) => n + (v >> 7), 0))
      }
    }
  })

  it('have the areas of exact cuts at 50 heights, shades nearer than one (Reference library: manifold-3d)', () => {
    const solid = new wasm.Manifold(new wasm.Mesh({ numProp: 3, vertProperties: bunny.positions, triVerts: bunny.triangles })), top = bunny.positions.reduce((m, z, i) => (i % 3 === 2 ? Math.max(m, z) : m), -Infinity), base = bunny.positions.reduce((m, z, i) => (i % 3 === 2 ? Math.min(m, z) : m), Infinity)
    const stood = standOf(bunny.positions, { tiltXDeg: 0, tiltYDeg: 0, liftMm: 0 }, 0.05), error: Partial<Record<Smoothing, number>> = {}, sums: Partial<Record<Smoothing, number>> = {}
    for (const smoothing of ['none', 'twice', 'fourfold'] as const) {
      const { lit, grey } = pictures(plateOf({ parts: [alone(bunny, stood)] }, smoothing)), n = grey.length
      let off = 0, exactSum = 0, shadeSum = 0
      for (let i = 0; i < 50; i++) {
        const k = Math.floor(((i + 0.5) * n) / 50), cut = solid.slice(base + (k + 0.5) * 0.05), exact = cut.area()
        const shades = grey[k].reduce((sum, v) => sum + v, 0) / 255 * 0.05 ** 2
        expect(shades).toBeCloseTo(lit[k] * 0.05 ** 2, 1)
        off += Math.abs(lit[k] * 0.05 ** 2 - exact)
        exactSum += exact
        shadeSum += shades
        cut.delete()
      }
      error[smoothing] = off / exactSum
      sums[smoothing] = Math.abs(shadeSum / exactSum - 1)
    }
    expect(top).toBeGreaterThan(base)
    expect(error.none).toBeLessThan(0.002)
    expect(error.fourfold).toBeLessThan(error.none as number)
    expect(sums.fourfold).toBeLessThan(0.002)
    solid.delete()
  })

  it('give a pixel the share of it that is solid (closed form: a box whose sides lie a quarter into a pixel), and layers that begin halfway half of it', () => {
    const block = box([0.0125, 0.0125, 0], [1.0125, 0.5125, 0.325]), { grey } = pictures(plateOf({ parts: [alone(block)] }, 'finest'))
    const at = (k: number, x: number, y: number): number => grey[k][(MIDDLE_Y + y) * W + MIDDLE_X + x]
    expect([at(0, 1, 1), at(0, 0, 1), at(0, 20, 1), at(0, 1, 0), at(0, 0, 0), at(0, 20, 10)]).toEqual([255, Math.round(255 * 0.75), Math.round(255 * 0.25), Math.round(255 * 0.75), Math.round(255 * 0.5625), Math.round(255 * 0.0625)])
    expect(grey).toHaveLength(7)
    expect(at(6, 1, 1)).toBe(128)
    // shades of rows that overlap in part, against a sum of samples
    const r = random(4), balls = joinMeshes([sphere([0, 0, 2], 2, 20), sphere([between(r, -1, 1), 1, 2.5], 1.7, 20)]), shaded = pictures(plateOf({ parts: [alone(balls)] }, 'twice')), fine = pictures(plateOf({ parts: [alone(balls)], printer: { ...printer, pixelsX: 800, pixelsY: 602 } }))
    for (const k of [10, 40, 70]) for (let y = 100; y < 210; y++) for (let x = 150; x < 260; x++) {
      const sum = [0, 1].reduce((s, b) => s + (fine.grey[k][(2 * y + b + 1) * 800 + 2 * x] >> 7) + (fine.grey[k][(2 * y + b + 1) * 800 + 2 * x + 1] >> 7), 0)
      if (shaded.grey[k][y * W + x] !== Math.round((255 * sum) / 4)) throw new Error(`layer ${k}, pixel ${x}, ${y}: ${shaded.grey[k][y * W + x]}, not of ${sum} samples`)
    }
  })

  it('are the same in bands of their own as in one go, and one after another of several copies, turned ones as well', () => {
    const plate = plateOf({ parts: [{ ...alone(bunny, stand), stilts: posts }], copies: [{ part: 'a', xPixels: -95, yPixels: 0, turnDeg: 0 }, { part: 'a', xPixels: 95, yPixels: -20, turnDeg: 90 }] }), all = pictures(plate), last = new PlateSlicer(plate)
    expect(last.bands).toBeGreaterThan(3)
    const k = 2 * SLICED_AT_ONCE, [first] = [...last.band(2)]
    expect(first.pixels).toBe(all.lit[k])
    const single = pictures(plateOf({ parts: plate.parts }))
    for (let l = 0; l < all.lit.length; l += 7) expect(Math.abs(all.lit[l] / (2 * single.lit[l]) - 1)).toBeLessThan(0.03)
    // a quarter turn of pixel (x, y) is (−y, x)
    const onlyTurned = pictures({ ...plate, copies: [plate.copies[1]] })
    let same = 0, both = 0
    for (let y = -90; y < 90; y++) for (let x = -90; x < 90; x++) {
      const a = single.grey[60][(MIDDLE_Y + y) * W + MIDDLE_X + x], b = onlyTurned.grey[60][(MIDDLE_Y - 20 + x) * W + MIDDLE_X + 95 - 1 - y]
      if (a > 0 || b > 0) both++
      if (a > 0 && b > 0) same++
    }
    expect(same / both).toBeGreaterThan(0.98)
  })

  it('are grown by what the resin shrinks, along each axis (closed form: a cube of 10 mm), about the middle of the plate', () => {
    const cube = box([-5, -5, 0], [5, 5, 10])
    for (const [resin, own, size] of [[2, null, [10 / 0.98, 10 / 0.98, 10 / 0.98]], [0, [5, 0, 1], [10 / 0.95, 10, 10 / 0.99]]] as const) {
      const { grey } = pictures({ ...plateOf({ parts: [alone(cube)], resin: { shrinkagePercent: resin } }), printing: { smoothing: 'none', shrinkagePercent: own && [...own] } })
      const row = grey[5].subarray(MIDDLE_Y * W, (MIDDLE_Y + 1) * W), across = row.reduce((n, v) => n + (v >> 7), 0), along = Array.from({ length: 401 }, (_, y) => grey[5][y * W + 300] >> 7).reduce((a, b) => a + b, 0)
      expect(Math.abs(across * 0.05 - size[0])).toBeLessThanOrEqual(0.05)
      expect(Math.abs(along * 0.05 - size[1])).toBeLessThanOrEqual(0.05)
      expect(Math.abs(grey.length * 0.05 - size[2])).toBeLessThanOrEqual(0.05)
      expect(Math.abs(row.indexOf(255) + row.lastIndexOf(255) - 399)).toBeLessThanOrEqual(1)
    }
  })

  it('tell parts, rafts and stilts apart, and what lies outside the picture', () => {
    const raft = box([-2, -2, 0], [2, 2, 0.5]), post = box([-0.5, -0.5, 0.2], [0.5, 0.5, 3]), part = box([-3, -3, 2.5], [3, 3, 4])
    const { lit, part: parts, raft: rafts, cut } = pictures(plateOf({ parts: [{ ...alone(part), stilts: [post], raft }], copies: [{ part: 'a', xPixels: 0, yPixels: 0, turnDeg: 0 }, { part: 'a', xPixels: 180, yPixels: 0, turnDeg: 0 }] }))
    // two copies, the right one of 6 mm stands 20 pixels from the edge: 40 of its 120 columns lie outside
    expect([lit[5], parts[5], rafts[5]]).toEqual([2 * 80 * 80 - 20 * 80, 0, 2 * 80 * 80])
    expect([lit[20], rafts[20]]).toEqual([2 * 400, 0])
    expect([lit[60], parts[60], cut[60]]).toEqual([120 * 120 + 80 * 120, 2 * 120 * 120, 40 * 120])
    for (const s of Object.keys(SMOOTHINGS) as Smoothing[]) expect(pictures(plateOf({ parts: [alone(part)] }, s)).lit[60]).toBeCloseTo(120 * 120, 6)
  })

  it('of nothing are none', () => {
    expect(new PlateSlicer(plateOf({})).layerCount).toBe(0)
  })
})
