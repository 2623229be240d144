import { describe, expect, it } from 'vitest'
import { DEFAULT_RESIN, DEFAULT_SETTINGS } from '../contract'
import { areaOf, dot, joinMeshes, lighterMesh, radians, unit, volumeOf, type Mesh, type Vec3 } from '../mesh'
import { rotationOf, tiltOfUp, upOfTilt, type TiltAngles } from '../pose'
import { bunnyMesh } from '../testing/bunny'
import { random } from '../testing/random'
import { spearman } from '../testing/ranks'
import { bowl, box, knot, lathe, sphere } from '../testing/shapes'
import { AIMS, angleBetween, cellOf, DEFAULT_WEIGHTS, fromDisc, imagesOf, localMeter, measureCoarsely, measureFully, onDisc, PRIZED_WEIGHTS, Room, SkinTable, sphereLattice, symmetryOf, TiltSearch, whyOf, type Aim, type TiltBasis, type TiltMeasures, type Weights } from './index'

const CONE = lathe([[0, 0], [10, 0], [0, 24]], 64), ROD = lathe([[0, 0], [3, 0], [3, 60], [0, 60]], 48), PLATE = box([-15, -15, 0], [15, 15, 2]), CUP = bowl(10, 1.5, 16, 1.5, 0)
/** Holds at 48 places about it, but two bosses break that. */
const BOSSED = joinMeshes([ROD, sphere([4, 0, 20], 3), sphere([0, 4, 40], 2)])

function basisOf(mesh: Mesh, worths: Uint8Array | null = null): TiltBasis {
  return { liftMm: 5, settings: DEFAULT_SETTINGS, resin: DEFAULT_RESIN, layerMm: 0.1, skin: new SkinTable(mesh, worths) }
}
function toEnd<T>(steps: Generator<unknown, T, void>): T {
  for (;;) {
    const step = steps.next()
    if (step.done) return step.value
  }
}
const full = (mesh: Mesh, tilt: TiltAngles, basis = basisOf(mesh)): TiltMeasures => toEnd(measureFully(mesh, tilt, 0.1, basis))
const NOW: TiltAngles = { tiltXDeg: 0, tiltYDeg: 0 }
const only = (aim: Aim): Weights => Object.fromEntries(AIMS.map(a => [a, a === aim ? 1 : 0])) as unknown as Weights

async function searched(mesh: Mesh, weights: Weights = DEFAULT_WEIGHTS, worths: Uint8Array | null = null, count = 120): Promise<TiltSearch> {
  const basis = basisOf(mesh, worths), search = new TiltSearch(NOW, { symmetry: symmetryOf(mesh), count, cellMm: cellOf(mesh) })
  const meter = localMeter((tilt, mm) => measureCoarsely(mesh, tilt, mm, basis), tilt => full(mesh, tilt, basis))
  await search.look(meter, weights)
  await search.refine(meter, weights)
  return search
}
const best = (search: TiltSearch, weights: Weights): Vec3 => search.offered(weights)[0].up

/** Figures of some tilt. */
const SOME: TiltMeasures = { pixelMm: 0.05, islands: { limb: 11, detail: 30, flake: 9 }, hangingMm2: 100, ledgesMm2: 20, steepMm2: [100, 40, 0, 0], scarMm2: 500, peelN: 5, cups: 0, cupMm3: 0, heightMm: 60, seconds: 1, stiltMl: 1 }

