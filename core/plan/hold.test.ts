import { describe, expect, it } from 'vitest'
import { OFF_LIMITS, PLAIN, PRIZED, SPARE } from '../marks'
import { joinMeshes, prepareMesh, type Mesh } from '../mesh'
import { ModelScan, type ScanResult } from '../scan'
import { BeamField, beamsOfShape, gapOfBeams, GAUGES, Surface, type StiltShape } from '../stilts'
import { box, sphere } from '../testing/shapes'
import { holdOpenIslands, type HoldOptions, type HoldResult } from './index'

const raster = { pixelMm: 0.05, layerMm: 0.05 }
const plate = { widthMm: 150, depthMm: 80 }

function hold(mesh: Mesh, what: (before: ScanResult) => Omit<HoldOptions, 'gauges' | 'plate'> = () => ({})): HoldResult {
  const prepared = prepareMesh(mesh).mesh
  const scan = new ModelScan(prepared, raster)
  const before = scan.runToEnd()
  const steps = holdOpenIslands(scan, new Surface(prepared), [], { gauges: GAUGES, plate, ...what(before) })
  for (;;) {
    const step = steps.next()
    if (step.done) return step.value
  }
}

describe('holding open islands', () => {
  const scene = joinMeshes([sphere([0, 0, 12], 4, 64), sphere([14, 0, 9], 1.2, 40), sphere([-14, 3, 20], 2.4, 40), sphere([0, 14, 15], 0.4, 24)])

  it('puts a stilt of fitting gauge under each, so that a scan finds none open', () => {
    const { added, notHeld, result } = hold(scene)
    expect(result.islands.map(i => i.state)).toEqual(['held', 'held', 'held', 'held'])
    expect(result.floating).toEqual([])
    expect(notHeld).toEqual([])
    const gaugeAt = (x: number): string | undefined => added.find(s => Math.abs(s.path[0][0] - x) < 1)?.gauge
    // the body carries, the limb is structural, details get finer ones
    expect([gaugeAt(0), gaugeAt(-14), gaugeAt(14)]).toEqual(['heavy', 'medium', 'light'])
    expect(added.find(s => s.path[0][1] > 13)?.gauge).toBe('fine')
  })

  it('spreads tips over a broad flat so that all of it is within reach', () => {
    const { added, result } = hold(box([-8, -5, 6], [8, 5, 9]))
    expect(result.islands.map(i => i.state)).toEqual(['held'])
    for (let x = -7.9; x < 8; x += 0.5) {
      for (let y = -4.9; y < 5; y += 0.5) expect(Math.min(...added.map(s => Math.hypot(s.path[0][0] - x, s.path[0][1] - y)))).toBeLessThan(2.1)
    }
  })

  it('lists what cannot be held, with the reason', () => {
    const walls = [box([-30, -30, 0], [30, -29, 60]), box([-30, 29, 0], [30, 30, 60]), box([-30, -30, 0], [-29, 30, 60]), box([29, -30, 0], [30, 30, 60]), box([-30, -30, 0], [30, 30, 2])]
    const { added, notHeld, result } = hold(joinMeshes([...walls, sphere([0, 0, 50], 3, 40)]))
    expect(added).toEqual([])
    expect(notHeld).toHaveLength(1)
    expect(notHeld[0].reason).toMatch(/blocked within 45°/)
    expect(result.islands.map(i => i.state)).toEqual(['open'])
  })

  it('holds only what it is asked for, and gives the same plan for the same model', () => {
    const ids = new Set([hold(scene).result.islands[1].id])
    const one = hold(scene, () => ({ only: ids }))
    expect(one.result.islands.filter(i => i.state === 'held').map(i => i.id)).toEqual([...ids])
    expect(hold(scene, () => ({ only: ids })).added).toEqual(one.added)
  })

  it('keeps stilts clear of each other, and comes nearer only where nothing else holds', () => {
    const nearest = (added: readonly StiltShape[]): number => Math.min(...added.flatMap((s, i) => added.slice(0, i).flatMap(o => beamsOfShape(s).flatMap(a => beamsOfShape(o).map(b => gapOfBeams(a, b).gapMm)))))
    const flat = box([-8, -5, 9], [8, 5, 12]), without = hold(flat), kept = hold(flat, () => ({ others: { field: new BeamField(), limitMm: 0.5 } }))
    expect(nearest(without.added)).toBeLessThan(0.5)
    expect(nearest(kept.added)).toBeGreaterThanOrEqual(0.5)
    expect([kept.near, kept.notHeld, kept.result.islands.map(i => i.state)]).toEqual([0, [], ['held']])
    // two pins side by side: each needs a tip, and there is no room for two that keep clear
    const pins = joinMeshes([box([-1, -0.1, 9], [-0.6, 0.1, 12]), box([0.6, -0.1, 9], [1, 0.1, 12]), box([-1, -0.1, 11.5], [1, 0.1, 12])])
    const both = hold(pins, () => ({ others: { field: new BeamField(), limitMm: 5 } }))
    expect(both.result.islands.filter(i => i.state === 'open')).toEqual([])
    expect([both.near > 0, both.notHeld]).toEqual([true, []])
  })

  // two shelves, 6 and 5 mm out, on a post that stands on the plate
  const shelves = joinMeshes([box([-3, -3, 0], [3, 3, 24]), box([3, -3, 9], [9, 3, 10.5]), box([-8, -3, 16], [-3, 3, 17.5])])

  it('holds the ledges of what stands on the plate where it is asked for them', () => {
    expect(hold(shelves).added).toEqual([])
    const { added, notHeld, result } = hold(shelves, () => ({ ledges: true }))
    expect(added.length).toBeGreaterThan(2)
    expect(notHeld).toEqual([])
    expect(result.ledges.filter(l => l.state === 'open')).toEqual([])
  })

  it('holds one ledge and leaves the other', () => {
    const { added, notHeld, result } = hold(shelves, before => {
      expect(before.ledges.filter(l => l.state === 'open').map(l => l.reachMm.toFixed(1)).sort()).toEqual(['5.0', '6.0'])
      return { ledge: before.ledges.find(l => l.at[0] > 0) }
    })
    expect(added.length).toBeGreaterThan(0)
    for (const s of added) expect(s.path[0][0]).toBeGreaterThan(3)
    expect(notHeld).toEqual([])
    const left = result.ledges.filter(l => l.state === 'open')
    expect(left).toHaveLength(1)
    expect(left[0].at[0]).toBeLessThan(0)
  })

  it('says why a ledge could not be held', () => {
    // a shelf three tenths above the plate: no stilt is that short
    const slot = joinMeshes([box([-3, -3, 0], [3, 3, 8]), box([3, -3, 0.3], [8, 3, 2])])
    const { added, notHeld, result } = hold(slot, () => ({ ledges: true }))
    expect(added).toEqual([])
    const open = result.ledges.filter(l => l.state === 'open')
    expect(open).toHaveLength(1)
    expect(notHeld).toMatchObject([{ kind: 'ledge', layer: open[0].firstLayer, at: open[0].at }])
    expect(notHeld[0].reason).toMatch(/too low for this gauge/)
  })

  it('leaves what juts out of a body farther up, listed or too small for the list, until it is asked for', () => {
    // fins 1.28 mm long hang by less than a tenth of a square millimetre each, a shelf by more
    const fins = [16, 19, 22].map(z => box([3, -0.15, z], [4.28, 0.15, z + 0.5]))
    const mesh = joinMeshes([box([-3, -3, 6], [3, 3, 30]), ...fins, box([-6, -3, 26], [-3, 3, 27])])
    const islands = hold(mesh)
    expect(islands.added.length).toBeGreaterThan(0)
    for (const s of islands.added) expect(s.path[0][2]).toBeCloseTo(6, 1)
    expect(islands.result.ledges.filter(l => l.state === 'open')).toHaveLength(1)
    const all = hold(mesh, () => ({ ledges: true }))
    expect(all.added.some(s => s.path[0][2] > 25)).toBe(true)
    expect(all.result.islands.map(i => i.state)).toEqual(['held'])
  })
})

