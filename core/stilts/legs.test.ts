import fc from 'fast-check'
import Module from 'manifold-3d'
import { describe, expect, it } from 'vitest'
import { applyChange, checkPlan, contentOf, listsOf, type Change, type Gauge } from '../contract'
import { OFF_LIMITS } from '../marks'
import { distance, joinMeshes, leanOf, type Mesh, type Vec3 } from '../mesh'
import { fromSource, standOf, UNSHAPED } from '../pose'
import { jobRow, partRow } from '../testing/jobs'
import { box } from '../testing/shapes'
import { beamsOfShape, changeOfStilts, gapOfPath, gaugeOf, keepSizes, moveNode, moveTip, pickedStick, PlanIndex, regaugeStilt, reseatStilts, reseatTrees, resizeStilt, routeBranch, routeStilt, rowsOfBranch, shapeOfBranch, shapeOfRoute, solidOfStilt, solidOfStructure, spreadStick, Surface, type StiltShape } from './index'

const wasm = await Module()
wasm.setup()
const solid = (mesh: Mesh): InstanceType<typeof wasm.Manifold> => {
  const m = new wasm.Mesh({ numProp: 3, vertProperties: mesh.positions, triVerts: mesh.triangles })
  m.merge()
  return new wasm.Manifold(m)
}
const plate = { widthMm: 120, depthMm: 80 }
const on = (modelFootPoints: number, more: Partial<Gauge> = {}): Gauge => ({ ...gaugeOf('light'), id: `on ${modelFootPoints}`, modelFootPoints, modelFootSpreadMm: 1.5, ...more })
/** A roof over a floor that rises along x by an angle; below the origin it is at 3 mm. */
function room(deg = 0): Mesh {
  const k = Math.tan((deg * Math.PI) / 180), floor = box([-20, -20, -8], [20, 20, 3])
  return joinMeshes([{ ...floor, positions: floor.positions.map((v, i) => (i % 3 === 2 && v > 0 ? v + floor.positions[i - 2] * k : v)) }, box([-20, -20, 15], [20, 20, 18])])
}
function stick(surface: Surface, x: number, y: number, gauge: Gauge): StiltShape {
  const foot = surface.cast([x, y, 14], [0, 0, -1])
  if (!foot) throw new Error('no floor')
  const r = pickedStick(surface, { point: [x, y, 15], normal: [0, 0, -1] }, foot, gauge)
  if (!r.ok) throw new Error(r.reason)
  return shapeOfRoute(surface, gauge, 'detail', r, r.upper.normal)
}
const feetOf = ({ path, legs = [] }: StiltShape): Vec3[] => [path[path.length - 1], ...legs.map(l => l.at)]