describe('directions', () => {
  it('go to a tilt and back', () => {
    const r = random(3), zero: [number, number, number, number] = [0.5, 0.5, -0.5, 0.5]
    for (let i = 0; i < 300; i++) {
      const up = unit([r() - 0.5, r() - 0.5, r() - 0.5])
      for (const z of [undefined, zero]) expect(angleBetween(upOfTilt(tiltOfUp(up, z)), up)).toBeLessThan(0.08)
    }
    // what looks up is what the rotation takes to z
    const tilt = { tiltXDeg: 31, tiltYDeg: -52 }, m = rotationOf({ ...tilt, turnDeg: 77, liftMm: 0 }), u = upOfTilt(tilt)
    expect([0, 1, 2].map(k => m[3 * k] * u[0] + m[3 * k + 1] * u[1] + m[3 * k + 2] * u[2])).toEqual([expect.closeTo(0, 12), expect.closeTo(0, 12), expect.closeTo(1, 12)])
  })

  it('cover the sphere evenly, and the disc as evenly', () => {
    const points = sphereLattice(300), nearest = points.map((p, i) => Math.min(...points.filter((_, j) => j !== i).map(q => angleBetween(p, q))))
    // 300 caps on a sphere: about 12° apart
    expect(Math.min(...nearest)).toBeGreaterThan(9)
    expect(Math.max(...nearest)).toBeLessThan(14)
    // equal area: a cap of any size has the share of the disc that it has of the sphere
    for (const deg of [20, 60, 90, 130]) expect(onDisc([Math.sin(radians(deg)), 0, Math.cos(radians(deg))])[0] ** 2).toBeCloseTo((1 - Math.cos(radians(deg))) / 2, 12)
    for (const p of points) {
      const [x, y] = onDisc(p), back = fromDisc(x, y) as Vec3
      expect(dot(back, p)).toBeCloseTo(1, 9)
    }
    expect(fromDisc(0.8, 0.8)).toBeNull()
  })

  it('of a search that was stopped early still lie all around', async () => {
    const search = new TiltSearch(NOW), seen: Vec3[] = []
    const stop = localMeter(tilt => {
      seen.push(upOfTilt(tilt))
      if (seen.length === 40) throw new Error('enough')
      return SOME
    }, () => SOME)
    await expect(search.look(stop, DEFAULT_WEIGHTS)).rejects.toThrow('enough')
    for (const p of sphereLattice(200)) expect(Math.min(...seen.map(s => angleBetween(s, p)))).toBeLessThan(32)
  })
})

describe('symmetry', () => {
  it('is found where there is some', () => {
    const turned = (mesh: Mesh, m: readonly number[]): Mesh => ({ triangles: mesh.triangles, positions: Float32Array.from(mesh.positions, (_, i) => [0, 1, 2].reduce((s, k) => s + m[3 * (i % 3) + k] * mesh.positions[i - (i % 3) + k], 0)) })
    const r = rotationOf({ tiltXDeg: 34, tiltYDeg: 61, turnDeg: 15, liftMm: 0 })
    for (const mesh of [CONE, ROD, CUP]) {
      const found = symmetryOf(turned(mesh, r))
      expect(found.order).toBe(Infinity)
      expect(Math.abs(dot(found.axis, [r[2], r[5], r[8]]))).toBeGreaterThan(0.9999)
    }
    expect(symmetryOf(PLATE)).toEqual({ axis: [expect.closeTo(0, 6), expect.closeTo(0, 6), expect.anything()], order: 4 })
    expect(symmetryOf(box([0, 0, 0], [10, 20, 30])).order).toBe(2)
    expect(symmetryOf(knot(300, 16, 12, 7, 2.2, [0, 0, 20])).order).toBeGreaterThan(1)
    for (const mesh of [BOSSED, bunnyMesh()]) expect(symmetryOf(mesh).order).toBe(1)
  })

  it('saves tilts without missing one', async () => {
    const { total } = new TiltSearch(NOW)
    expect(total).toBe(301)
    expect(new TiltSearch(NOW, { symmetry: symmetryOf(ROD) }).total).toBeLessThan(total / 6)
    const four = symmetryOf(PLATE), search = new TiltSearch(NOW, { symmetry: four }), tried: Vec3[] = []
    expect(search.total).toBeLessThan(total / 3.5)
    await search.look(localMeter(tilt => {
      tried.push(upOfTilt(tilt))
      return SOME
    }, () => SOME), DEFAULT_WEIGHTS)
    // every direction has an image near one that is tried
    for (const p of sphereLattice(500)) expect(Math.min(...imagesOf(four, p).flatMap(q => tried.map(t => angleBetween(q, t))))).toBeLessThan(12)
  })
})

