import { describe, expect, it } from 'vitest'
import { joinMeshes, type Mesh } from '../mesh'
import { after, AS_IS, moveMesh, plateOf, shiftOf, standOf, type PlateShift } from '../pose'
import { DEFAULT_LOADS, DEFAULT_SETTINGS, ModelScan, type ScanResult } from '../scan'
import { bowl, box, lathe, sphere } from '../testing/shapes'
import { scanPlate, type PlateScanResult, type ScannedPart, type StandingCopy } from './index'

const raster = { pixelMm: 0.1, layerMm: 0.1 }, settings = { ...DEFAULT_SETTINGS, ventMm: 0 }
const post = (x: number, y: number, top: number): Mesh => lathe([[0, 0], [1, 0], [1, 0.6], [0.4, 0.8], [0.3, top], [0, top]], 16, [x, y, 0])

function scanned(id: string, mesh: Mesh, solids: readonly Mesh[] = [], pose = { tiltXDeg: 0, tiltYDeg: 0, liftMm: 3 }): ScannedPart {
  const stand = standOf(mesh.positions, pose, raster.pixelMm), scan = new ModelScan(mesh, raster, stand, settings)
  scan.setStilts(solids)
  return { id, mesh, stand, solids, result: scan.runTo('reach') }
}
const copy = (id: string, part: string, xPixels: number, yPixels: number, turnDeg = 0): StandingCopy => ({ id, part, shift: shiftOf({ xPixels, yPixels, turnDeg }, raster.pixelMm) })
function plate(parts: readonly ScannedPart[], copies: readonly StandingCopy[]): PlateScanResult {
  for (const steps = scanPlate(parts, copies, raster, settings, DEFAULT_LOADS); ;) {
    const step = steps.next()
    if (step.done) return step.value
  }
}
/** Everything at once: the second opinion. */
function atOnce(parts: readonly ScannedPart[], copies: readonly StandingCopy[]): ScanResult {
  const of = (c: StandingCopy): ScannedPart => parts.find(p => p.id === c.part) as ScannedPart, to = (shift: PlateShift) => plateOf(shift)
  const scan = new ModelScan(joinMeshes(copies.map(c => moveMesh(of(c).mesh, after(to(c.shift), of(c).stand)))), raster, AS_IS, settings)
  scan.setStilts(copies.flatMap(c => of(c).solids.map(s => moveMesh(s, to(c.shift)))))
  return scan.runTo('reach')
}

const blob = joinMeshes([sphere([0, 0, 6], 3, 32), box([2, -1, 6], [7, 1, 6.8]), bowl(3, 0.6, 3, 3, 6, 32), sphere([-5, 3, 8], 1.2, 24), sphere([-5, -3, 7], 0.6, 16)])
const parts = [scanned('blob', blob, [post(0, 0, 3.4), post(4, 0.3, 6.4)], { tiltXDeg: 20, tiltYDeg: -15, liftMm: 3 }), scanned('ball', sphere([0, 0, 0], 2, 32), [post(0.2, 0.1, 3.2)])]