describe('a foot that is spread', () => {
  it('stands on as many points as its gauge has, so far from the middle', () => {
    const surface = new Surface(room())
    for (const count of [1, 2, 3, 4]) {
      const shape = stick(surface, 0, 0, on(count)), feet = feetOf(shape)
      expect(feet).toHaveLength(count)
      for (const f of feet) {
        expect(f[2]).toBeCloseTo(3, 4)
        expect(Math.hypot(f[0], f[1])).toBeCloseTo(count > 1 ? 1.5 : 0, 4)
        expect(leanOf(shape.path[shape.path.length - 2], f)).toBeLessThanOrEqual(45)
      }
      expect(gapOfPath(surface, shape)).toBeGreaterThan(0.35)
      expect(beamsOfShape(shape)).toHaveLength(3 + count - 1)
      // evenly about the middle
      expect(Math.hypot(feet.reduce((s, f) => s + f[0], 0), feet.reduce((s, f) => s + f[1], 0))).toBeLessThan(1e-4)
    }
  })
  it('has two points on level with each other where the skin slopes, and all of them on it', () => {
    for (const deg of [10, 25, 35]) {
      const surface = new Surface(room(deg)), k = Math.tan((deg * Math.PI) / 180), two = feetOf(stick(surface, 0, 0, on(2)))
      expect(two.map(f => f[2])).toEqual([expect.closeTo(3, 4), expect.closeTo(3, 4)])
      for (const count of [2, 3, 4]) for (const f of feetOf(stick(surface, 1, 2, on(count)))) expect(f[2]).toBeCloseTo(3 + f[0] * k, 3)
    }
  })
  it('leaves out points beside an edge or off limits, and is one point where fewer than two are left', () => {
    const ledge = new Surface(joinMeshes([box([-5, -5, 0], [0.3, 5, 3]), box([-5, -5, 15], [5, 5, 18]), box([-5, 5, 0], [5, 6, 18])]))
    for (const f of feetOf(stick(ledge, 0, 0, on(4)))) expect([f[0] <= 0.3, Math.abs(f[2] - 3) < 1e-4]).toEqual([true, true])
    const spike = new Surface(joinMeshes([box([-0.3, -0.3, 0], [0.3, 0.3, 3]), box([-5, -5, 15], [5, 5, 18]), box([-5, 5, 0], [5, 6, 18])]))
    expect(feetOf(stick(spike, 0, 0, on(3)))).toEqual([[0, 0, expect.closeTo(3, 4)]])
    const mesh = room(), marked = new Surface(mesh), worths = new Uint8Array(mesh.triangles.length / 3), face = marked.cast([1.5, 0.2, 14], [0, 0, -1])?.face ?? 0
    worths[face] = OFF_LIMITS
    marked.setWorths(worths)
    const free = marked.cast([-3, 3.4, 14], [0, 0, -1])
    if (free && free.face !== face) for (const f of feetOf(stick(marked, -3, 3.4, on(4)))) expect(marked.offLimitsWithin(f, 0.1)).toBe(false)
  })
  it('can be given by hand: another number of points, wider, each exactly or refused with how many find a place', () => {
    const surface = new Surface(room()), gauge = on(1), one = stick(surface, 0, 0, gauge)
    const set = (shape: StiltShape, changes: Parameters<typeof spreadStick>[2]): StiltShape => {
      const r = spreadStick(surface, shape, changes, gauge)
      if (!r.ok) throw new Error(r.reason)
      return r.shape
    }
    const three = set(one, { footPoints: 3 }), wider = set(three, { footSpreadMm: 2.2 }), again = set(wider, { footPoints: 1 })
    expect([three, wider, again].map(s => feetOf(s).length)).toEqual([3, 3, 1])
    for (const f of feetOf(wider)) expect(Math.hypot(f[0], f[1])).toBeCloseTo(2.2, 4)
    expect(again.path.map(p => p.map(v => Math.round(v * 1e4) / 1e4))).toEqual(one.path.map(p => p.map(v => Math.round(v * 1e4) / 1e4)))
    expect(wider.own).toEqual({ footPoints: 3, footSpreadMm: 2.2 })
    // what was set by hand stays when it is seated anew, given another gauge, or its sizes change
    const [seated] = reseatStilts(surface, [wider], [gauge], plate), regauged = regaugeStilt(surface, wider, { ...gaugeOf('medium'), gapMm: 0.3 }, plate), low = resizeStilt(surface, wider, { coneLengthMm: 1.5 }, gauge, plate)
    for (const s of [seated, regauged.ok ? regauged.shape : null, low.ok ? low.shape : null]) expect(s && feetOf(s).map(f => Math.round(Math.hypot(f[0], f[1]) * 1e3) / 1e3)).toEqual([2.2, 2.2, 2.2])
    const ledge = new Surface(joinMeshes([box([-5, -5, 0], [0.3, 5, 3]), box([-5, -5, 15], [5, 5, 18]), box([-5, 5, 0], [5, 6, 18])]))
    expect(spreadStick(ledge, stick(ledge, 0, 0, gauge), { footPoints: 4 }, gauge)).toMatchObject({ ok: false, reason: expect.stringMatching(/only [123] of 4 points/) })
    const standing = routeStilt(new Surface(box([-5, -5, 12], [5, 5, 18])), [0, 0, 12], [0, 0, -1], gauge, plate)
    if (standing.ok) expect(spreadStick(surface, shapeOfRoute(surface, gauge, 'detail', standing, [0, 0, -1]), { footPoints: 2 }, gauge)).toMatchObject({ ok: false, reason: expect.stringContaining('on the model') })
  })
  it('keeps a foot on the model as it was set by hand when its way is found anew', () => {
    const surface = new Surface(room()), gauge = on(1), one = stick(surface, 0, 0, gauge), wide = resizeStilt(surface, one, { footDiameterMm: 0.7 }, gauge, plate)
    if (!wide.ok) throw new Error(wide.reason)
    expect(reseatStilts(surface, [wide.shape], [gauge], plate)[0].sizes.footDiameterMm).toBe(0.7)
    // and forgets it where it comes to stand on the plate
    const roof = new Surface(box([-20, -20, 15], [20, 20, 18])), onPlate = reseatStilts(roof, [{ ...wide.shape, footAnchor: wide.shape.anchor }], [gauge], plate)[0]
    expect([onPlate.foot, onPlate.sizes.footDiameterMm, onPlate.own]).toEqual(['plate', gauge.footDiameterMm, {}])
    // what it stood on was cut away: somebody is to see to it; the same where what it touched was
    const floor = new Surface(box([-20, -20, -8], [20, 20, 3]))
    expect([roof, floor].map(s => reseatStilts(s, [wide.shape], [gauge], plate)[0].lostFor)).toEqual(['What it stood on is not there any more.', 'What it touched is not there any more.'])
    expect(keepSizes(one, gauge, { ...gauge, modelFootPoints: 3, modelFootDiameterMm: 0.5 }).own).toEqual({ footPoints: 1, footDiameterMm: gauge.modelFootDiameterMm })
  })
  it('is a closed solid of tubes that meet (manifold-3d), larger than on one point', () => {
    const surface = new Surface(room(15)), one = solid(solidOfStilt(stick(surface, 0, 0, on(1)))).volume()
    for (const count of [2, 3, 4]) {
      const made = solid(solidOfStilt(stick(surface, 0, 0, on(count))))
      expect([made.status(), made.genus() <= 0]).toEqual(['NoError', true])
      expect(made.volume()).toBeGreaterThan(one)
    }
  })
})

