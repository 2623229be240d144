import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { applyChange, checkPlan, contentOf, type Change, type JobContent, type PlanBeam, type PlanNode } from '../contract'
import { prepareMesh, volumeOf } from '../mesh'
import { ModelScan } from '../scan'
import { jobRow, partRow, uprightShape } from '../testing/jobs'
import { box } from '../testing/shapes'
import { changeOfStilts, PlanIndex, solidOfStilt, solidOfStructure, type StiltShape } from './index'

/** A job with its graph, which follows every change. */
function bench(): { job: JobContent; index: PlanIndex; apply: (c: Change) => Change } {
  const job = contentOf(jobRow('job', { parts: [partRow(), partRow('other')] }))
  const index = new PlanIndex(job.tables.nodes, job.tables.beams)
  return {
    job, index, apply: c => {
      const { inverse, touched } = applyChange(job, c)
      index.touch(touched.rows.get('nodes') ?? [], touched.rows.get('beams') ?? [])
      return inverse
    },
  }
}
/** All that a graph says, whatever its history: to be compared with one that is made anew. */
function said(index: PlanIndex, parts = ['part', 'other']): unknown {
  const sorted = (ids: readonly string[]): string[] => [...ids].sort()
  return {
    structures: [...index.structures().values()].map(s => ({ id: s.id, part: s.part, nodes: sorted(s.nodes), beams: sorted(s.beams) })).sort((a, b) => (a.id < b.id ? -1 : 1)),
    stilts: parts.map(p => index.stiltsOf(p)),
  }
}
const joint = (id: string, at: [number, number, number], part = 'part'): PlanNode => ({ id, part, kind: 'joint', at, pinned: false })
const beam = (id: string, from: string, to: string, more: Partial<PlanBeam> = {}): PlanBeam => ({ id, part: 'part', kind: 'shaft', from, to, fromDiameterMm: 1, toDiameterMm: 1.2, ...more })

describe('the graph of a plan', () => {
  it('is the one that is made anew from its rows, after any edits and any undo', () => {
    const name = fc.integer({ min: 0, max: 9 }).map(n => `n${n}`)
    const change: fc.Arbitrary<Change> = fc.record({
      nodes: fc.uniqueArray(name, { maxLength: 4 }), dropped: fc.uniqueArray(name, { maxLength: 2 }),
      beams: fc.uniqueArray(fc.tuple(fc.integer({ min: 0, max: 9 }), name, name, fc.boolean()), { selector: t => t[0], maxLength: 5 }), gone: fc.uniqueArray(fc.integer({ min: 0, max: 9 }), { maxLength: 3 }),
    }).map(({ nodes, dropped, beams, gone }) => ({
      label: 'edit', put: { nodes: nodes.map(n => joint(n, [1, 2, 3])), beams: beams.map(([b, from, to, brace]) => beam(`b${b}`, from, to, { kind: brace ? 'brace' : 'shaft' })) },
      drop: { nodes: dropped, beams: gone.map(b => `b${b}`) },
    }))
    fc.assert(fc.property(fc.array(change, { minLength: 1, maxLength: 10 }), changes => {
      const b = bench(), states = [said(b.index)], inverses: Change[] = []
      for (const c of changes) {
        const before = new Map(b.index.structures())
        inverses.push(b.apply(c))
        expect(said(b.index)).toEqual(said(new PlanIndex(b.job.tables.nodes, b.job.tables.beams)))
        // what hangs together with nothing that was touched stays the same object
        const touched = new Set([...(c.put?.nodes ?? []).map(n => n.id), ...(c.drop?.nodes ?? [])])
        for (const s of b.index.structures().values()) {
          const was = before.get(s.id)
          if (was && was.version === s.version) expect(was.nodes.some(n => touched.has(n))).toBe(false)
        }
        states.push(said(b.index))
      }
      for (const i of inverses.toReversed()) {
        states.pop()
        b.apply(i)
        expect(said(b.index)).toEqual(states[states.length - 1])
      }
    }), { numRuns: 300 })
  })

  it('keeps whole stilts under any placing, bending, deleting and undoing, and touches no other', () => {
    const act = fc.tuple(fc.constantFrom('add', 'bend', 'drop', 'undo'), fc.integer({ min: 0, max: 30 }))
    fc.assert(fc.property(fc.array(act, { maxLength: 25 }), acts => {
      const b = bench(), undo: Change[] = []
      for (const [what, n] of acts) {
        const stilts = b.index.stiltsOf('part'), one = stilts[n % Math.max(1, stilts.length)]
        const others = stilts.filter(s => s !== one)
        if (what === 'undo') {
          const last = undo.pop()
          if (last) b.apply(last)
        } else if (what === 'add') undo.push(b.apply(changeOfStilts(b.index, 'part', 'add', { add: [uprightShape(n), uprightShape(n + 40)] })))
        else if (one) {
          const path = n % 2 ? one.path : [...one.path.slice(0, -1), [n, 0, 1] as const, [n, 1, 0] as const]
          undo.push(b.apply(changeOfStilts(b.index, 'part', what, what === 'drop' ? { drop: [one] } : { put: [{ stilt: one, shape: { ...one, path } }] })))
          const now = new Set(b.index.stiltsOf('part'))
          for (const o of others) expect(now.has(o)).toBe(true)
        }
        expect(checkPlan(b.job.tables.nodes, b.job.tables.beams)).toEqual([])
        expect(b.index.stiltsOf('part').length).toBe(b.index.tipsOf('part').size)
        expect(b.index.stiltsOf('other')).toEqual([])
      }
    }), { numRuns: 100 })
  })
})

