import { describe, expect, it } from 'vitest'
import { joinMeshes, type Mesh } from '../../mesh'
import { bowl, box, knot, sphere } from '../../testing/shapes'
import { contourOf, hangingOutline, islandOutline, ModelScan } from '../index'

const raster = { pixelMm: 0.1, layerMm: 0.1 }
const run = (mesh: Mesh, ...stilts: Mesh[]): ModelScan => {
  const scan = new ModelScan(mesh, raster)
  scan.setStilts(stilts)
  scan.runToEnd()
  return scan
}
/** How often every end point of the segments occurs, by whole pixels. */
function degrees(lines: Float32Array): Map<string, number> {
  const out = new Map<string, number>()
  for (let i = 0; i < lines.length; i += 3) {
    const key = `${Math.round(lines[i] / raster.pixelMm)} ${Math.round(lines[i + 1] / raster.pixelMm)}`
    out.set(key, (out.get(key) ?? 0) + 1)
  }
  return out
}
/** Area inside closed outlines, by the upright edges of every row taken in pairs: the rule of even and odd. */
function areaInside(lines: Float32Array): number {
  const rows = new Map<number, number[]>()
  for (let i = 0; i < lines.length; i += 6) {
    if (Math.abs(lines[i] - lines[i + 3]) > 1e-6) continue
    const low = Math.round(Math.min(lines[i + 1], lines[i + 4]) / raster.pixelMm), high = Math.round(Math.max(lines[i + 1], lines[i + 4]) / raster.pixelMm)
    for (let r = low; r < high; r++) rows.set(r, [...(rows.get(r) ?? []), lines[i]])
  }
  let area = 0
  for (const xs of rows.values()) {
    xs.sort((a, b) => a - b)
    for (let i = 0; i + 1 < xs.length; i += 2) area += (xs[i + 1] - xs[i]) * raster.pixelMm
  }
  return area
}

describe('the outline of a layer', () => {
  it.each<[string, Mesh, number[]]>([
    ['a ball', sphere([0, 0, 5], 4, 48), [20, 50, 80]],
    ['a bowl, inside and outside', bowl(5, 1, 6, 1, 0, 64), [5, 30]],
    ['a knot in several pieces', knot(120, 16, 8, 4, 1.4, [0, 0, 8]), [40, 80, 110]],
  ])('of %s closes, and encloses the area of the layer', (_, mesh, layers) => {
    const scan = run(mesh), areas = scan.runToEnd().areaMm2
    for (const k of layers) {
      const lines = contourOf(scan, k)
      expect(lines.length).toBeGreaterThan(0)
      // every corner is where an even number of edges ends
      let loose = 0
      for (const n of degrees(lines).values()) loose += n % 2
      expect(loose).toBe(0)
      expect(areaInside(lines)).toBeCloseTo(areas[k], 4)
      for (let i = 2; i < lines.length; i += 3) expect(lines[i]).toBeCloseTo((k + 0.5) * raster.layerMm, 5)
    }
  })
  it('is the model alone, whatever stilts stand beside it', () => {
    const ball = sphere([0, 0, 5], 3, 32)
    expect(contourOf(run(ball, box([5, 5, 0], [6, 6, 8])), 50)).toEqual(contourOf(run(ball), 50))
  })
  it('is nothing where the layer has nothing', () => {
    expect(contourOf(run(box([0, 0, 2], [3, 3, 4])), 5)).toHaveLength(0)
  })
})

describe('the outline of what hangs', () => {
  it('runs around what a shelf has out of reach, at its layer', () => {
    const scan = run(joinMeshes([box([0, 0, 0], [3, 4, 8]), box([2, 0, 5], [8, 4, 8])]))
    const [ledge] = scan.runToEnd().ledges
    const lines = hangingOutline(scan, ledge.hanging)
    expect(areaInside(lines)).toBeCloseTo(ledge.hangingMm2, 4)
    // a flap of 1 mm carries itself: what hangs begins there
    expect(Math.min(...lines.filter((_, i) => i % 3 === 0))).toBeCloseTo(4, 1)
    expect(new Set(Array.from(lines).filter((_, i) => i % 3 === 2).map(z => z.toFixed(2)))).toEqual(new Set(['5.05']))
  })
  it('leaves out what a tip holds', () => {
    const scan = run(joinMeshes([box([0, 0, 0], [3, 4, 8]), box([2, 0, 5], [8, 4, 8])]), box([7, 1.5, 0], [7.5, 2, 5.3]))
    const [ledge] = scan.runToEnd().ledges
    expect(ledge.state).toBe('partly')
    // the outline is that of whole pieces: what bridges from the post to the tip is inside it, though it does not hang
    const inside = areaInside(hangingOutline(scan, ledge.hanging))
    expect(inside).toBeGreaterThanOrEqual(ledge.hangingMm2)
    expect(inside).toBeLessThan(ledge.hangingMm2 + 0.5)
    expect(inside).toBeLessThan(ledge.areaMm2 / 2)
  })
  it('is nothing for nothing', () => {
    expect(hangingOutline(run(box([0, 0, 0], [2, 2, 2])), [])).toHaveLength(0)
  })
})

describe('the outline of an island', () => {
  it('is that of its first layer, on its underside', () => {
    const scan = run(joinMeshes([box([0, 0, 3], [2, 3, 5]), box([6, 0, 3], [7, 1, 5])]))
    const tree = scan.modelTree
    const [large] = scan.runToEnd().islands
    const lines = islandOutline(scan, large.layer, large.component - (tree?.graph.solidStarts[large.layer] ?? 0))
    expect(areaInside(lines)).toBeCloseTo(6, 4)
    expect(lines.length / 6).toBe(2 * (20 + 30))
    expect(lines[2]).toBeCloseTo(3, 6)
  })
})