describe('holding a part with marks', () => {
  // a flat of 16 × 8 mm, its underside in stripes along y, each of two triangles, that are worth something each
  const stripes = 16, flat = (): Mesh => {
    const positions: number[] = [], triangles: number[] = []
    for (let i = 0; i <= stripes; i++) for (const [y, z] of [[-4, 6], [4, 6], [4, 8], [-4, 8]]) positions.push(i - 8, y, z)
    const at = (i: number, k: number): number => 4 * i + k
    for (let i = 0; i < stripes; i++) for (let k = 0; k < 4; k++) triangles.push(at(i, k), at(i, (k + 1) % 4), at(i + 1, (k + 1) % 4), at(i, k), at(i + 1, (k + 1) % 4), at(i + 1, k))
    triangles.push(0, 3, 2, 0, 2, 1, at(stripes, 0), at(stripes, 1), at(stripes, 2), at(stripes, 0), at(stripes, 2), at(stripes, 3))
    return { positions: Float32Array.from(positions), triangles: Uint32Array.from(triangles.flatMap((_, n) => (n % 3 === 0 ? [triangles[n], triangles[n + 2], triangles[n + 1]] : []))) }
  }
  const held = (worthOf: (x: number) => number): { tips: number[]; result: ScanResult; notHeld: number } => {
    const { mesh } = prepareMesh(flat()), worths = new Uint8Array(mesh.triangles.length / 3)
    for (let f = 0; f < worths.length; f++) {
      const x = [0, 1, 2].reduce((sum, c) => sum + mesh.positions[3 * mesh.triangles[3 * f + c]], 0) / 3, z = [0, 1, 2].map(c => mesh.positions[3 * mesh.triangles[3 * f + c] + 2])
      if (z.every(v => v === 6)) worths[f] = worthOf(x)
    }
    const scan = new ModelScan(mesh, raster), surface = new Surface(mesh)
    scan.runToEnd()
    surface.setWorths(worths)
    for (const steps = holdOpenIslands(scan, surface, [], { gauges: GAUGES, plate }); ;) {
      const step = steps.next()
      if (step.done) return { tips: step.value.added.map(s => s.path[0][0]), result: step.value.result, notHeld: step.value.notHeld.length }
    }
  }
  const stripe = (x: number): number => Math.floor(x + 8)

  it('keeps off what is prized where skin beside it holds as well', () => {
    // every fourth stripe is prized, 1 mm wide: a tip beside it holds 2 mm
    const prized = (x: number): boolean => stripe(x) % 4 === 1, { tips, result } = held(x => (prized(x) ? PRIZED : PLAIN))
    expect(result.islands.map(i => i.state)).toEqual(['held'])
    expect(tips.filter(prized)).toEqual([])
    // without marks some stand there
    expect(held(() => PLAIN).tips.filter(prized).length).toBeGreaterThan(0)
  })

  it('seeks what is spare, and holds all the same', () => {
    const spare = (x: number): boolean => stripe(x) % 2 === 0, { tips, result } = held(x => (spare(x) ? SPARE : PLAIN))
    expect(result.islands.map(i => i.state)).toEqual(['held'])
    expect(tips.every(spare)).toBe(true)
  })

  it('stands on prized skin where nothing else holds, and never on what is off limits', () => {
    const all = held(() => PRIZED)
    expect(all.result.islands.map(i => i.state)).toEqual(['held'])
    const none = held(x => (x < 0 ? OFF_LIMITS : PLAIN))
    expect(none.tips.length).toBeGreaterThan(0)
    expect(none.tips.every(x => x > 0)).toBe(true)
  })
})