describe('the skin that leans out', () => {
  // closed forms: each side of a box by its area, a ball's cap by 2πr²(1 − cos)
  it('is that of a box and of a ball', () => {
    const plate = new SkinTable(PLATE), up: Vec3 = [0, 0, 1]
    expect(plate.steep(up, 45, 5).byWorth[0]).toBeCloseTo(900, 6)
    expect(plate.steep(up, 45, 5).underMm3).toBeCloseTo(4500, 4)
    // on the plate it is held
    expect(plate.steep(up, 45, 0).byWorth[0]).toBe(0)
    expect(plate.steep([1, 0, 0], 45, 20).byWorth[0]).toBeCloseTo(60, 6)
    expect(plate.steep(unit([1, 0, 1.02]), 45, 20).byWorth[0]).toBeCloseTo(900, 6)
    const ball = new SkinTable(sphere([1, 2, 3], 10, 256))
    expect(ball.steep(unit([1, -2, 0.4]), 45, 20).byWorth[0] / (2 * Math.PI * 100 * (1 - Math.SQRT1_2))).toBeCloseTo(1, 1.7)
    expect(ball.areaMm2).toBeCloseTo(areaOf(sphere([1, 2, 3], 10, 256)), 3)
  })

  it('is told apart by worth', () => {
    // the triangles of the underside are the first two
    const table = new SkinTable(PLATE, Uint8Array.from({ length: 12 }, (_, i) => (i === 0 ? 1 : i === 1 ? 3 : 0)))
    expect(table.steep([0, 0, 1], 45, 5).byWorth).toEqual([0, 450, 0, 450])
  })
})