describe('the scan of a plate', () => {
  it('is that of everything at once, where copies stand clear of each other by whole pixels', () => {
    const copies = [copy('a', 'blob', 0, 0), copy('b', 'blob', 203, 37), copy('c', 'ball', -140, 55), copy('d', 'ball', -90, -160)]
    const { signals, cups } = plate(parts, copies), full = atOnce(parts, copies)
    expect(cups).toEqual([])
    for (const name of ['areaMm2', 'newMm2', 'hangingMm2', 'enclosedMm2', 'peelN', 'centerX', 'centerY', 'offCenterMm'] as const) {
      expect(signals[name].length).toBe(full.signals[name].length)
      signals[name].forEach((v, k) => (Number.isNaN(v) ? expect(full.signals[name][k]).toBeNaN() : expect(v, `${name} ${k}`).toBeCloseTo(full.signals[name][k], 6)))
    }
    expect(Array.from(signals.pieces)).toEqual(Array.from(full.signals.pieces))
    expect(Array.from(signals.jumps)).toEqual(Array.from(full.signals.jumps))
  })

  it('finds of every copy what the scan of its part finds: a shift by whole pixels changes nothing', () => {
    const copies = [copy('a', 'blob', 0, 0), copy('b', 'blob', 203, 37), copy('c', 'blob', -250, -71)], full = atOnce(parts, copies), { result: own } = parts[0]
    const shifted = (dx: number, dy: number): string[] => [
      ...own.islands.map(i => `island ${i.layer} ${i.class === 'body' ? 'limb' : i.class} ${i.state} ${i.areaMm2.toFixed(4)} ${i.volumeMm3.toFixed(4)} ${i.hangingMm2.toFixed(4)} ${(i.aim[0] + dx).toFixed(3)} ${(i.aim[1] + dy).toFixed(3)} ${i.aim[2].toFixed(3)}`),
      ...own.ledges.map(l => `ledge ${l.firstLayer} ${l.lastLayer} ${l.state} ${l.areaMm2.toFixed(4)} ${l.reachMm.toFixed(4)} ${l.hangingMm2.toFixed(4)} ${(l.at[0] + dx).toFixed(3)} ${(l.at[1] + dy).toFixed(3)}`),
      ...own.cups.map(c => `cup ${c.firstLayer} ${c.lastLayer} ${c.ends} ${c.volumeMm3.toFixed(4)} ${(c.at[0] + dx).toFixed(3)} ${(c.at[1] + dy).toFixed(3)}`),
    ]
    const found = [
      ...full.islands.map(i => `island ${i.layer} ${i.class === 'body' ? 'limb' : i.class} ${i.state} ${i.areaMm2.toFixed(4)} ${i.volumeMm3.toFixed(4)} ${i.hangingMm2.toFixed(4)} ${i.aim[0].toFixed(3)} ${i.aim[1].toFixed(3)} ${i.aim[2].toFixed(3)}`),
      ...full.ledges.map(l => `ledge ${l.firstLayer} ${l.lastLayer} ${l.state} ${l.areaMm2.toFixed(4)} ${l.reachMm.toFixed(4)} ${l.hangingMm2.toFixed(4)} ${l.at[0].toFixed(3)} ${l.at[1].toFixed(3)}`),
      ...full.cups.map(c => `cup ${c.firstLayer} ${c.lastLayer} ${c.ends} ${c.volumeMm3.toFixed(4)} ${c.at[0].toFixed(3)} ${c.at[1].toFixed(3)}`),
    ]
    // of all that is scanned at once only one is the body
    expect(own.islands.length + own.ledges.length + own.cups.length).toBeGreaterThan(2)
    expect(found.sort()).toEqual(copies.flatMap(c => shifted(c.shift.xMm, c.shift.yMm)).sort())
  })

  it('of turned copies is that of everything at once, but for the noise of the raster: 2 % of the area where there is much', () => {
    const copies = [copy('a', 'blob', 0, 0, 90), copy('b', 'blob', 230, 40, 33), copy('c', 'ball', -160, 50, 200)]
    const { signals } = plate(parts, copies), full = atOnce(parts, copies)
    for (const [k, area] of signals.areaMm2.entries()) if (area > 10) expect(Math.abs(area - full.signals.areaMm2[k]) / area).toBeLessThan(0.02)
    for (const [k, x] of signals.centerX.entries()) if (signals.areaMm2[k] > 10) expect(Math.hypot(x - full.signals.centerX[k], signals.centerY[k] - full.signals.centerY[k])).toBeLessThan(0.3)
  })

  it('finds a cup that two parts only make together', () => {
    // two halves of a square tub, each open to one side, set against each other
    const half = joinMeshes([box([0, 0, 0], [6, 12, 1]), box([0, 0, 0.5], [1, 12, 8]), box([0.5, 0, 0.5], [6, 1, 8]), box([0.5, 11, 0.5], [6, 12, 8])])
    const lone = scanned('half', half, [], { tiltXDeg: 0, tiltYDeg: 0, liftMm: 0 })
    expect(lone.result.cups).toEqual([])
    const shut = plate([lone], [copy('a', 'half', -30, 0), copy('b', 'half', 30, 0, 180)])
    expect(shut.cups.map(c => [[...c.copies].sort().join(), c.cup.ends])).toEqual([['a,b', 'open']])
    // closed form: 10 mm by 10 mm, 7 mm high
    expect(shut.cups[0].cup.volumeMm3 / 700).toBeCloseTo(1, 1)
    expect(plate([lone], [copy('a', 'half', -30, 0), copy('b', 'half', 36, 0, 180)]).cups).toEqual([])
  })
})
