import fc from 'fast-check'
import Module from 'manifold-3d'
import { describe, expect, it } from 'vitest'
import { applyChange, checkPlan, contentOf, listsOf, type Change, type JobContent, type PlanBeam } from '../contract'
import { degrees, distance, joinMeshes, type Mesh, type Vec3 } from '../mesh'
import { standOf, toSource, UNSHAPED } from '../pose'
import { jobRow, partRow } from '../testing/jobs'
import { box } from '../testing/shapes'
import { braceBetween, braceThese, changeOfStilts, gatherOnStem, gaugeOf, GAUGES, joinHigh, LEAST_RISE_DEG, moveNode, moveTip, neighboursOf, placeAtHeight, placeNow, PlanDraft, PlanIndex, propUnder, regaugeStilt, reseatTrees, resizeStilt, routeBranch, rowsOfBrace, rowsOfBraces, rowsOfBranch, rowsOfProp, routeStilt, shapeOfBranch, shapeOfRoute, slideBranch, solidOfStructure, Surface, type Joint, type PlanRows, type Stilt } from './index'

const wasm = await Module()
wasm.setup()

const plate = { widthMm: 120, depthMm: 80 }
// a roof high above the plate with a wall hanging from it
const roof = joinMeshes([box([-25, -15, 20], [25, 15, 24]), box([8, -15, 12], [9, 15, 20])])
const surface = new Surface(roof)
const fine = gaugeOf('fine'), medium = gaugeOf('medium')

function bench(): { job: JobContent; index: PlanIndex; apply: (c: Change) => Change; put: (rows: PlanRows) => Change; stilts: () => readonly Stilt[] } {
  const job = contentOf(jobRow('job', { parts: [partRow()] })), index = new PlanIndex(job.tables.nodes, job.tables.beams)
  const apply = (c: Change): Change => {
    const { inverse, touched } = applyChange(job, c)
    index.touch(touched.rows.get('nodes') ?? [], touched.rows.get('beams') ?? [])
    return inverse
  }
  return { job, index, apply, put: rows => apply({ label: 'put', put: { nodes: [...rows.nodes], beams: [...rows.beams] } }), stilts: () => index.stiltsOf('part') }
}
type Bench = ReturnType<typeof bench>

function place(b: Bench, x: number, y: number, gauge = medium): Stilt {
  const r = routeStilt(surface, [x, y, 20], [0, 0, -1], gauge, plate)
  if (!r.ok) throw new Error(r.reason)
  b.apply(changeOfStilts(b.index, 'part', 'place', { add: [shapeOfRoute(surface, gauge, 'detail', r, [0, 0, -1])] }))
  const all = b.stilts()
  return all[all.length - 1]
}
function branch(b: Bench, host: Stilt, x: number, y: number): Stilt {
  const r = routeBranch(surface, [x, y, 20], [0, 0, -1], fine, [host])
  if (!r.ok) throw new Error(r.reason)
  b.put(rowsOfBranch(b.index, shapeOfBranch({ gauge: 'fine', role: 'detail', anchor: { point: toSource(surface, [x, y, 20] as never), normal: [0, 0, -1] } }, r), r.joint, b.index.nextNumber('part')))
  const all = b.stilts()
  return all[all.length - 1]
}
const leanOf = (a: Vec3, c: Vec3): number => degrees(Math.atan2(Math.hypot(c[0] - a[0], c[1] - a[1]), a[2] - c[2]))
const solid = (mesh: Mesh): InstanceType<typeof wasm.Manifold> => {
  const m = new wasm.Mesh({ numProp: 3, vertProperties: mesh.positions, triVerts: mesh.triangles })
  m.merge()
  return new wasm.Manifold(m)
}

