import { describe, expect, it } from 'vitest'
import { joinMeshes, type Mesh } from '../../mesh'
import { bowl, box, curtain, lathe } from '../../testing/shapes'
import { DEFAULT_LOADS, ModelScan, signalsCsv, type ScanResult, type Signals } from '../index'
import { jumpsOf } from './signals'

const raster = { pixelMm: 0.05, layerMm: 0.05 }
const scan = (mesh: Mesh, ...stilts: Mesh[]): ScanResult => {
  const s = new ModelScan(mesh, raster)
  s.setStilts(stilts)
  return s.runToEnd()
}

describe('the signals of a layer', () => {
  it('are those of a cone that stands on its base (closed forms)', () => {
    const radius = 8, height = 10
    const { signals: s, layerCount } = scan(lathe([[0, 0], [radius, 0], [0, height]], 128))
    expect(layerCount).toBe(200)
    for (const k of [10, 60, 120, 170]) {
      const r = radius * (1 - ((k + 0.5) * 0.05) / height)
      // regular 128-gons: less than a circle by a factor
      const share = (128 / (2 * Math.PI)) * Math.sin((2 * Math.PI) / 128)
      expect(s.areaMm2[k] / (Math.PI * r * r * share)).toBeCloseTo(1, 2)
      expect(s.peelN[k]).toBeCloseTo(s.areaMm2[k] * DEFAULT_LOADS.releaseStressNMm2, 9)
      expect([s.pieces[k], s.enclosedMm2[k], s.newMm2[k], s.hangingMm2[k]]).toEqual([1, 0, 0, 0])
      expect(Math.hypot(s.centerX[k], s.centerY[k])).toBeLessThan(0.02)
    }
    // the first layer is new as a whole, and held by the plate
    expect([s.newMm2[0], s.hangingMm2[0]]).toEqual([s.areaMm2[0], 0])
  })

  it('count what is new where a body widens, and what of it is out of reach', () => {
    // a step of 3 mm to the right: 1 mm of it is within reach
    const { signals: s } = scan(joinMeshes([box([0, 0, 0], [4, 5, 6]), box([3.5, 0, 3], [7, 5, 6])]))
    expect(s.newMm2[60]).toBeCloseTo(3 * 5, 6)
    expect(s.hangingMm2[60]).toBeCloseTo(2 * 5, 6)
    expect([s.newMm2[59], s.newMm2[61], s.hangingMm2[61]]).toEqual([0, 0, 0])
    expect(s.areaMm2[60] - s.areaMm2[59]).toBeCloseTo(15, 6)
  })

  it('say how much is laid by what is not connected to the plate yet', () => {
    const hung = box([10, 0, 4], [12, 2, 6])
    const { signals: s } = scan(joinMeshes([box([0, 0, 0], [4, 4, 6]), hung]))
    expect([s.pieces[79], s.pieces[80]]).toEqual([1, 2])
    expect(s.hangingMm2[80]).toBeCloseTo(4, 6)
    // held by a stilt it is no longer
    expect(scan(joinMeshes([box([0, 0, 0], [4, 4, 6]), hung]), box([10.5, 0.5, 0], [11.5, 1.5, 4.3])).signals.hangingMm2[80]).toBe(0)
  })

  it('add the vacuum of a cup to the load of its layers, and of them alone', () => {
    const { signals: s, cups: [cup] } = scan(joinMeshes([bowl(6, 1, 5, 1, 0, 96), box([-0.5, 9, 0], [0.5, 10, 7])]))
    for (const k of [30, 60, 99]) {
      expect(s.enclosedMm2[k] / (Math.PI * 25)).toBeCloseTo(1, 2)
      expect(s.peelN[k]).toBeCloseTo(s.areaMm2[k] * DEFAULT_LOADS.releaseStressNMm2 + s.enclosedMm2[k] * DEFAULT_LOADS.cupVacuumNMm2, 9)
    }
    expect([cup.firstLayer, cup.lastLayer]).toEqual([20, 99])
    expect(s.peelN[110]).toBeCloseTo(s.areaMm2[110] * DEFAULT_LOADS.releaseStressNMm2, 9)
  })

  it('follow the centre of a leaning prism away from its foot (closed form)', () => {
    const lean = 0.6
    const z = [0, 10]
    // a curtain along x, turned up: at height z its section lies between z · lean and z · lean + 4
    const upright = curtain(z, z.map(h => h * lean), z.map(h => h * lean + 4), 0, 3)
    const turned: Mesh = { positions: upright.positions.map((_, i, p) => p[i - (i % 3) + [2, 1, 0][i % 3]]), triangles: upright.triangles.slice().reverse() }
    const { signals: s, layerCount } = scan(turned)
    expect(layerCount).toBe(200)
    for (const k of [0, 50, 150]) {
      const h = (k + 0.5) * 0.05
      expect(s.centerX[k]).toBeCloseTo(h * lean + 2, 1)
      expect(s.centerY[k]).toBeCloseTo(1.5, 1)
      expect(Math.abs(s.offCenterMm[k] - (h - 0.025) * lean)).toBeLessThan(0.06)
    }
  })

  it('leave the centre out where a layer has nothing', () => {
    const { signals: s } = scan(box([0, 0, 2], [3, 3, 4]))
    expect([s.areaMm2[10], s.peelN[10], s.pieces[10]]).toEqual([0, 0, 0])
    expect([Number.isNaN(s.centerX[10]), Number.isNaN(s.offCenterMm[70])]).toEqual([true, true])
  })
})

