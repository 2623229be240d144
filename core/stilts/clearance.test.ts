import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { applyChange, contentOf } from '../contract'
import { distance, type Vec3 } from '../mesh'
import { jobRow } from '../testing/jobs'
import { sphere } from '../testing/shapes'
import { beamsOfShape, BeamField, changeOfStilts, Clearance, gapOfBeams, gaugeOf, PlanIndex, routeStilt, rowsOfStilt, shapeOfRoute, sizesOf, Surface, type Beam, type StiltShape } from './index'

const beam = (from: Vec3, to: Vec3, fromRadius = 0.5, toRadius = fromRadius): Beam => ({ from, to, fromRadius, toRadius })
const coordinate = fc.double({ min: -10, max: 10, noNaN: true }), radius = fc.double({ min: 0.05, max: 1, noNaN: true })
const point = fc.tuple(coordinate, coordinate, coordinate)
const anyBeam = fc.record({ from: point, to: point, fromRadius: radius, toRadius: radius }).filter(({ from, to }) => Math.hypot(...from.map((v, i) => v - to[i])) > 1.5)

describe('the gap between two beams', () => {
  it('is the distance of the axes less the radii: side by side, crossing over, one after the other (closed forms)', () => {
    expect(gapOfBeams(beam([0, 0, 0], [0, 0, 10]), beam([2, 0, 3], [2, 0, 30])).gapMm).toBeCloseTo(1, 9)
    expect(gapOfBeams(beam([-5, 0, 0], [5, 0, 0]), beam([0, -5, 3], [0, 5, 3], 1))).toMatchObject({ gapMm: expect.closeTo(1.5, 9) as number, at: [0, 0, 1.5] })
    expect(gapOfBeams(beam([0, 0, 0], [0, 0, 1]), beam([0, 3, 5], [0, 3, 9])).gapMm).toBeCloseTo(Math.hypot(3, 4) - 1, 9)
    expect(gapOfBeams(beam([-5, 0, 0], [5, 0, 0]), beam([0, -5, 0], [0, 5, 0])).gapMm).toBeCloseTo(-1, 9)
  })

  it('of tapered beams side by side is at the wide ends', () => {
    expect(gapOfBeams(beam([0, 0, 0], [0, 0, 10], 1, 0.2), beam([4, 0, 0], [4, 0, 10], 1.5, 0.2)).gapMm).toBeCloseTo(1.5, 6)
  })

  it('is the smallest that trying all places finds', () => {
    fc.assert(fc.property(anyBeam, anyBeam, (a, b) => {
      const { gapMm } = gapOfBeams(a, b), steps = 60
      let least = Infinity
      const at = (x: Beam, s: number): Vec3 => [0, 1, 2].map(i => x.from[i] + (x.to[i] - x.from[i]) * s) as unknown as Vec3
      for (let i = 0; i <= steps; i++) {
        for (let j = 0; j <= steps; j++) {
          const p = at(a, i / steps), q = at(b, j / steps)
          least = Math.min(least, distance(p, q) - (a.fromRadius + (a.toRadius - a.fromRadius) * i / steps) - (b.fromRadius + (b.toRadius - b.fromRadius) * j / steps))
        }
      }
      expect(gapMm).toBeLessThan(least + 1e-6)
      expect(gapMm).toBeGreaterThan(least - 0.4)
      expect(gapOfBeams(b, a).gapMm).toBeCloseTo(gapMm, 5)
    }), { numRuns: 300, seed: 4 })
  })
})

const upright = (x: number, y: number, top = 12): StiltShape => ({
  gauge: 'fine', role: 'detail', sizes: sizesOf(gaugeOf('fine')), own: {}, anchor: { point: [x, y, top], normal: [0, 0, -1] }, foot: 'plate', footPinned: false,
  path: [[x, y, top], [x, y, top - 1.8], [x, y, 0]],
})

describe('the field of beams', () => {
  it('finds of some what is nearest, and no more once it is dropped', () => {
    const field = new BeamField()
    for (const [i, x] of [0, 3, 6].entries()) field.put(`k${i}`, beamsOfShape(upright(x, 0)).map(b => ({ owner: `o${i}`, beam: b })))
    const mine = beamsOfShape(upright(4.2, 0))
    // shafts of 0.8 mm at the foot, 1.2 apart
    expect(field.nearest(mine, 0.5)).toMatchObject({ owner: 'o1', gapMm: expect.closeTo(0.4, 6) as number })
    expect(field.nearest(mine, 0.3)).toBeNull()
    expect(field.nearest(mine, 0.5, new Set(['o1']))).toBeNull()
    field.drop('k1')
    expect(field.nearest(mine, 0.5)).toBeNull()
  })
})