describe('branches', () => {
  it('leave their host at the highest place that the lean limit allows, as fine as their gauge has them', () => {
    const b = bench(), host = place(b, 0, 0), one = branch(b, host, 6, 0), [, knee, joint] = one.path
    expect(one.alone).toBe(2)
    expect(leanOf(knee, joint)).toBeLessThanOrEqual(45 + 1e-6)
    // one step of the search higher it would lean too much
    expect(leanOf(knee, [joint[0], joint[1], joint[2] + 0.41])).toBeGreaterThan(45)
    expect([one.sizes.tipDiameterMm, one.sizes.shaftFootDiameterMm]).toEqual([0.2, 0.4])
    const own = one.beams.slice(0, 2).map(id => b.index.beams.get(id))
    expect(own.map(r => [r?.kind, r?.toDiameterMm])).toEqual([['cone', 0.4], ['branch', 0.4]])
    // the trunk is what it was, in two pieces
    const trunk = b.stilts()[0]
    expect([trunk.id, trunk.path.length, trunk.alone, trunk.bound]).toEqual([host.id, 4, 4, 2])
    expect(checkPlan(b.job.tables.nodes, b.job.tables.beams)).toEqual([])
  })
  it('are refused where none rises, through the part, and on what looks up', () => {
    const b = bench(), host = place(b, 0, 0), deep = new Surface(joinMeshes([roof, box([8, -15, 3], [9, 15, 20])]))
    const refused = (x: number, z = 20, normal: Vec3 = [0, 0, -1]): string => {
      const r = routeBranch(deep, [x, 0, z], normal, fine, [host])
      return r.ok ? `lean ${r.leanDeg}` : r.reason
    }
    expect(refused(14.9)).toMatch(/The part is in the way/)
    expect(refused(-14.9, 8)).toMatch(/has to rise: within 45° from vertical none leads here from stilt 1/)
    expect(refused(0, 24, [0, 0, 1])).toMatch(/looks up/)
  })
  it('are closed solids together with what they hang on', () => {
    const b = bench(), host = place(b, 0, 0)
    for (const [x, y] of [[4, 0], [-4, 1], [0, 5]]) branch(b, host, x, y)
    const [structure] = b.index.structures().values(), made = solid(solidOfStructure(b.index, structure))
    expect(made.status()).toBe('NoError')
    // every tip is there: at the skin and inside it by its penetration
    for (const s of b.stilts()) expect(s.foot).toBe('plate')
    const { max } = made.boundingBox()
    expect(max[2]).toBeCloseTo(20 + medium.penetrationMm, 2)
  })
  it('stay with their trunk whatever is changed of it, and go on standing when its tip goes', () => {
    const b = bench(), host = place(b, 0, 0), one = branch(b, host, 5, 0), [, , joint] = one.path
    const trunk = (): Stilt => b.stilts()[0]
    const edit = (edited: ReturnType<typeof resizeStilt>): void => {
      if (!edited.ok) throw new Error(edited.reason)
      b.apply(changeOfStilts(b.index, 'part', 'edit', { put: [{ stilt: trunk(), shape: edited.shape }] }))
      expect([b.stilts()[1].alone, b.stilts()[1].path[2]]).toEqual([2, joint])
      expect(checkPlan(b.job.tables.nodes, b.job.tables.beams)).toEqual([])
    }
    edit(resizeStilt(surface, trunk(), { tipDiameterMm: 0.6, shaftFootDiameterMm: 2 }, medium, plate))
    expect(b.index.beams.get(trunk().beams[2])?.toDiameterMm).toBe(2)
    edit(resizeStilt(surface, trunk(), { coneLengthMm: 2 }, medium, plate))
    expect(trunk().path[1][2]).toBeCloseTo(18, 6)
    edit(moveTip(surface, trunk(), [0.5, 0.5, 20], [0, 0, -1], medium, plate))
    edit(regaugeStilt(surface, trunk(), gaugeOf('heavy'), plate))
    expect([trunk().gauge, trunk().sizes.footDiameterMm]).toEqual(['heavy', 6])
    b.apply(changeOfStilts(b.index, 'part', 'drop', { drop: [trunk()] }))
    expect(b.stilts().map(s => [s.id, s.alone, s.path.length])).toEqual([[one.id, 4, 4]])
    b.apply(changeOfStilts(b.index, 'part', 'drop', { drop: [b.stilts()[0]] }))
    expect([b.job.tables.nodes.size, b.job.tables.beams.size]).toEqual([0, 0])
  })
  it('leave no joint behind', () => {
    const b = bench(), host = place(b, 0, 0), rows = listsOf(b.job.tables), one = branch(b, host, 5, 0)
    b.apply(changeOfStilts(b.index, 'part', 'drop', { drop: [one] }))
    expect(listsOf(b.job.tables)).toEqual(rows)
  })
})