describe('jumps', () => {
  const of = (area: number[]): number[] => Array.from(jumpsOf(Float64Array.from(area), Float64Array.from(area, a => a * DEFAULT_LOADS.releaseStressNMm2)))
  const flat = (n: number, area: number): number[] => new Array<number>(n).fill(area)

  it('are marked where the area leaps, once', () => {
    expect(of([...flat(40, 20), ...flat(40, 90)])).toEqual([40])
    expect(of([...flat(40, 20), ...flat(40, 90), ...flat(40, 300)])).toEqual([40, 80])
  })
  it('are not growth that goes on, nor a small one, nor a drop', () => {
    expect(of(Array.from({ length: 200 }, (_, k) => 20 + k))).toEqual([])
    expect(of([...flat(40, 20), ...flat(40, 26)])).toEqual([])
    expect(of([...flat(40, 90), ...flat(40, 20)])).toEqual([])
    // a tenth of a large area is none, though it is many mm²
    expect(of([...flat(40, 2000), ...flat(40, 2200)])).toEqual([])
  })
  it('are found in the load as well, where a cup closes', () => {
    expect(Array.from(jumpsOf(Float64Array.from(flat(80, 50)), Float64Array.from([...flat(40, 1), ...flat(40, 3)])))).toEqual([40])
  })
  it('are where a plate spreads out of a post', () => {
    expect(Array.from(scan(joinMeshes([box([-1, -1, 0], [1, 1, 6]), box([-6, -6, 4], [6, 6, 6])])).signals.jumps)).toEqual([80])
  })
})

describe('the table of signals', () => {
  const { signals } = scan(joinMeshes([box([0, 0, 1], [4, 5, 3]), box([8, 0, 0], [9, 1, 2])]))
  const lines = signalsCsv(signals, 0.05).trimEnd().split('\n')
  const head = lines[0].split(',')
  const column = (name: string): string[] => lines.slice(1).map(l => l.split(',')[head.indexOf(name)])

  it('has a line a layer, as many fields as names, and the numbers of the scan', () => {
    expect(lines).toHaveLength(61)
    for (const l of lines) expect(l.split(',')).toHaveLength(head.length)
    expect(column('layer')).toEqual(Array.from({ length: 60 }, (_, k) => String(k)))
    expect(column('z_mm')[40]).toBe('2.0250')
    const columns: [string, keyof Signals][] = [['area_mm2', 'areaMm2'], ['new_mm2', 'newMm2'], ['hanging_mm2', 'hangingMm2'], ['pieces', 'pieces'], ['enclosed_mm2', 'enclosedMm2'], ['peel_estimate_n', 'peelN']]
    for (const [name, of] of columns) column(name).forEach((text, k) => expect(Number(text)).toBeCloseTo(signals[of][k], 4))
    expect(column('jump').flatMap((j, k) => (j === '1' ? [k] : []))).toEqual(Array.from(signals.jumps))
  })
  it('has empty fields where there is no number', () => {
    const empty = signalsCsv(scan(box([0, 0, 1], [2, 2, 2])).signals, 0.05).split('\n')[5].split(',')
    expect(empty.slice(8)).toEqual(['', '', '', '0'])
  })
})

describe('loads of a resin', () => {
  it('are its stresses times area, bottom layers with theirs, going over evenly to the others (closed form: a block)', () => {
    const scan = new ModelScan(box([0, 0, 0], [10, 8, 3]), { pixelMm: 0.05, layerMm: 0.1 })
    const before = scan.runToEnd().signals
    scan.setLoads({ releaseStressNMm2: 0.05, cupVacuumNMm2: 0.03, bottomLayers: 3, transitionLayers: 4, bottomReleaseFactor: 2 })
    const { peelN } = scan.runToEnd().signals
    // 80 mm²: 8 N at the bottom, then a fifth of the way at a time
    ;[8, 8, 8, 7.2, 6.4, 5.6, 4.8, 4, 4, 4].forEach((n, k) => expect(peelN[k]).toBeCloseTo(n, 6))
    expect(before.peelN[0]).toBeCloseTo(1.6, 6)
  })
  it('count in what a cup is said to pull, without another scan', () => {
    const scan = new ModelScan(bowl(6, 1, 7, 1, 0, 48), { pixelMm: 0.1, layerMm: 0.1 })
    const [cup] = scan.runToEnd().cups
    scan.setLoads({ ...DEFAULT_LOADS, cupVacuumNMm2: 0.09 })
    expect(scan.runToEnd().cups[0].pullN / cup.pullN).toBeCloseTo(3, 9)
  })
})