describe('stilts that share', () => {
  /** Two tips whose shafts meet at a joint over one foot, and a stilt beside them that is braced to the shared shaft. */
  function shared(): ReturnType<typeof bench> {
    const b = bench()
    b.apply(changeOfStilts(b.index, 'part', 'add', { add: [uprightShape(0, bentTo([0, 0, 4], [0, 0, 3], [1, 0, 2], [1, 0, 0])), uprightShape(2, bentTo([2, 0, 4], [2, 0, 3], [2, 0, 0])), uprightShape(5, bentTo([5, 0, 4], [5, 0, 3], [5, 0, 0]))] }))
    const [one, two, three] = b.index.stiltsOf('part'), [, , joint] = one.nodes
    b.apply({ label: 'join', put: { beams: [beam(two.beams[1], two.nodes[1], joint), beam('brace', joint, three.nodes[1], { kind: 'brace', fromDiameterMm: 0.5, toDiameterMm: 0.5 })] }, drop: { nodes: [two.nodes[2]] } })
    return b
  }
  const bentTo = (...path: [number, number, number][]): Partial<StiltShape> => ({ path })

  it('are one structure, each with its own way down', () => {
    const { index, job } = shared()
    expect(checkPlan(job.tables.nodes, job.tables.beams)).toEqual([])
    expect([...index.structures().values()].map(s => s.nodes.length)).toEqual([9])
    expect(index.stiltsOf('part').map(s => [s.path.length, s.alone])).toEqual([[4, 4], [4, 2], [3, 3]])
  })
  it('make closed solids that overlap, so that what is shared prints once (union by the scan)', () => {
    const { index } = shared(), [structure] = index.structures().values()
    const solid = solidOfStructure(index, structure), { report } = prepareMesh(solid)
    // two tubes, the branch and its ball, the brace
    expect([report.unclosedEdges, report.turnedShells, report.sheets, report.shells]).toEqual([0, 0, 0, 5])
    // the shared trunk is there once: less than three whole stilts and the brace would be
    const alone = index.stiltsOf('part').reduce((v, s) => v + volumeOf(solidOfStilt(s)), 0)
    expect(volumeOf(solid)).toBeLessThan(alone)
    const scan = new ModelScan(box([-1, -1, 3.9], [6, 1, 5]), { pixelMm: 0.05, layerMm: 0.05 })
    scan.setStilts([solid])
    const result = scan.runToEnd()
    expect([result.floating, result.islands.map(i => i.state === 'open')]).toEqual([[], [false]])
  })
  it('go one by one: what is shared stays for the others, and goes with the last', () => {
    const b = shared(), [one, two, three] = b.index.stiltsOf('part')
    const undoOne = b.apply(changeOfStilts(b.index, 'part', 'drop', { drop: [one] }))
    expect([b.index.stiltsOf('part').map(s => s.path), checkPlan(b.job.tables.nodes, b.job.tables.beams)]).toEqual([[two.path, three.path], []])
    b.apply(undoOne)
    b.apply(changeOfStilts(b.index, 'part', 'drop', { drop: [one, two] }))
    expect([b.index.stiltsOf('part'), b.job.tables.nodes.size, b.job.tables.beams.size]).toEqual([[{ ...three, bound: 3 }], 3, 2])
    expect(checkPlan(b.job.tables.nodes, b.job.tables.beams)).toEqual([])
  })
  it('a tip that is given another way leaves the shared one to the others', () => {
    const b = shared(), [one, two] = b.index.stiltsOf('part')
    b.apply(changeOfStilts(b.index, 'part', 'move', { put: [{ stilt: one, shape: uprightShape(-3) }] }))
    const now = b.index.stiltsOf('part')
    expect([now[0].id, now[0].path, now[0].alone, now[1].path, now[1].alone]).toEqual([one.id, uprightShape(-3).path, 3, two.path, 4])
    expect(checkPlan(b.job.tables.nodes, b.job.tables.beams)).toEqual([])
  })
})