describe('braces', () => {
  it('zigzag between neighbours at the angle that is asked for, from foot to knee', () => {
    const b = bench(), pair = [place(b, -15, 0), place(b, -9, 0)]
    const braces = braceThese(surface, pair, { spacingMm: 0.5, angleDeg: 45, reachMm: 10 }, () => 0.7, () => undefined)
    // 15.5 mm of shaft in common, less 1 mm above the foot: two of 6 mm rise and half a millimetre between
    expect(braces.map(x => [x.riseDeg, x.upper.at[2] - x.lower.at[2]])).toEqual([[expect.closeTo(45, 3), expect.closeTo(6, 3)], [expect.closeTo(45, 3), expect.closeTo(6, 3)]])
    expect(braces[1].lower.at[2] - braces[0].upper.at[2]).toBeCloseTo(0.5, 6)
    expect(new Set(braces.map(x => x.lower.host.id)).size).toBe(2)
    for (const x of braces) b.put(rowsOfBrace(b.index, x))
    expect([b.stilts().map(s => s.path.length), checkPlan(b.job.tables.nodes, b.job.tables.beams)]).toEqual([[5, 5], []])
    const [structure] = b.index.structures().values()
    expect(solid(solidOfStructure(b.index, structure)).status()).toBe('NoError')
  })
  it('end where a place is told to be by now, though stilts were changed since it was found', () => {
    fc.assert(fc.property(fc.array(fc.tuple(fc.double({ min: 2, max: 15, noNaN: true }), fc.double({ min: 2, max: 15, noNaN: true })), { minLength: 2, maxLength: 6 }), heights => {
      const b = bench(), [one, other] = [place(b, -15, 0), place(b, -9, 0)]
      for (const [low, high] of heights) {
        const lower = placeAtHeight(one, low) as Joint, upper = placeAtHeight(other, high) as Joint, ends = [lower, upper].map(j => placeNow(b.index, j).at), rows = rowsOfBraces(b.index, [{ diameterMm: 0.8, lower, upper }])
        b.put(rows)
        const brace = b.index.beams.get(rows.beams[rows.beams.length - 1].id) as PlanBeam
        expect([brace.to, brace.from].map(id => b.index.nodes.get(id)?.at)).toEqual(ends)
      }
    }), { numRuns: 50 })
  })
  it('are made between neighbours only, in a line as well', () => {
    const b = bench(), row = [-20, -16, -12, -8].map(x => place(b, x, 0))
    expect(neighboursOf(row, 10).length).toBe(3)
    expect(neighboursOf(row, 3)).toEqual([])
    const square = [place(b, 0, 0), place(b, 4, 0), place(b, 0, 4), place(b, 4, 4)]
    // four sides and one diagonal
    expect(neighboursOf(square, 10).length).toBe(5)
  })
  it('are refused level, through the part, and on one stilt', () => {
    const b = bench(), one = place(b, 5, 0), two = place(b, 13, 0), at = (s: Stilt, z: number): NonNullable<ReturnType<typeof placeAtHeight>> => {
      const p = placeAtHeight(s, z)
      if (!p) throw new Error('no place')
      return p
    }
    const refused = (...ends: [ReturnType<typeof at>, ReturnType<typeof at>]): string => {
      const r = braceBetween(surface, ...ends, 0.7)
      return r.ok ? 'stands' : r.reason
    }
    expect(refused(at(one, 5), at(two, 6))).toMatch(/rise by 7° only/)
    expect(refused(at(one, 10), at(two, 15))).toMatch(/through the part/)
    expect(refused(at(one, 10), at(one, 5))).toMatch(/one stilt/)
    expect(refused(at(one, 3), at(two, 9))).toBe('stands')
  })
  it('join two stilts as high as possible', () => {
    const b = bench(), one = place(b, -15, 0), two = place(b, -11, 0), join = joinHigh(surface, one, two, 0.7)
    if (!join.ok) throw new Error(join.reason)
    // the upper end is right under a knee, and the lower one where it rises by 30°
    expect([join.upper.at[2], join.riseDeg]).toEqual([expect.closeTo(17 - 0.4, 1), expect.closeTo(30, 1)])
  })
  it('prop up what leans, straight down', () => {
    const b = bench(), low = box([-3, -3, 5], [3, 3, 8]), under = new Surface(joinMeshes([roof, low]))
    const r = routeStilt(under, [0, 0, 20], [0, 0, -1], medium, plate)
    if (!r.ok) throw new Error(r.reason)
    b.apply(changeOfStilts(b.index, 'part', 'place', { add: [shapeOfRoute(under, medium, 'detail', r, [0, 0, -1])] }))
    const [stilt] = b.stilts(), prop = propUnder(under, stilt, medium, plate)
    expect(r.leanDeg).toBeGreaterThan(5)
    if (!prop.ok) throw new Error(prop.reason)
    b.put(rowsOfProp(b.index, prop))
    expect(checkPlan(b.job.tables.nodes, b.job.tables.beams)).toEqual([])
    expect([b.index.structures().size, [...b.job.tables.nodes.values()].filter(n => n.kind === 'foot').length]).toEqual([1, 2])
    const [structure] = b.index.structures().values(), made = solid(solidOfStructure(b.index, structure))
    expect([made.status(), made.boundingBox().min[2]]).toEqual(['NoError', expect.closeTo(0, 6)])
    // both feet are there
    expect(made.slice(0.1).decompose().length).toBe(distance(prop.foot, stilt.path[stilt.path.length - 1]) > medium.footDiameterMm ? 2 : 1)
    b.apply(changeOfStilts(b.index, 'part', 'drop', { drop: [...b.stilts()] }))
    expect(b.job.tables.nodes.size).toBe(0)
    expect(propUnder(surface, place(bench(), 0, 0), medium, plate)).toMatchObject({ ok: false, reason: expect.stringMatching(/upright/) as string })
  })
})

