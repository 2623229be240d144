import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { radians, joinMeshes, prepareMesh, volumeOf, type Vec3 } from '../mesh'
import { standOf, UNSHAPED } from '../pose'
import { box, moved, sphere } from '../testing/shapes'
import { gapOfPath, gaugeFor, gaugeOf, GAUGES, moveFoot, PlanIndex, regaugeStilt, reseatStilts, resizeStilt, rowsOfStilt, routeStilt, shapeOfRoute, sizesOf, solidOfStilt, solidOfStructure, Surface, type Route, type StiltShape } from './index'

const plate = { widthMm: 150, depthMm: 80 }
const medium = gaugeOf('medium')
const ball = sphere([0, 0, 20], 6, 96)
const surface = new Surface(ball)

function routed(s: Surface, point: Vec3, normal: Vec3, gauge = medium): Route {
  const r = routeStilt(s, point, normal, gauge, plate)
  if (!r.ok) throw new Error(r.reason)
  return r
}
function placed(s: Surface, point: Vec3, normal: Vec3, gauge = medium): StiltShape {
  return shapeOfRoute(s, gauge, 'structural', routed(s, point, normal, gauge), normal)
}

describe('built-in gauges', () => {
  // Common practice and from memory, as the table of the gauges gives them
  it('grow from fine to heavy and fit under a lift of 5 mm', () => {
    expect(GAUGES.map(g => g.tipDiameterMm)).toEqual([0.2, 0.35, 0.5, 0.8])
    for (const g of GAUGES) {
      expect(g.coneShortestMm + g.footHeightMm + 0.2).toBeLessThan(5)
      expect(g.tipDiameterMm).toBeLessThan(g.kneeDiameterMm)
    }
  })
})

describe('surface', () => {
  it('measures gaps to within its tolerance (closed form: distance of a line to a sphere)', () => {
    fc.assert(fc.property(fc.double({ min: 6.5, max: 10, noNaN: true }), fc.double({ min: 0, max: 360, noNaN: true }), (distance, deg) => {
      const a = radians(deg)
      const at = (z: number): Vec3 => [Math.cos(a) * distance, Math.sin(a) * distance, z]
      const gap = surface.gapOfBeam(at(40), at(1), 0.4, 0.4)
      const exact = distance - 6 - 0.4
      // the ball is a polyhedron inside its sphere, by at most 0.004 of its radius
      expect(gap).toBeGreaterThan(exact - 0.02)
      expect(gap).toBeLessThan(exact + 0.01)
    }), { numRuns: 40 })
  })
  it('sees what stands within the disc of a foot, wherever (closed form: distances of round bodies)', () => {
    // a pin of 0.3 mm that ends between the points of a rim
    for (const [out, deg] of [[1.55, 22.5], [0.4, 100], [2.2, 7], [1, 200]]) {
      const a = radians(deg)
      const pin = new Surface(moved(sphere([0, 0, 0.2], 0.3, 24), [out * Math.cos(a), out * Math.sin(a), 0]))
      expect(pin.gapOfDisc([0, 0, 0], 2.25, 0.4)).toBeLessThan(0)
    }
    fc.assert(fc.property(fc.double({ min: 0, max: 6, noNaN: true }), fc.double({ min: 0, max: 6, noNaN: true }), fc.double({ min: 0, max: 360, noNaN: true }), (out, up, deg) => {
      const a = radians(deg), radius = 0.8
      const near = new Surface(moved(sphere([0, 0, 0], radius, 64), [out * Math.cos(a), out * Math.sin(a), up]))
      const exact = Math.hypot(Math.max(0, out - 2), Math.max(0, up - 0.4)) - radius
      const gap = near.gapOfDisc([0, 0, 0], 2, 0.4)
      if (exact < -0.01) expect(gap).toBeLessThan(0)
      else if (exact > 0.01) expect(Math.abs(gap - Math.min(5, exact))).toBeLessThan(0.02)
    }), { numRuns: 120, seed: 8 })
  })
  it('sees a beam that runs through', () => {
    expect(surface.gapOfBeam([0, 0, 40], [0, 0, 0], 0.5, 0.5)).toBeLessThan(0)
  })
  it('measures thickness along a direction', () => {
    expect(surface.thickness([0, 0, 14], [0, 0, 1])).toBeCloseTo(12, 1)
  })
})

