import type { PlanNode } from '../contract'
import type { Room } from '../forest'
import { Clearance, gaugeOf, placeAtHeight, placeNear, rowsOfBraces, rowsOfProp, type Others, type PlanDraft, type PlanIndex, type Stilt, type Surface } from '../stilts'
import type { ForestOptions } from './forest'
import type { HoldStep } from './hold'
import { legsUnder } from './legs'
import { strutsTo } from './struts'

/** A beam that makes something sway, and the direction in which that gives most, degrees from x to y. */
export interface SoftBeam {
  readonly beam: string
  readonly softDeg: number
}

/** So often it is asked what is still soft. */
const MOST_ROUNDS = 8
/** Tips that hang together over trunks and braces at the most: more of them cannot be cut off one after the other. */
export const MOST_TOGETHER = 48

/**
 * Keeps a plan from swaying before anything is made thicker for it: what is soft is strutted from what stands near it, and where nothing does,
 * its trunk gets legs. A strut costs a few mm³, a thicker trunk a hundred times that.
 */
export class Stiffening {
  readonly #strutted = new Set<string>()
  readonly #onLegs = new Set<string>()
  readonly #surface: Surface
  readonly #room: Room
  readonly #part: string
  readonly #kept: ReadonlySet<string>

  /** @param kept nodes of what stood before, which nothing is put into */
  constructor(surface: Surface, room: Room, part: string, kept: ReadonlySet<string>) {
    this.#surface = surface
    this.#room = room
    this.#part = part
    this.#kept = kept
  }

  /** Adds struts and legs as long as something is soft and there is room; gives how many. */
  *run(draft: PlanDraft, options: ForestOptions): Generator<HoldStep, number, void> {
    let made = 0
    for (let round = 0; round < MOST_ROUNDS; round++) {
      const soft = yield* options.soft(draft)
      if (soft.length === 0) break
      yield 'Strutting what sways'
      const more = this.#strut(draft, soft, options) || this.#stand(draft, soft, options)
      if (more === 0) break
      made += more
    }
    return made
  }

  #strut(draft: PlanDraft, soft: readonly SoftBeam[], { webMm }: ForestOptions): number {
    let made = 0
    for (const { beam, softDeg } of soft) {
      const row = draft.index.beams.get(beam)
      if (!row || this.#strutted.has(beam) || this.#kept.has(row.from)) continue
      this.#strutted.add(beam)
      const { index } = draft, stilts = index.stiltsOf(this.#part), host = stilts.find(s => s.beams.slice(0, s.alone).includes(beam)), upper = host && placeNear(host, (index.nodes.get(row.from) as PlanNode).at)
      if (!upper) continue
      const own = index.structureAt(host.id), tips = tipsWith(index, host.id)
      const mayTie = (s: Stilt): boolean => !this.#kept.has(s.id) && (index.structureAt(s.id) === own || tipsWith(index, s.id) + tips <= MOST_TOGETHER)
      const struts = strutsTo(this.#surface, upper, stilts, softDeg, { field: new Clearance(index).field(this.#part), limitMm: webMm }, { mayTie, hangingWith: s => stilts.filter(o => index.structureAt(o.id) === index.structureAt(s.id)) })
      draft.put(rowsOfBraces(index, struts))
      made += struts.length
    }
    return made
  }

  /** Gives legs to trunks; how many. */
  #stand(draft: PlanDraft, soft: readonly SoftBeam[], { gauges, plate, webMm }: ForestOptions): number {
    const beams = new Set(soft.map(s => s.beam)), ids = draft.index.stiltsOf(this.#part).filter(s => s.beams.some(b => beams.has(b)) && !this.#onLegs.has(s.id) && !this.#kept.has(s.id)).map(s => s.id)
    let made = 0
    for (const id of ids) {
      this.#onLegs.add(id)
      const { index } = draft, stilt = index.stiltsOf(this.#part).find(s => s.id === id)
      if (stilt?.foot !== 'plate' || stilt.alone !== stilt.nodes.length) continue
      const others: Others = { field: new Clearance(index).field(this.#part), limitMm: webMm, but: new Set(index.structureAt(id)?.nodes) }, feet = [...index.nodes.values()].flatMap(n => (n.kind === 'foot' && n.part === this.#part && n.on.kind === 'plate' ? [n.at] : []))
      for (const { at, ...leg } of [...legsUnder(this.#surface, this.#room, stilt, crownOf(index, stilt), gaugeOf(stilt.gauge, gauges), plate, others, feet)]) {
        // the first one has put a joint into the trunk
        const host = draft.index.stiltsOf(this.#part).find(s => s.id === id), place = host && placeAtHeight(host, at.at[2])
        if (!place) continue
        draft.put(rowsOfProp(draft.index, { ...leg, at: place }))
        made++
      }
    }
    return made
  }
}

/** How many tips hang together with a stilt. */
function tipsWith(index: PlanIndex, id: string): number {
  return (index.structureAt(id)?.nodes ?? []).filter(n => index.nodes.get(n)?.kind === 'tip').length
}

/** How high the shaft of a stilt reaches, mm: up to where the first branch ends in it. */
function crownOf(index: PlanIndex, { beams }: Stilt): number {
  return beams.reduce((most, id) => {
    const b = index.beams.get(id)
    return b?.kind === 'shaft' ? Math.max(most, index.nodes.get(b.from)?.at[2] ?? 0) : most
  }, 0)
}