describe('a stem', () => {
  it('takes the stilts around it as branches that keep their tips, and its base from its gauge', () => {
    const b = bench(), stilts = [place(b, -10, 0), place(b, -14, 1), place(b, -6, 2), place(b, -10, 5)], heavy = gaugeOf('heavy')
    const gathered = gatherOnStem(surface, b.index, stilts.map(s => s.id), heavy, GAUGES, plate)
    if (!gathered.ok) throw new Error(gathered.reason)
    b.apply(gathered.draft.change('gather'))
    expect([gathered.stem, gathered.count, gathered.reason, checkPlan(b.job.tables.nodes, b.job.tables.beams)]).toEqual([stilts[0].id, 3, null, []])
    const now = b.stilts(), feet = [...b.job.tables.nodes.values()].filter(n => n.kind === 'foot')
    expect([now.map(s => s.number), now.map(s => s.path[0]), feet.length]).toEqual([[1, 2, 3, 4], stilts.map(s => s.path[0]), 1])
    expect([now[0].sizes.footDiameterMm, now[0].alone === now[0].nodes.length, now.slice(1).map(s => s.sizes.tipDiameterMm)]).toEqual([6, true, [0.5, 0.5, 0.5]])
    for (const s of now.slice(1)) expect(leanOf(s.path[1], s.path[2])).toBeLessThanOrEqual(45 + 1e-6)
    const [structure] = b.index.structures().values()
    expect([b.index.structures().size, solid(solidOfStructure(b.index, structure)).status()]).toEqual([1, 'NoError'])
    expect(gatherOnStem(surface, b.index, [now[0].id], heavy, GAUGES, plate)).toMatchObject({ ok: false })
  })
})

describe('nodes that are moved', () => {
  it('take along what rides on the shaft, and are refused beyond the limits', () => {
    const b = bench(), one = place(b, -15, 0), two = place(b, -11, 0), join = joinHigh(surface, one, two, 0.7)
    if (join.ok) b.put(rowsOfBrace(b.index, join))
    const [now] = b.stilts(), last = now.path.length - 1, rider = now.nodes.findIndex((id, i) => i > 1 && b.index.isHeld(id)), before = now.path[rider]
    const ground = { surface, index: b.index, gauge: medium, plate }
    const moved = moveNode(ground, now, last, [-17, 0, 0])
    if (!moved.ok) throw new Error(moved.reason)
    b.put(moved.rows)
    const [then] = b.stilts()
    expect(then.path[last]).toEqual([-17, 0, 0])
    // the joint of the brace moved along by its share of the shaft
    const share = (17 - before[2]) / (17 - medium.footHeightMm)
    expect(then.path[rider][0]).toBeCloseTo(-15 - 2 * share, 6)
    expect(moveNode(ground, then, last, [-40, 0, 0])).toMatchObject({ ok: false, reason: expect.stringMatching(/would lean \d+°; at most 45°/) as string })
    expect(moveNode(ground, then, last, [-59, 0, 0]).ok).toBe(false)
    const knee = moveNode(ground, then, 1, [-15.5, 0.5, 17.5])
    if (!knee.ok) throw new Error(knee.reason)
    b.put(knee.rows)
    const [end] = b.stilts()
    expect([end.own.coneLengthMm, end.sizes.coneLengthMm]).toEqual([expect.closeTo(Math.hypot(0.5, 0.5, 2.5), 3), expect.closeTo(Math.hypot(0.5, 0.5, 2.5), 6)])
  })
})