describe('routing', () => {
  it('goes straight down under a lowest point', () => {
    const r = routed(surface, [0, 0, 14], [0, 0, -1])
    expect(r.path).toEqual([[0, 0, 14], [0, 0, 11], [0, 0, 0]])
    expect([r.leanDeg, r.foot]).toEqual([0, 'plate'])
    expect(r.sizes.penetrationMm).toBe(0.3)
  })

  it('leans or goes around where the way is blocked, within limit and gap', () => {
    const shelf = new Surface(joinMeshes([ball, box([-3, -3, 4], [3, 3, 5])]))
    const r = routed(shelf, [0, 0, 14], [0, 0, -1])
    expect(r.leanDeg).toBeGreaterThan(0)
    expect(r.leanDeg).toBeLessThanOrEqual(45.01)
    expect(r.gapMm).toBeGreaterThanOrEqual(medium.gapMm)
    expect(gapOfPath(shelf, r)).toBeCloseTo(r.gapMm, 6)
  })

  it('stands on the model where the plate is out of reach', () => {
    const floor = new Surface(joinMeshes([ball, box([-60, -38, 4], [60, 38, 5])]))
    const r = routed(floor, [0, 0, 14], [0, 0, -1])
    expect(r.foot).toBe('model')
    expect(r.path[r.path.length - 1][2]).toBeCloseTo(5, 4)
    expect(r.sizes.footPenetrationMm).toBeLessThanOrEqual(0.4 * 1 + 1e-6)
  })

  it('says why nothing can stand', () => {
    const no = (s: Surface, p: Vec3, n: Vec3): string => {
      const r = routeStilt(s, p, n, medium, plate)
      return r.ok ? 'stands' : r.problem
    }
    expect(no(surface, [0, 0, 26], [0, 0, 1])).toBe('faces-up')
    expect(no(new Surface(sphere([0, 0, 7.4], 6, 64)), [0, 0, 1.4], [0, 0, -1])).toBe('too-low')
    expect(no(new Surface(moved(ball, [90, 0, 0])), [90, 0, 14], [0, 0, -1])).toBe('off-plate')
    // in a box without a way out, too deep for a stick
    const walls = [box([-30, -30, 0], [30, -29, 60]), box([-30, 29, 0], [30, 30, 60]), box([-30, -30, 0], [-29, 30, 60]), box([29, -30, 0], [30, 30, 60])]
    const pit = new Surface(joinMeshes([sphere([0, 0, 50], 6, 64), ...walls, box([-30, -30, 0], [30, 30, 2])]))
    expect(no(pit, [0, 0, 44], [0, 0, -1])).toBe('blocked')
  })

  it('never comes nearer than the floor, wherever one points', () => {
    fc.assert(fc.property(fc.double({ min: 0, max: 360, noNaN: true }), fc.double({ min: -88, max: 5, noNaN: true }), fc.constantFrom(...GAUGES), (azimuth, elevation, gauge) => {
      const a = radians(azimuth), e = radians(elevation)
      const hit = surface.cast([Math.cos(a) * Math.cos(e) * 20, Math.sin(a) * Math.cos(e) * 20, 20 + Math.sin(e) * 20], [-Math.cos(a) * Math.cos(e), -Math.sin(a) * Math.cos(e), -Math.sin(e)])
      expect(hit).not.toBeNull()
      if (!hit) return
      const r = routeStilt(surface, hit.point, hit.normal, gauge, plate)
      if (!r.ok || r.foot === 'model') return
      expect(r.gapMm).toBeGreaterThanOrEqual(0.25)
      // the same with a plain walk along the path
      const { path, sizes } = r
      for (let i = 1; i + 1 < path.length; i++) {
        for (let t = 0; t <= 1; t += 0.02) {
          const p = [0, 1, 2].map(x => path[i][x] + (path[i + 1][x] - path[i][x]) * t)
          expect(Math.hypot(p[0], p[1], p[2] - 20) - 6).toBeGreaterThan(0.22 + sizes.kneeDiameterMm / 2 - 0.02)
        }
      }
    }), { numRuns: 60 })
  })

  it('goes in by at most 40 % of the local thickness (common practice)', () => {
    const sheet = new Surface(box([-5, -5, 10], [5, 5, 10.5]))
    expect(routed(sheet, [0, 0, 10], [0, 0, -1], gaugeOf('heavy')).sizes.penetrationMm).toBeCloseTo(0.2, 6)
  })
})