describe('a search', () => {
  it('finds the tilts that are known to be best', async () => {
    // a cone on its apex has no skin that leans out; on its base all of it does
    const cone = await searched(CONE, only('scars'))
    expect(cone.offered(only('scars'))[0].measures.scarMm2).toBe(0)
    expect(cone.fullOf(NOW)?.measures.scarMm2).toBeCloseTo(areaOf(lathe([[0, 0], [10, 0], [0, 0]], 64)) / 2, 0)
    // a rod is lowest lying, and pulls least standing
    const rod = await searched(ROD, only('height'))
    expect(Math.abs(dot(best(rod, only('height')), [0, 0, 1]))).toBeLessThan(0.1)
    expect(Math.abs(dot(best(rod, only('pull')), [0, 0, 1]))).toBeGreaterThan(0.97)
    // a plate pulls least on its edge
    const plate = await searched(PLATE, only('pull'))
    expect(Math.abs(dot(best(plate, only('pull')), [0, 0, 1]))).toBeLessThan(0.15)
    // a cup that stands on its floor shuts a space, mouth down none
    const cup = await searched(CUP, only('cups'))
    expect(cup.fullOf(NOW)?.measures.cups).toBe(1)
    expect(cup.offered(only('cups'))[0].measures.cupMm3).toBe(0)
  })

  it('keeps what is prized out of harm', async () => {
    // a slab whose broad sides would serve alike: the marked one is to look up
    const slab = box([-10, -10, 0], [10, 10, 6]), worths = Uint8Array.from({ length: 12 }, (_, i) => (i < 2 ? 1 : i < 4 ? 2 : 0))
    const basis = basisOf(slab, worths), search = new TiltSearch(NOW, { count: 120 })
    await search.look(localMeter((tilt, mm) => measureCoarsely(slab, tilt, mm, basis), tilt => full(slab, tilt, basis)), only('scars'))
    expect(search.candidates(only('scars'))[0].up[2]).toBeLessThan(0.8)
    expect(search.candidates(only('scars'))[0].measures.steepMm2[1]).toBe(0)
  })

  it('looks at thin bars on cells that do not lose them', () => {
    // closed form: twice the volume by the skin is the radius of a long bar; a solid part has cells of 0.3 mm
    expect(cellOf(lathe([[0, 0], [0.9, 0], [0.9, 400], [0, 400]], 256)) * 6).toBeCloseTo(0.9, 2)
    expect(cellOf(lathe([[0, 0], [0.2, 0], [0.2, 400], [0, 400]], 64))).toBe(0.1)
    expect(cellOf(CONE)).toBe(0.3)
  })

  it('puts what is marked prized before all else', async () => {
    // the knot of a bunny's ears and back is prized: by default much of it would be held, by the weights for marks hardly any
    const mesh = bunnyMesh(), worths = new Uint8Array(mesh.triangles.length / 3)
    for (let f = 0; f < worths.length; f++) if ([0, 1, 2].every(c => mesh.positions[3 * mesh.triangles[3 * f + c] + 2] > 25)) worths[f] = 1
    const plain = await searched(mesh, DEFAULT_WEIGHTS, worths, 80), careful = await searched(mesh, PRIZED_WEIGHTS, worths, 80)
    const prized = (search: TiltSearch, weights: Weights): number => search.offered(weights)[0].measures.steepMm2[1]
    expect(prized(careful, PRIZED_WEIGHTS)).toBeLessThanOrEqual(prized(plain, DEFAULT_WEIGHTS))
    expect(prized(careful, PRIZED_WEIGHTS)).toBeLessThan(0.2 * Math.max(...careful.tried.map(t => t.measures.steepMm2[1])))
  }, 60_000)

  it('gives the same answer in whatever order tilts are measured', async () => {
    const mesh = bunnyMesh(), light = await lighterMesh(mesh, 2500), basis = basisOf(mesh), coarse = (tilt: TiltAngles, mm: number): TiltMeasures => measureCoarsely(light, tilt, 2 * mm, basis)
    const offered = async (backwards: boolean): Promise<TiltAngles[]> => {
      const search = new TiltSearch({ tiltXDeg: 10, tiltYDeg: 20 }, { count: 60 })
      await search.look({
        async coarse(tilts, mm, take) {
          for (let i = 0; i < tilts.length; i++) {
            const k = backwards ? tilts.length - 1 - i : i
            take(k, coarse(tilts[k], mm))
          }
        },
        async full() {},
      }, DEFAULT_WEIGHTS)
      return search.candidates(DEFAULT_WEIGHTS).map(c => c.tilt)
    }
    expect(await offered(true)).toEqual(await offered(false))
  })

  it('offers no tilt as measured that the real scan has not seen, and ranks those by it', async () => {
    const search = await searched(BOSSED), offered = search.offered(DEFAULT_WEIGHTS)
    expect(offered.length).toBeGreaterThan(1)
    for (const { tilt, measures } of offered) {
      expect(measures.pixelMm).toBe(0.1)
      expect(measures).toEqual(full(BOSSED, tilt))
    }
    // other weights ask for tilts that were not scanned: these come last, and say how coarse they are
    const other = search.offered(only('height')), coarse = other.filter(o => o.measures.pixelMm > 0.1)
    expect(coarse.length).toBeGreaterThan(0)
    expect(other.slice(-coarse.length)).toEqual(coarse)
    for (const c of coarse) expect(c.measures.ledgesMm2).toBeNull()
  })

  it('ranks by coarse cells as the real scan does', () => {
    const mesh = bunnyMesh(), basis = basisOf(mesh), r = random(11)
    const tilts = Array.from({ length: 28 }, () => {
      const z = 2 * r() - 1, a = 2 * Math.PI * r(), s = Math.sqrt(1 - z * z)
      return tiltOfUp([s * Math.cos(a), s * Math.sin(a), z])
    })
    const fine = tilts.map(t => full(mesh, t, basis)), coarse = tilts.map(t => measureCoarsely(mesh, t, 0.3, basis))
    const agree = (f: (m: TiltMeasures) => number): number => spearman(fine.map(f), coarse.map(f))
    expect(agree(m => m.hangingMm2)).toBeGreaterThan(0.97)
    expect(agree(m => m.peelN)).toBeGreaterThan(0.99)
    expect(agree(m => m.heightMm)).toBeGreaterThan(0.99)
  }, 120_000)
})