describe('trees after a change of pose', () => {
  it('are seated anew as trees: branches on their trunk, braces where they were', () => {
    const b = bench(), one = place(b, -15, 0), two = place(b, -10, 0)
    branch(b, one, -18, 2)
    branch(b, one, -17, -3)
    for (const x of braceThese(surface, [b.stilts()[0], two], { spacingMm: 0.5, angleDeg: 45, reachMm: 10 }, () => 0.7, () => undefined)) b.put(rowsOfBrace(b.index, x))
    const braces = (): number => [...b.job.tables.beams.values()].filter(x => x.kind === 'brace').length, had = braces(), numbers = b.stilts().map(s => s.number), ids = b.stilts().map(s => s.id)
    expect(had).toBeGreaterThan(0)
    for (const [tiltXDeg, liftMm] of [[0, 25], [8, 20], [0, 20]]) {
      const tilted = new Surface(roof, { shape: UNSHAPED, stand: standOf(roof.positions, { tiltXDeg, tiltYDeg: 0, liftMm }, 0.05) })
      const { change, lost, braces: gone } = reseatTrees(tilted, b.index, ids, GAUGES, plate)
      const undo = b.apply({ label: 'pose', ...change }), after = listsOf(b.job.tables)
      expect([lost, braces() + gone]).toEqual([0, had])
      expect(gone).toBeLessThan(had)
      expect(b.stilts().map(s => [s.id, s.number])).toEqual(ids.map((id, i) => [id, numbers[i]]))
      expect(b.stilts().filter(s => s.alone < s.nodes.length).length).toBe(2)
      expect(checkPlan(b.job.tables.nodes, b.job.tables.beams)).toEqual([])
      const redo = b.apply(undo)
      b.apply(redo)
      expect(listsOf(b.job.tables)).toEqual(after)
      if (gone > 0) b.apply(undo)
    }
  })
})