describe('solids', () => {
  const shelf = new Surface(joinMeshes([ball, box([-3, -3, 4], [3, 3, 5])]))
  const floor = new Surface(joinMeshes([ball, box([-60, -38, 4], [60, 38, 5])]))
  const all = GAUGES.flatMap(g => [placed(surface, [0, 0, 14], [0, 0, -1], g), placed(shelf, [0, 0, 14], [0, 0, -1], g), placed(floor, [0, 0, 14], [0, 0, -1], g)])

  it('are closed and face outward', () => {
    for (const s of all) {
      const mesh = solidOfStilt(s)
      const { report } = prepareMesh(mesh)
      expect([report.unclosedEdges, report.shells, report.turnedShells, report.sheets]).toEqual([0, 1, 0, 0])
      expect(volumeOf(mesh)).toBeGreaterThan(0)
    }
  })

  it('have the volume of their frustums (closed form, regular 16-gons), upright', () => {
    const s = placed(surface, [0, 0, 14], [0, 0, -1])
    const polygon = (16 / 2) * Math.sin((2 * Math.PI) / 16)
    const frustum = (d: number, e: number, h: number): number => (polygon * h * ((d / 2) ** 2 + ((d / 2) * e) / 2 + (e / 2) ** 2)) / 3
    const z = sizesOf(medium)
    const exact = frustum(0.5, 0.5, 0.3) + frustum(0.5, 1.2, 3) + frustum(1.2, 1.5, 11 - z.footHeightMm) + frustum(1.5, 4.5, z.footHeightMm * 0.6) + frustum(4.5, 4.5, z.footHeightMm * 0.4)
    expect(volumeOf(solidOfStilt(s)) / exact).toBeCloseTo(1, 4)
  })
})

describe('rows of a plan', () => {
  it('come back as the stilts that made them, and make the same solid', () => {
    const floor = new Surface(joinMeshes([ball, box([-60, -38, 4], [60, 38, 5])]))
    const shelf = new Surface(joinMeshes([ball, box([-3, -3, 4], [3, 3, 5])]))
    for (const s of [placed(surface, [0, 0, 14], [0, 0, -1]), placed(floor, [0, 0, 14], [0, 0, -1]), placed(shelf, [0, 0, 14], [0, 0, -1])]) {
      const { nodes, beams } = rowsOfStilt(s, { part: 'part', number: 7 })
      const index = new PlanIndex(new Map(nodes.map(n => [n.id, n])), new Map(beams.map(b => [b.id, b])))
      const [back] = index.stiltsOf('part'), [structure] = index.structures().values()
      expect(back).toMatchObject({ ...s, number: 7, part: 'part', alone: s.path.length })
      expect(solidOfStructure(index, structure)).toEqual(solidOfStilt(s))
    }
  })
  it('are no stilt where a beam is missing', () => {
    const { nodes, beams } = rowsOfStilt(placed(surface, [0, 0, 14], [0, 0, -1]), { part: 'part', number: 1 })
    const index = new PlanIndex(new Map(nodes.map(n => [n.id, n])), new Map(beams.slice(1).map(b => [b.id, b])))
    expect([index.stiltsOf('part'), index.tipsOf('part').size]).toEqual([[], 1])
  })
})