describe('which stilts of a plan come near to each other', () => {
  const place = fc.record({ x: fc.integer({ min: 0, max: 40 }), y: fc.integer({ min: 0, max: 40 }), top: fc.integer({ min: 6, max: 20 }), lean: fc.integer({ min: -20, max: 20 }) })
  const shapeOf = ({ x, y, top, lean }: { x: number; y: number; top: number; lean: number }): StiltShape => {
    const s = upright(x / 4, y / 4, top), [tip, knee, foot] = s.path
    return { ...s, path: [tip, knee, [foot[0] + lean / 10, foot[1], 0]] }
  }

  it('after any edits are those of every pair looked at by itself', () => {
    fc.assert(fc.property(fc.array(place, { minLength: 2, maxLength: 14 }), fc.array(fc.record({ which: fc.nat(20), to: fc.option(place) }), { maxLength: 8 }), (places, steps) => {
      const rows = places.map((p, i) => rowsOfStilt(shapeOf(p), { part: 'part', number: i + 1 }))
      const content = contentOf(jobRow('job', { nodes: rows.flatMap(r => r.nodes), beams: rows.flatMap(r => r.beams) }))
      const index = new PlanIndex(content.tables.nodes, content.tables.beams), clearance = new Clearance(index)
      for (const step of [null, ...steps]) {
        const stilts = index.stiltsOf('part')
        if (step && stilts.length > 0) {
          const stilt = stilts[step.which % stilts.length]
          const change = changeOfStilts(index, 'part', 'edit', step.to ? { put: [{ stilt, shape: shapeOf(step.to) }] } : { drop: [stilt] })
          const { touched } = applyChange(content, change)
          clearance.touch(index.touch(touched.rows.get('nodes') ?? [], touched.rows.get('beams') ?? []))
        }
        const now = index.stiltsOf('part'), want = new Map<string, number>()
        for (const [i, a] of now.entries()) {
          for (const b of now.slice(i + 1)) {
            const gap = Math.min(...beamsOfShape(a).flatMap(p => beamsOfShape(b).map(q => gapOfBeams(p, q).gapMm)))
            if (gap < 0.4837) want.set([a.id, b.id].sort().join(), gap)
          }
        }
        const found = clearance.nearer('part', 0.4837)
        expect(found.map(n => n.stilts.join()).sort()).toEqual([...want.keys()].sort())
        for (const n of found) expect(n.gapMm).toBeCloseTo(want.get(n.stilts.join()) ?? NaN, 4)
      }
    }), { numRuns: 60, seed: 8 })
  })
})

describe('a way down among other stilts', () => {
  const surface = new Surface(sphere([0, 0, 20], 5, 48)), plate = { widthMm: 100, depthMm: 100 }, gauge = gaugeOf('fine')
  const field = new BeamField(), others = { field, limitMm: 0.5 }
  field.put('a', beamsOfShape(upright(0, 0.4, 15)).map(b => ({ owner: 'a', beam: b })))

  it('keeps the limit to them, leaning where straight down is too near', () => {
    const at = surface.cast([1.6, 0.4, 1], [0, 0, 1])
    const free = at && routeStilt(surface, at.point, at.normal, gauge, plate), kept = at && routeStilt(surface, at.point, at.normal, gauge, plate, undefined, { ...others, limitMm: 1.424 })
    expect([free?.ok, kept?.ok]).toEqual([true, true])
    if (!at || !free?.ok || !kept?.ok) return
    const gap = (r: typeof kept): number => field.nearest(beamsOfShape(shapeOfRoute(surface, gauge, 'detail', r, at.normal)), 5)?.gapMm ?? 5
    expect(gap(free)).toBeLessThan(1.424)
    expect(gap(kept)).toBeGreaterThanOrEqual(1.424)
  })

  it('is refused, with the numbers, where the tip itself is too near', () => {
    const at = surface.cast([0.1, 0.5, 1], [0, 0, 1])
    const route = at && routeStilt(surface, at.point, at.normal, gauge, plate, undefined, others)
    expect(route).toMatchObject({ ok: false, problem: 'too-near', reason: expect.stringContaining('under 0.50 mm this resin webs') as string })
  })

  it('may be its own', () => {
    const at = surface.cast([0.1, 0.5, 1], [0, 0, 1])
    expect(at && routeStilt(surface, at.point, at.normal, gauge, plate, undefined, { ...others, but: new Set(['a']) })).toMatchObject({ ok: true })
  })
})
