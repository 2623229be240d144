import { describe, expect, it } from 'vitest'
import { PlanIndex, rowsOfStilt, type Stilt } from '../stilts'
import { uprightShape } from '../testing/jobs'
import { withoutIdle, type ProvenPlan } from './idle'

const rows = [0, 5, 10, 15].map((x, i) => rowsOfStilt(uprightShape(x), { part: 'part', number: i + 1 }))
const index = new PlanIndex(new Map(rows.flatMap(r => r.nodes).map(n => [n.id, n])), new Map(rows.flatMap(r => r.beams).map(b => [b.id, b]))), all = index.stiltsOf('part')
const plan = { index, proof: { idle: all.slice(0, 3).map(s => s.id) }, proven: { result: { islands: [], ledges: [] } } } as unknown as ProvenPlan
/** Which stilts are taken away in each try, by their numbers. */
function tries(worse: (gone: readonly number[]) => string | null, misses?: (gone: readonly Stilt[]) => readonly Stilt[]): number[][] {
  const tried: number[][] = [], steps = withoutIdle(plan, 'part', {
    // eslint-disable-next-line require-yield -- nothing is scanned here
    tries: 4, *look(gone) {
      tried.push(gone.map(s => s.number))
      return plan
    }, worse: () => worse(tried[tried.length - 1]), ...(misses && { misses: (_, gone) => misses(gone) }),
  })
  while (!steps.next().done);
  return tried
}

describe('what bears next to nothing', () => {
  it('is taken away at once where nothing is worse for it', () => {
    expect(tries(() => null)).toEqual([[1, 2, 3]])
  })
  it('stays where it is missed, and only there', () => {
    expect(tries(gone => (gone.includes(2) ? 'Too long.' : null), gone => gone.filter(s => s.number === 2))).toEqual([[1, 2, 3], [1, 3]])
  })
  it('stays by halves where nothing says which of it is missed', () => {
    expect(tries(() => 'It sways.')).toEqual([[1, 2, 3], [2]])
  })
})
