import { isWay, type PlanBeam, type PlanNode } from './plan'

/** What is wrong with a row of a plan. */
export interface PlanProblem {
  readonly id: string
  readonly problem: 'no-end' | 'other-part' | 'circle' | 'bare-foot' | 'number-twice'
  readonly sentence: string
}

/**
 * What is wrong with a plan: beams without an end, or between parts; shafts that go in a circle, where only braces may close one;
 * feet that carry nothing; numbers that two stilts of a part have.
 */
export function checkPlan(nodes: ReadonlyMap<string, PlanNode>, beams: ReadonlyMap<string, PlanBeam>): PlanProblem[] {
  const problems: PlanProblem[] = []
  const carried = new Set<string>()
  for (const b of beams.values()) {
    const from = nodes.get(b.from), to = nodes.get(b.to)
    if (!from || !to) {
      problems.push({ id: b.id, problem: 'no-end', sentence: `Beam ${b.id} ends at a node that is not there.` })
      continue
    }
    if (from.part !== b.part || to.part !== b.part) problems.push({ id: b.id, problem: 'other-part', sentence: `Beam ${b.id} belongs to another part than its ends.` })
    carried.add(b.to)
    if (b.kind === 'brace') carried.add(b.from)
  }
  const numbers = new Set<string>()
  for (const n of nodes.values()) {
    if (n.kind === 'foot' && !carried.has(n.id)) problems.push({ id: n.id, problem: 'bare-foot', sentence: `Foot ${n.id} carries nothing.` })
    if (n.kind !== 'tip') continue
    const name = `${n.number} ${n.part}`
    if (numbers.has(name)) problems.push({ id: n.id, problem: 'number-twice', sentence: `Two stilts of one part have the number ${n.number}.` })
    numbers.add(name)
  }
  for (const id of circlesOfShafts(beams.values())) problems.push({ id, problem: 'circle', sentence: `The shaft at node ${id} goes in a circle.` })
  return problems
}

/** One node of every circle that beams make on their way down; braces lead nowhere. */
export function circlesOfShafts(beams: Iterable<Pick<PlanBeam, 'kind' | 'from' | 'to'>>): string[] {
  const down = new Map<string, string[]>()
  for (const { kind, from, to } of beams) {
    if (!isWay({ kind })) continue
    const list = down.get(from)
    if (list) list.push(to)
    else down.set(from, [to])
  }
  const state = new Map<string, 'open' | 'done'>()
  const circles: string[] = []
  for (const start of down.keys()) {
    if (state.has(start)) continue
    const stack: { id: string; next: number }[] = [{ id: start, next: 0 }]
    state.set(start, 'open')
    while (stack.length > 0) {
      const top = stack[stack.length - 1], to = down.get(top.id)?.[top.next++]
      if (to === undefined) {
        state.set(top.id, 'done')
        stack.pop()
      } else if (state.get(to) === 'open') circles.push(to)
      else if (!state.has(to)) {
        state.set(to, 'open')
        stack.push({ id: to, next: 0 })
      }
    }
  }
  return circles
}
