import { reactive } from 'vue'
import type { Anchor } from '@oak-stilts/core/contract'
import { changeWithout, type Bracing } from '@oak-stilts/core/stilts'
import type { StiltPlace, Tied } from '../workers/tie-work'
import type { BenchContext } from './context'
import type { createEditing } from './editing'

/** Stilts that are farther apart are not joined, mm. */
const JOIN_REACH_MM = 12

/** Ties stilts to each other: branches, braces, joins and props. Each is one step of undo. */
export function createTying({ store, state, current, say }: BenchContext, editing: Pick<ReturnType<typeof createEditing>, 'applyRows'>) {
  /** How the next stilts are braced. */
  const bracing = reactive<{ -readonly [K in keyof Bracing]: Bracing[K] }>({ spacingMm: 0.5, angleDeg: 45, reachMm: 12 })

  /** Asks until the answer is one for the stilts as they are, and applies it; gives it, or null where nothing came of it. */
  async function tie(label: string, ask: () => Promise<Tied>, gauges: readonly string[] = []): Promise<Tied | null> {
    try {
      for (;;) {
        const { stilts } = store, stand = state.stand, answer = await ask()
        if (state.stand !== stand) {
          say('The part was moved meanwhile; nothing was changed.')
          return null
        }
        if (store.stilts !== stilts) continue
        if (answer.count > 0) editing.applyRows(label, answer.edit, gauges)
        return answer
      }
    } catch (error) {
      say(`It could not be done: ${(error as Error).message}`)
      return null
    }
  }
  const worker = () => current().workers.surface
  const counted = (count: number, one: string, many: string): string => (count === 1 ? `1 ${one}` : `${count} ${many}`)

  /** Places branches at points of the skin: from one stilt, or from those around. Selects them. */
  async function branch(host: string | null, points: readonly Anchor[]): Promise<void> {
    const gauge = state.gauge, answer = await tie(points.length === 1 ? 'place a branch' : `place ${points.length} branches`, () => worker().branches(host, points, gauge), [gauge])
    if (!answer) return
    if (answer.count === 0) {
      say(answer.reason ?? 'There is no part under the pointer.')
      return
    }
    state.selectedStilts = [...answer.tips]
    state.selectedFinding = null
    say(`${counted(answer.count, 'branch', 'branches')} placed.${answer.reason === null ? '' : ` ${points.length - answer.count} could not be: ${answer.reason}`}`)
  }

  async function brace(from: StiltPlace, to: StiltPlace): Promise<void> {
    const answer = await tie('brace two stilts', () => worker().brace(from, to))
    if (answer) say(answer.reason ?? 'Braced.')
  }

  const SELECT_TWO = 'Select two or more stilts first: Shift + click adds one.'
  /** Braces all neighbours among the selected stilts. */
  async function braceSelected(): Promise<void> {
    const tips = [...state.selectedStilts]
    if (tips.length < 2) {
      say(SELECT_TWO)
      return
    }
    const answer = await tie(`brace ${tips.length} stilts`, () => worker().braceThese(tips, { ...bracing }))
    if (answer) say(answer.count > 0 ? `${counted(answer.count, 'brace', 'braces')} between ${tips.length} stilts.` : (answer.reason ?? ''))
  }
  /** Joins neighbours among the selected stilts as high as possible. */
  async function joinSelected(): Promise<void> {
    const tips = [...state.selectedStilts]
    if (tips.length < 2) {
      say(SELECT_TWO)
      return
    }
    const answer = await tie(`join ${tips.length} stilts`, () => worker().join(tips, JOIN_REACH_MM))
    if (answer) say(answer.count > 0 ? `Joined at ${counted(answer.count, 'place', 'places')}, as high as they can be.${answer.reason === null ? '' : ` Not everywhere: ${answer.reason}`}` : (answer.reason ?? ''))
  }
  /** Gathers the selected stilts on a stem in their middle, which has the chosen gauge. */
  async function gatherSelected(): Promise<void> {
    const tips = [...state.selectedStilts], gauge = state.gauge
    if (tips.length < 2) {
      say(SELECT_TWO)
      return
    }
    const answer = await tie(`gather ${tips.length} stilts on a stem`, () => worker().gather(tips, gauge), [gauge])
    if (!answer) return
    if (answer.count > 0) state.selectedStilts = [...answer.tips]
    const stem = store.stilts.find(s => s.id === answer.tips[0])
    say(answer.count > 0 ? `Stilt ${stem?.number ?? ''} is the stem now, with ${counted(answer.count, 'branch', 'branches')}.${answer.reason === null ? '' : ` ${tips.length - 1 - answer.count} stay as they are: ${answer.reason}`}` : (answer.reason ?? ''))
  }
  /** Props the selected stilts up where they lean. */
  async function propSelected(): Promise<void> {
    const tips = [...state.selectedStilts]
    if (tips.length === 0) {
      say('Select a leaning stilt first; a prop stands under the middle of its shaft.')
      return
    }
    const answer = await tie(tips.length === 1 ? 'prop up a stilt' : `prop up ${tips.length} stilts`, () => worker().prop(tips))
    if (answer) say(answer.count > 0 ? `${counted(answer.count, 'prop', 'props')} placed.${answer.reason === null ? '' : ` ${tips.length - answer.count} without: ${answer.reason}`}` : (answer.reason ?? ''))
  }
  /** Puts a joint into a shaft where there is none, or takes the one away that is there. */
  async function toggleJoint(place: StiltPlace): Promise<void> {
    let added = true
    const answer = await tie('put in or take away a joint', async () => {
      const toggled = await worker().toggleJoint(place)
      added = toggled.added
      return toggled
    })
    if (!answer) return
    state.selectedStilts = [place.tip]
    say(answer.reason ?? (added ? 'A joint was put in; drag it.' : 'The joint was taken away.'))
  }

  /** Braces and props of the selected stilts. */
  function bracesOfSelected(): { readonly beams: string[]; readonly feet: string[] } {
    const index = store.plan(), own = new Set(state.chosenStilts.flatMap(s => s.nodes.slice(0, s.alone))), beams = new Map([...own].flatMap(id => index.beamsAt(id)).filter(b => b.kind === 'brace').map(b => [b.id, b]))
    const ends = [...beams.values()].flatMap(b => [b.from, b.to])
    return { beams: [...beams.keys()], feet: ends.filter(id => index.nodes.get(id)?.kind === 'foot' && !index.beamsAt(id).some(b => b.kind !== 'brace')) }
  }
  /** Takes all braces and props of the selected stilts away, and the joints that they alone made necessary. */
  function removeBraces(): void {
    const { beams, feet } = bracesOfSelected()
    if (beams.length === 0) return
    store.apply(changeWithout(store.plan(), beams.length === 1 ? 'take a brace away' : `take ${beams.length} braces away`, feet, beams))
    say(`${counted(beams.length, 'brace was', 'braces were')} taken away.`)
  }

  return { bracing, branch, brace, braceSelected, joinSelected, gatherSelected, propSelected, toggleJoint, bracesOfSelected, removeBraces }
}
