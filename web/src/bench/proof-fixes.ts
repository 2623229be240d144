import type { Gauge, ProofCheck, ProofCheckKind } from '@oak-stilts/core/contract'
import type { Vec3 } from '@oak-stilts/core/mesh'
import type { Stilt } from '@oak-stilts/core/stilts'
import type { BenchContext } from './context'
import type { createEditing } from './editing'
import type { createTying } from './tying'

/** Something that usually helps where a check is not as it should be. */
export interface ProofFix {
  readonly label: string
  readonly title: string
  run(): Promise<void> | void
}

/** What fixes are made of. */
export type ProofActs = Pick<ReturnType<typeof createEditing>, 'addStilts' | 'applyRows' | 'regaugeBy' | 'remove' | 'reaim'> & Pick<ReturnType<typeof createTying>, 'bracing' | 'braceSelected' | 'joinSelected'> & { readonly holdAll: (ledges: boolean) => Promise<void> }

/** What usually helps where a proof finds something that is not as it should be. */
export function createProofFixes({ store, state, current, say }: Pick<BenchContext, 'store' | 'state' | 'current' | 'say'>, acts: ProofActs, gauges: () => readonly Gauge[]) {
  const byNumber = (numbers: readonly number[]): Stilt[] => {
    const wanted = new Set(numbers)
    return store.stilts.filter(s => wanted.has(s.number))
  }
  function selectStilts(numbers: readonly number[]): void {
    state.selectedFinding = null
    state.selectedStilts = byNumber(numbers).map(s => s.id)
  }

  /** Stilts of a check's places with their neighbours within reach of a brace. */
  function withNeighbours(numbers: readonly number[]): number[] {
    const some = byNumber(numbers), reach = acts.bracing.reachMm, foot = (s: Stilt): Vec3 => s.path[s.path.length - 1]
    return store.stilts.filter(s => some.some(o => Math.hypot(foot(s)[0] - foot(o)[0], foot(s)[1] - foot(o)[1]) <= reach)).map(s => s.number)
  }
  async function oneMoreBeside(numbers: readonly number[]): Promise<void> {
    const { shapes, reason } = await current().workers.surface.beside(byNumber(numbers).map(s => s.id))
    acts.addStilts(shapes.length === 1 ? 'one more stilt beside' : `${shapes.length} more stilts beside`, shapes)
    say(shapes.length === 0 ? (reason ?? '') : `${shapes.length === 1 ? '1 stilt was' : `${shapes.length} stilts were`} placed beside.${reason === null ? '' : ` Not everywhere: ${reason}`}`)
  }
  /** What usually helps where a check is not as it should be; each is one step of undo. */
  function fixesOf({ kind, places, state: how }: ProofCheck): ProofFix[] {
    if (how !== 'bad') return []
    const numbers = [...new Set(places.flatMap(p => p.stilts))]
    const select = (more: readonly number[] = numbers): void => selectStilts(more)
    const thicker: ProofFix = { label: 'Next gauge', title: 'Gives these stilts the gauge that comes after their own', run: async () => {
      select()
      await acts.regaugeBy(1, gauges())
    } }
    const beside: ProofFix = { label: 'One more beside', title: 'Places another stilt of the same gauge beside each of these', run: () => oneMoreBeside(numbers) }
    const brace = (all: boolean): ProofFix => ({ label: 'Brace', title: all ? 'Braces all neighbours' : 'Braces these stilts with their neighbours', run: async () => {
      select(all ? store.stilts.map(s => s.number) : withNeighbours(numbers))
      await acts.braceSelected()
    } })
    const join: ProofFix = { label: 'Join higher', title: 'Joins these stilts with their neighbours as high as possible', run: async () => {
      select(withNeighbours(numbers))
      await acts.joinSelected()
    } }
    const fixes: Partial<Record<ProofCheckKind, readonly ProofFix[]>> = {
      hangs: [{ label: 'Hold it', title: 'Places stilts under all that hangs', run: () => acts.holdAll(true) }],
      floating: numbers.length > 0 ? [{ label: 'Re-aim', title: 'Moves the tips of lost stilts to where they can stand', run: () => acts.reaim(null) }] : [],
      tips: [thicker, beside], carriers: [thicker], beams: [thicker, join], feet: [thicker, beside], slender: [brace(false), join], sway: [brace(true)],
    }
    return [...(fixes[kind] ?? [])]
  }

  return { fixesOf, selectStilts, byNumber }
}