describe('editing', () => {
  const s = placed(surface, [0, 0, 14], [0, 0, -1])
  it('changes sizes and remembers which were set by hand', () => {
    const r = resizeStilt(surface, s, { tipDiameterMm: 0.7 }, medium, plate)
    expect(r.ok && [r.shape.sizes.tipDiameterMm, r.shape.own, r.shape.path]).toEqual([0.7, { tipDiameterMm: 0.7 }, s.path])
    const longer = resizeStilt(surface, s, { coneLengthMm: 5 }, medium, plate)
    expect(longer.ok && longer.shape.path[1]).toEqual([0, 0, 9])
    if (!r.ok) throw new Error(r.reason)
    const heavy = regaugeStilt(surface, r.shape, gaugeOf('heavy'), plate)
    expect(heavy.ok && [heavy.shape.gauge, heavy.shape.sizes.tipDiameterMm, heavy.shape.sizes.kneeDiameterMm]).toEqual(['heavy', 0.7, 1.8])
  })
  it('obeys the gap when sizes change: goes another way, or refuses', () => {
    const wall = new Surface(joinMeshes([ball, box([1.4, -30, 1], [2.4, 30, 9])]))
    const near = placed(wall, [0, 0, 14], [0, 0, -1])
    expect(near.path).toHaveLength(3)
    const thick = resizeStilt(wall, near, { shaftFootDiameterMm: 3, kneeDiameterMm: 2.4 }, medium, plate)
    // straight down it would touch; it goes another way that is clear
    if (!thick.ok) throw new Error(thick.reason)
    expect(thick.shape.path).not.toEqual(near.path)
    expect(thick.gapMm).toBeGreaterThanOrEqual(0.25)
    const sheet = new Surface(box([-5, -5, 10], [5, 5, 10.5]))
    const deep = resizeStilt(sheet, placed(sheet, [0, 0, 10], [0, 0, -1]), { penetrationMm: 0.3 }, medium, plate)
    expect(!deep.ok && deep.reason).toMatch(/0\.50 mm thick here.*0\.20 mm/)
  })
  it('leans to a moved foot within the limit and refuses beyond, with the reason', () => {
    const r = moveFoot(surface, s, 4, 0, medium, plate, 0.25)
    expect(r.ok && r.shape.path[2]).toEqual([4, 0, 0])
    const far = moveFoot(surface, s, 14, 0, medium, plate, 0.25)
    expect(!far.ok && far.reason).toMatch(/lean 5\d°/)
  })
  it('keeps the joints of a stilt whose foot is moved a little, and leans from higher up where that does not reach', () => {
    const bent: StiltShape = { ...s, path: [[0, 0, 14], [0, 0, 11], [2, 0, 7], [2, 0, 0]] }
    const post = new Surface(joinMeshes([ball, box([-0.6, -3, 1.5], [0.4, 3, 6.2])]))
    const little = moveFoot(post, bent, 2.6, 0, medium, plate, 0.25)
    expect(little.ok ? little.shape.path : little.reason).toEqual([[0, 0, 14], [0, 0, 11], [2, 0, 7], [2.6, 0, 0]])
    const open = moveFoot(surface, bent, -6, 0, medium, plate, 0.25)
    expect(open.ok && open.shape.path).toEqual([[0, 0, 14], [0, 0, 11], [-6, 0, 0]])
  })
  it('refuses a foot over the edge of the plate, and one that is higher than its knee', () => {
    const wide = new Surface(box([60, -5, 14], [74, 5, 20]))
    const edge = placed(wide, [72, 0, 14], [0, 0, -1])
    const over = resizeStilt(wide, edge, { footDiameterMm: 12 }, medium, plate)
    expect(!over.ok && over.reason).toMatch(/over the edge of the plate; here it can be 6\.00 mm wide at most/)
    const low = new Surface(box([-5, -5, 7.5], [5, 5, 12]))
    const short = placed(low, [0, 0, 7.5], [0, 0, -1])
    expect(short.path[1][2]).toBeCloseTo(4.5, 6)
    const folded = resizeStilt(low, short, { footHeightMm: 5 }, medium, plate)
    expect(!folded.ok && folded.reason).toMatch(/begins 4\.50 mm above the plate, so the foot can be 4\.30 mm high at most/)
  })
  it('seats stilts of a gauge that nobody knows by the nearest one', () => {
    const [seated] = reseatStilts(surface, [{ ...s, gauge: 'from elsewhere' }], GAUGES, plate)
    expect([seated.foot, seated.path]).toEqual(['plate', s.path])
    expect(gaugeFor({ gauge: 'from elsewhere', sizes: { tipDiameterMm: 0.72 } }).id).toBe('heavy')
  })
  it('seats stilts anew on a new pose and lists what cannot be', () => {
    const mesh = ball
    const before = standOf(mesh.positions, { tiltXDeg: 0, tiltYDeg: 0, liftMm: 14 }, 0.05)
    const posed = new Surface(mesh, { shape: UNSHAPED, stand: before })
    const stilt = placed(posed, [0, 0, 14], [0, 0, -1])
    posed.setStand(standOf(mesh.positions, { tiltXDeg: 30, tiltYDeg: 0, liftMm: 14 }, 0.05))
    const [seated] = reseatStilts(posed, [stilt], GAUGES, plate)
    expect(seated.foot).toBe('plate')
    expect(posed.distance(seated.path[0])).toBeLessThan(1e-3)
    expect(seated.anchor).toEqual(stilt.anchor)
    posed.setStand(standOf(mesh.positions, { tiltXDeg: 180, tiltYDeg: 0, liftMm: 14 }, 0.05))
    const [over] = reseatStilts(posed, [stilt], GAUGES, plate)
    expect([over.foot, over.lostFor]).toEqual(['lost', expect.stringMatching(/looks up/)])
    expect(solidOfStilt(over).triangles.length).toBe(0)
    // and once it can, it stands again
    posed.setStand(before)
    expect(reseatStilts(posed, [over], GAUGES, plate)[0]).toMatchObject({ foot: 'plate', path: stilt.path.map(p => p.map(v => expect.closeTo(v, 4))) })
  })
  it('leaves a foot that was moved by hand where it is, as long as the stilt can lean to it', () => {
    const before = standOf(ball.positions, { tiltXDeg: 0, tiltYDeg: 0, liftMm: 14 }, 0.05)
    const posed = new Surface(ball, { shape: UNSHAPED, stand: before })
    const moved = moveFoot(posed, placed(posed, [0, 0, 14], [0, 0, -1]), 3, 1, medium, plate, 0.25)
    if (!moved.ok) throw new Error(moved.reason)
    posed.setStand(standOf(ball.positions, { tiltXDeg: 8, tiltYDeg: 0, liftMm: 12 }, 0.05))
    const [seated] = reseatStilts(posed, [moved.shape], GAUGES, plate)
    expect([seated.footPinned, seated.path[seated.path.length - 1]]).toEqual([true, [3, 1, 0]])
    // too far to lean to: it stands where it can
    posed.setStand(standOf(ball.positions, { tiltXDeg: 0, tiltYDeg: 0, liftMm: 5 }, 0.05))
    expect(reseatStilts(posed, [{ ...moved.shape, path: [...moved.shape.path.slice(0, -1), [40, 1, 0]] }], GAUGES, plate)[0]).toMatchObject({ foot: 'plate', footPinned: false })
  })
  it('keeps feet on the plate however the part is turned and moved on it', () => {
    const turned = { widthMm: 150, depthMm: 20, shift: { xMm: 60, yMm: 0, turnDeg: 90 } }
    const s = placed(surface, [0, 0, 14], [0, 0, -1])
    const reach = (x: number, y: number): boolean => {
      const r = moveFoot(surface, s, x, y, medium, turned, 0.25)
      return r.ok && r.shape.path[2][0] === x && r.shape.path[2][1] === y
    }
    // along the stand's x lies the plate's short side
    expect([reach(6, 0), reach(9, 0), reach(0, 9), reach(0, -9)]).toEqual([true, false, true, true])
    expect(routeStilt(surface, [0, 0, 14], [0, 0, -1], medium, { ...turned, shift: { ...turned.shift, xMm: 200 } })).toMatchObject({ ok: false, problem: 'off-plate' })
  })
})