describe('random editing', () => {
  it('keeps every stilt whole and every branch rising, and undo and redo give back the same rows', () => {
    const act = fc.tuple(fc.constantFrom('place', 'branch', 'brace', 'join', 'resize', 'tip', 'gauge', 'node', 'drop', 'undo', 'redo'), fc.nat(99), fc.nat(99))
    fc.assert(fc.property(fc.array(act, { maxLength: 30 }), acts => {
      const b = bench(), done: Change[] = [], undone: Change[] = [], start = listsOf(b.job.tables)
      const edit = (c: Change): void => {
        done.push(b.apply(c))
        undone.length = 0
      }
      const rows = (r: PlanRows): void => edit({ label: 'rows', put: { nodes: [...r.nodes], beams: [...r.beams] } })
      for (const [what, n, m] of acts) {
        const all = b.stilts(), one = all[n % Math.max(1, all.length)], two = all[m % Math.max(1, all.length)], at: Vec3 = [-24 + ((n * 7) % 48), -14 + ((m * 5) % 28), 20]
        const put = (edited: ReturnType<typeof resizeStilt>): void => {
          if (edited.ok) edit(changeOfStilts(b.index, 'part', 'put', { put: [{ stilt: one, shape: edited.shape }] }))
        }
        if (what === 'undo' || what === 'redo') {
          const [from, to] = what === 'undo' ? [done, undone] : [undone, done], last = from.pop()
          if (last) to.push(b.apply(last))
        } else if (what === 'place') {
          const r = routeStilt(surface, at, [0, 0, -1], medium, plate)
          if (r.ok) edit(changeOfStilts(b.index, 'part', 'add', { add: [shapeOfRoute(surface, medium, 'detail', r, [0, 0, -1])] }))
        } else if (!one) continue
        else if (what === 'branch') {
          const r = routeBranch(surface, at, [0, 0, -1], fine, [one])
          if (r.ok) rows(rowsOfBranch(b.index, shapeOfBranch({ gauge: 'fine', role: 'detail', anchor: { point: toSource(surface, at as never), normal: [0, 0, -1] } }, r), r.joint, b.index.nextNumber('part')))
        } else if (what === 'join') {
          const r = joinHigh(surface, one, two, 0.7)
          if (r.ok) rows(rowsOfBrace(b.index, r))
        } else if (what === 'brace') {
          const draft = new PlanDraft(b.index, [one.id, two.id])
          for (const x of braceThese(surface, [one, two], { spacingMm: 1, angleDeg: 45, reachMm: 12 }, () => 0.7, () => undefined)) draft.put(rowsOfBrace(draft.index, x))
          edit(draft.change('brace'))
        } else if (what === 'resize') put(resizeStilt(surface, one, n % 2 ? { tipDiameterMm: 0.3 + m / 200 } : { coneLengthMm: 1 + m / 50 }, medium, plate))
        else if (what === 'tip') put(moveTip(surface, one, [one.path[0][0] + 0.5, one.path[0][1], 20], [0, 0, -1], medium, plate))
        else if (what === 'gauge') put(regaugeStilt(surface, one, GAUGES[m % 4], plate))
        else if (what === 'node') {
          const i = 1 + (m % (one.alone - 1)), p = one.path[i], r = moveNode({ surface, index: b.index, gauge: medium, plate }, one, i, [p[0] + 0.6, p[1] - 0.3, p[2]])
          if (r.ok) rows(r.rows)
        } else edit(changeOfStilts(b.index, 'part', 'drop', { drop: [one] }))
        expect(checkPlan(b.job.tables.nodes, b.job.tables.beams)).toEqual([])
        expect(b.stilts().length).toBe(b.index.tipsOf('part').size)
        for (const x of b.job.tables.beams.values()) {
          const from = b.job.tables.nodes.get(x.from)?.at as Vec3, to = b.job.tables.nodes.get(x.to)?.at as Vec3
          if (x.kind === 'branch') expect(90 - leanOf(from, to)).toBeGreaterThanOrEqual(LEAST_RISE_DEG - 0.5)
        }
      }
      const end = listsOf(b.job.tables), steps = done.length
      for (let last = done.pop(); last; last = done.pop()) undone.push(b.apply(last))
      expect(listsOf(b.job.tables)).toEqual(start)
      for (let i = 0; i < steps; i++) done.push(b.apply(undone.pop() as Change))
      expect(listsOf(b.job.tables)).toEqual(end)
    }), { numRuns: 60, endOnFailure: true })
  })
})

describe('a branch whose tip is moved', () => {
  it('keeps its joint where that reaches, and takes another one of its host where it does not', () => {
    const b = bench(), host = place(b, 0, 0), one = branch(b, host, 4, 0), joint = one.path[2]
    const far = moveTip(surface, one, [7.5, 0, 20], [0, 0, -1], fine, plate)
    expect(far.ok).toBe(false)
    const slid = slideBranch(surface, b.index, one, [7.5, 0, 20], [0, 0, -1], fine)
    if (!slid.ok) throw new Error(slid.reason)
    const before = listsOf(b.job.tables), undo = b.apply({ label: 'slide', ...slid.change }), now = b.stilts()[1]
    expect([now.id, now.number, now.path[0], now.path[2][2] < joint[2] - 1]).toEqual([one.id, one.number, [7.5, 0, 20], true])
    expect(leanOf(now.path[1], now.path[2])).toBeLessThanOrEqual(45 + 1e-6)
    expect([now.sizes.tipDiameterMm, now.sizes.shaftFootDiameterMm]).toEqual([one.sizes.tipDiameterMm, one.sizes.shaftFootDiameterMm])
    // the joint before is gone, for nothing hangs on it
    expect([b.index.nodes.size, checkPlan(b.index.nodes, b.index.beams)]).toEqual([before.nodes.length, []])
    b.apply(undo)
    expect(listsOf(b.job.tables)).toEqual(before)
    const twig = branch(b, b.stilts()[1], 1.6, 1)
    expect(slideBranch(surface, b.index, b.stilts()[1], [7.5, 0, 20], [0, 0, -1], fine)).toMatchObject({ ok: false, reason: expect.stringContaining('hangs on this branch') as string })
    expect(twig.alone).toBeGreaterThan(1)
  })
})
