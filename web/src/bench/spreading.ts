import { proxy } from 'comlink'
import { computed, type Ref } from 'vue'
import { gaugesToKeep, newId, type Gauge, type Spread, type SpreadWay } from '@oak-stilts/core/contract'
import { distance } from '@oak-stilts/core/mesh'
import { fromSource, shapeOf } from '@oak-stilts/core/pose'
import { stepsIn, type SpreadOut } from '@oak-stilts/core/spread'
import type { Stilt } from '@oak-stilts/core/stilts'
import type { BenchContext } from './context'

/** How ways of spreading are called in sentences. */
export const WAY_NAMES: Readonly<Record<SpreadWay['kind'], string>> = { line: 'along a line', edge: 'along an edge', face: 'over a face', strokes: 'by strokes', bed: 'as a peg bed' }

/** What can be changed of a spread that stands. */
export type SpreadChanges = Partial<Pick<Spread, 'gauge' | 'spacingMm' | 'keepMm' | 'way'>>

/** The distance that a spread keeps to tips that stand already, where it keeps one, by its spacing. */
export function keptMm(spacingMm: number): number {
  return Math.round(spacingMm * 50) / 100
}

/** Spreads many stilts at once; a spread can be taken up again and placed anew. Each is one step of undo. */
export function createSpreading({ store, state, current, say }: BenchContext, gauge: Readonly<Ref<Gauge>>, gaugeRows: (ids: Iterable<string>) => Gauge[]) {
  const { spread } = state
  /** From tip to tip: as it was dialled, else as the gauge has it. */
  const spacingMm = computed(() => spread.spacingMm ?? gauge.value.spacingMm)
  const keepMm = computed(() => (spread.keep ? keptMm(spacingMm.value) : 0))
  /** The spread that is selected whole or in part. */
  const chosenSpread = computed<Spread | null>(() => {
    const [first, ...others] = state.chosenStilts
    return first?.spread !== undefined && others.every(s => s.spread === first.spread) ? (store.spreads.find(s => s.id === first.spread) ?? null) : null
  })
  const stiltsOf = (id: string): Stilt[] => store.stilts.filter(s => s.spread === id)

  let working: object | null = null
  async function placed(row: Spread, before: readonly Stilt[]): Promise<SpreadOut | null> {
    if (working) {
      say('The stilts before are still being placed.')
      return null
    }
    const own = working = {}
    const { part, workers, stand } = current()
    state.busy = 'Placing stilts'
    try {
      const out = await workers.surface.placeSpread(row, before.map(s => s.id), proxy((done: number, of: number) => {
        // what is said last may come after the answer
        if (working === own) state.busy = `Placing stilts: ${done} of ${of}`
      }))
      if (store.part?.id === part.id && current().stand === stand) return out
      say('The part was moved meanwhile; nothing was placed.')
    } catch (error) {
      say(`They could not be placed: ${(error as Error).message}`)
    } finally {
      working = null
      state.busy = ''
    }
    return null
  }

  /** Gauges that the job gets along with stilts: a bed brings its own. */
  function rowsWith({ way }: Spread, stilts: SpreadOut['stilts']): Gauge[] {
    const used = new Set(stilts.map(s => s.gauge))
    return [...gaugeRows(used), ...(way.kind === 'bed' ? gaugesToKeep(way.pattern.gauges, used).filter(g => !store.gauges.some(o => o.id === g.id)) : [])].filter((g, i, all) => all.findIndex(o => o.id === g.id) === i)
  }

  /** Spreads stilts of the gauge that is chosen, or as it is said. */
  async function spreadOut(way: SpreadWay, as: Pick<Spread, 'gauge' | 'spacingMm' | 'keepMm'> = { gauge: gauge.value.id, spacingMm: spacingMm.value, keepMm: keepMm.value }): Promise<void> {
    const row: Spread = { ...as, id: newId(), part: current().part.id, way }
    const out = await placed(row, [])
    if (!out) return
    if (out.stilts.length > 0) {
      const known = new Set(store.stilts.map(s => s.id)), change = store.stiltChange(way.kind === 'bed' ? 'drop a peg bed' : `spread ${WAY_NAMES[way.kind]}`, { add: out.stilts })
      store.apply({ ...change, put: { ...change.put, spreads: [row], gauges: rowsWith(row, out.stilts) } })
      state.selectedStilts = store.stilts.filter(s => !known.has(s.id)).map(s => s.id)
      state.selectedFinding = null
    }
    say(sentenceFor(row, out))
  }

  /** Takes a spread up again: what is changed of it is changed, and its stilts are placed anew. Those that were moved by hand are not its any more. */
  async function respread(id: string, changes: SpreadChanges): Promise<void> {
    const before = store.spreads.find(s => s.id === id)
    if (!before) return
    const row: Spread = { ...before, ...changes }, own = stiltsOf(id), out = await placed(row, own)
    if (!out) return
    if (store.spreads.find(s => s.id === id) !== before || own.some(s => !store.stilts.includes(s))) {
      say('They were changed meanwhile, and stay as they are.')
      return
    }
    if (out.stilts.length === 0) {
      say(`${sentenceFor(row, out)} They stay as they were.`)
      return
    }
    const change = store.stiltChange(row.way.kind === 'bed' ? 'move a peg bed' : `spread ${WAY_NAMES[row.way.kind]} anew`, { drop: own, add: out.stilts })
    store.apply({ ...change, put: { ...change.put, spreads: [row], gauges: rowsWith(row, out.stilts) } })
    state.selectedStilts = stiltsOf(id).map(s => s.id)
    say(sentenceFor(row, out))
  }

  /** Turns the dial of the tool: the spacing of what is spread next, or of the spread that is selected where none is being drawn. */
  function dialSpacing(by: 1 | -1): void {
    const from = spacingMm.value, step = from >= 2 ? 0.25 : 0.1
    spread.spacingMm = Math.round(Math.max(0.2, Math.min(50, from + by * step)) * 100) / 100
  }

  /** A line is cut into whole steps: how far apart its tips are then. */
  function trueSpacing(way: SpreadWay, askedMm: number, lengthMm: number): number {
    return way.kind === 'line' ? lengthMm / stepsIn(lengthMm, askedMm) : askedMm
  }
  function lengthOf(way: SpreadWay): number {
    if (way.kind !== 'line') return 0
    const { part, stand } = current(), standing = { shape: shapeOf(part.recipe), stand }
    return distance(fromSource(standing, way.from.point), fromSource(standing, way.to.point))
  }

  function sentenceFor({ spacingMm, way }: Spread, { stilts, kept, missed }: SpreadOut): string {
    const mm = trueSpacing(way, spacingMm, lengthOf(way))
    const count = stilts.length === 0 ? 'Nothing can stand' : stilts.length === 1 ? '1 stilt' : `${stilts.length} stilts`
    const left = [...(kept > 0 ? [`${kept} left out beside tips that stand already`] : []), ...(missed.length > 0 ? [`${missed.length} cannot stand: ${missed[0].reason}`] : [])]
    return `${count} ${WAY_NAMES[way.kind]}${way.kind === 'bed' ? '' : `, every ${mm.toFixed(2)} mm`}${left.length > 0 ? `; ${left.join('; ')}` : '.'}`
  }

  return { spacingMm, keepMm, trueSpacing, chosenSpread, spreadOut, respread, dialSpacing, stiltsOfSpread: stiltsOf }
}