describe('the room of a printer', () => {
  const printer = { widthMm: 153.35, depthMm: 77.75, heightMm: 165 }, beam = new Room(box([0, 0, 0], [140, 20, 10]), printer, 5)
  it('is told for a tilt, with the turn that it takes', () => {
    expect(beam.turnFor(NOW, 0)).toBe(0)
    expect(beam.turnFor(NOW, 90)).toBe(180)
    // closed form: √(140² + …) across a plate of 153 × 78 is too much at 45°
    expect(beam.turnFor(NOW, 45)).toBe(0)
    expect(beam.turnFor({ tiltXDeg: 0, tiltYDeg: 90 }, 33)).toBe(33)
    expect(new Room(box([0, 0, 0], [165, 20, 10]), printer, 5).turnFor({ tiltXDeg: 0, tiltYDeg: 90 }, 0)).toBeNull()
    expect(new Room(box([0, 0, 0], [165, 100, 10]), printer, 5).turnFor(NOW, 0)).toBeNull()
  })
  it('keeps what does not fit from being offered', async () => {
    const search = new TiltSearch(NOW, { fits: tilt => Math.abs(tilt.tiltXDeg) > 90, count: 120 }), basis = basisOf(CONE)
    await search.look(localMeter((tilt, mm) => measureCoarsely(CONE, tilt, 2 * mm, basis), tilt => full(CONE, tilt, basis)), DEFAULT_WEIGHTS)
    const offered = search.candidates(DEFAULT_WEIGHTS)
    expect(offered.length).toBeGreaterThan(0)
    for (const { tilt } of offered) expect(Math.abs(tilt.tiltXDeg)).toBeGreaterThan(90)
  })
})

describe('the sentence of a tilt', () => {
  const now = SOME
  it('names what differs', () => {
    expect(whyOf({ ...now, islands: { limb: 2, detail: 7, flake: 40 }, steepMm2: [90, 0, 0, 0], heightMm: 72 }, now, true)).toBe('9 islands instead of 41, no prized skin to hold, 12 mm taller.')
    expect(whyOf({ ...now, scarMm2: 250, cups: 1, peelN: 2 }, now, false)).toBe('41 islands as now, 250 mm² of skin to hold instead of 500 mm², 1 cup instead of 0.')
    expect(whyOf({ ...now, ledgesMm2: 150, heightMm: 54 }, now, true)).toBe('41 islands as now, 40 mm² of prized skin to hold as now, ledges of 150 mm² instead of 20 mm², 6 mm lower.')
    // a coarse measure tells no ledges
    expect(whyOf({ ...now, ledgesMm2: null }, now, false)).toBe('41 islands as now.')
  })
})

describe('a lighter mesh', () => {
  it('is lighter and nearly the same, and has no vertex that is not used', async () => {
    const mesh = knot(900, 40, 12, 7, 2.2, [0, 0, 20]), light = await lighterMesh(mesh, 9000)
    expect(light.triangles.length / 3).toBeLessThan(9100)
    expect(volumeOf(light) / volumeOf(mesh)).toBeCloseTo(1, 2)
    expect(new Set(light.triangles).size).toBe(light.positions.length / 3)
    expect(await lighterMesh(light, 9100)).toBe(light)
    // what it was made from is as it was
    expect(mesh).toEqual(knot(900, 40, 12, 7, 2.2, [0, 0, 20]))
  })
})