/** A plan with its index. */
function bench() {
  const job = contentOf(jobRow('job', { parts: [partRow()] })), index = new PlanIndex(job.tables.nodes, job.tables.beams)
  const apply = (c: Change): Change => {
    const { inverse, touched } = applyChange(job, c)
    index.touch(touched.rows.get('nodes') ?? [], touched.rows.get('beams') ?? [])
    return inverse
  }
  return { job, index, apply, stilts: () => index.stiltsOf('part') }
}

describe('legs in a plan', () => {
  const surface = new Surface(room()), three = on(3)
  it('come back as they were written, tie nothing, and go with their stilt', () => {
    const b = bench(), shape = stick(surface, 0, 0, three)
    b.apply(changeOfStilts(b.index, 'part', 'add', { add: [shape] }))
    const [made] = b.stilts()
    expect(made).toMatchObject({ path: shape.path, sizes: shape.sizes, foot: 'model' })
    expect([...(made.legs ?? [])].map(l => l.at).sort()).toEqual([...(shape.legs ?? [])].map(l => l.at).sort())
    expect([made.bound, made.nodes.length, b.index.nodes.size, checkPlan(b.index.nodes, b.index.beams)]).toEqual([4, 4, 6, []])
    const structure = b.index.structureAt(made.id)
    expect(structure && [solid(solidOfStructure(b.index, structure)).status(), Math.abs(solid(solidOfStructure(b.index, structure)).volume() - solid(solidOfStilt(shape)).volume()) < 1e-3]).toEqual(['NoError', true])
    b.apply(changeOfStilts(b.index, 'part', 'drop', { drop: [made] }))
    expect([b.index.nodes.size, b.index.beams.size]).toEqual([0, 0])
  })
  it('follow another gauge and another size, and stay where something hangs on their stick', () => {
    const b = bench()
    b.apply(changeOfStilts(b.index, 'part', 'add', { add: [stick(surface, 0, 0, three)] }))
    const wider = resizeStilt(surface, b.stilts()[0], { tipDiameterMm: 0.5 }, three, plate)
    if (!wider.ok) throw new Error(wider.reason)
    b.apply(changeOfStilts(b.index, 'part', 'resize', { put: [{ stilt: b.stilts()[0], shape: wider.shape }] }))
    expect([b.stilts()[0].legs?.length, b.index.nodes.size]).toEqual([2, 6])
    const [host] = b.stilts(), at: Vec3 = [6, 0, 15], branch = routeBranch(surface, at, [0, 0, -1], gaugeOf('fine'), [host])
    if (!branch.ok) throw new Error(branch.reason)
    const rows = rowsOfBranch(b.index, shapeOfBranch({ gauge: 'fine', role: 'detail', anchor: { point: at as never, normal: [0, 0, -1] } }, branch), branch.joint, 2)
    b.apply({ label: 'branch', put: { nodes: [...rows.nodes], beams: [...rows.beams] } })
    const [trunk, twig] = b.stilts(), moved = moveTip(surface, trunk, [0.4, 0, 15], [0, 0, -1], three, plate)
    expect([trunk.legs?.length, twig.legs, twig.alone < twig.nodes.length]).toEqual([2, undefined, true])
    if (!moved.ok) throw new Error(moved.reason)
    b.apply(changeOfStilts(b.index, 'part', 'move', { put: [{ stilt: trunk, shape: moved.shape }] }))
    expect([b.stilts()[0].legs?.length, checkPlan(b.index.nodes, b.index.beams)]).toEqual([2, []])
    // without its tip the branch stands on all three points
    b.apply(changeOfStilts(b.index, 'part', 'drop', { drop: [b.stilts()[0]] }))
    expect([...b.index.beams.values()].filter(x => x.kind === 'leg')).toHaveLength(2)
  })
  it('are made anew where their stilt is seated anew', () => {
    const b = bench(), mesh = room(), higher = new Surface(mesh, { shape: UNSHAPED, stand: standOf(mesh.positions, { tiltXDeg: 5, tiltYDeg: 0, liftMm: 3 }, 0.05) })
    // a way to the plate leads beside the floor from nowhere
    b.apply(changeOfStilts(b.index, 'part', 'add', { add: [stick(surface, 0, 0, three)] }))
    const { change } = reseatTrees(higher, b.index, [b.stilts()[0].id], [three], plate)
    b.apply({ label: 'pose', ...change })
    const [now] = b.stilts()
    expect([now.foot, now.legs?.length, checkPlan(b.index.nodes, b.index.beams)]).toEqual(['model', 2, []])
    for (const { at, anchor } of now.legs ?? []) expect([higher.distance(at) < 1e-3, distance(fromSource(higher, anchor.point), at) < 1e-3]).toEqual([true, true])
  })
  it('stay whole through random editing, and undo and redo give back the same rows', () => {
    const act = fc.tuple(fc.constantFrom('stick', 'resize', 'tip', 'gauge', 'node', 'branch', 'drop', 'undo', 'redo'), fc.nat(99), fc.nat(99)), gauges = [1, 2, 3, 4].map(n => on(n))
    fc.assert(fc.property(fc.array(act, { maxLength: 25 }), acts => {
      const b = bench(), done: Change[] = [], undone: Change[] = [], start = listsOf(b.job.tables)
      const edit = (c: Change): void => {
        done.push(b.apply(c))
        undone.length = 0
      }
      for (const [what, n, m] of acts) {
        const all = b.stilts(), one = all[n % Math.max(1, all.length)], gauge = gauges[m % 4]
        const put = (e: ReturnType<typeof resizeStilt>): void => {
          if (e.ok) edit(changeOfStilts(b.index, 'part', 'put', { put: [{ stilt: one, shape: e.shape }] }))
        }
        if (what === 'undo' || what === 'redo') {
          const [from, to] = what === 'undo' ? [done, undone] : [undone, done], last = from.pop()
          if (last) to.push(b.apply(last))
        } else if (what === 'stick') edit(changeOfStilts(b.index, 'part', 'add', { add: [stick(surface, -15 + (n % 30), -15 + (m % 30), gauge)] }))
        else if (!one) continue
        else if (what === 'resize') put(resizeStilt(surface, one, n % 2 ? { tipDiameterMm: 0.3 + m / 300 } : { footDiameterMm: 0.3 + m / 300 }, gauge, plate))
        else if (what === 'tip') put(moveTip(surface, one, [one.path[0][0] * 0.9, one.path[0][1], 15], [0, 0, -1], gauge, plate))
        else if (what === 'gauge') put(regaugeStilt(surface, one, gauge, plate))
        else if (what === 'node') {
          const i = 1 + (m % Math.max(1, one.path.length - 2)), p = one.path[i], r = moveNode({ surface, index: b.index, gauge, plate }, one, i, [p[0] + 0.2, p[1] - 0.1, p[2] + 0.1])
          if (r.ok) edit({ label: 'node', put: { nodes: [...r.rows.nodes], beams: [...r.rows.beams] } })
        } else if (what === 'branch') {
          const at: Vec3 = [-15 + (m % 30), -15 + (n % 30), 15], r = routeBranch(surface, at, [0, 0, -1], gaugeOf('fine'), [one])
          if (!r.ok) continue
          const rows = rowsOfBranch(b.index, shapeOfBranch({ gauge: 'fine', role: 'detail', anchor: { point: at as never, normal: [0, 0, -1] } }, r), r.joint, b.index.nextNumber('part'))
          edit({ label: 'branch', put: { nodes: [...rows.nodes], beams: [...rows.beams] } })
        } else edit(changeOfStilts(b.index, 'part', 'drop', { drop: [one] }))
        expect(checkPlan(b.job.tables.nodes, b.job.tables.beams)).toEqual([])
        expect(b.stilts().length).toBe(b.index.tipsOf('part').size)
        // no leg without its joint, no foot that belongs to nobody
        const feet = [...b.job.tables.nodes.values()].filter(x => x.kind === 'foot').length, legs = [...b.job.tables.beams.values()].filter(x => x.kind === 'leg')
        for (const l of legs) expect(b.job.tables.nodes.get(l.from)?.kind).toMatch(/joint|knee/)
        expect(feet).toBe(new Set(b.stilts().map(s => s.nodes[s.nodes.length - 1])).size + legs.length)
      }
      const end = listsOf(b.job.tables), steps = done.length
      for (let last = done.pop(); last; last = done.pop()) undone.push(b.apply(last))
      expect(listsOf(b.job.tables)).toEqual(start)
      for (let i = 0; i < steps; i++) done.push(b.apply(undone.pop() as Change))
      expect(listsOf(b.job.tables)).toEqual(end)
    }), { numRuns: 60, endOnFailure: true })
  })
})
