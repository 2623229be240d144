import { computed, shallowRef, watch, type Ref } from 'vue'
import type { BedPlace, FoundPeg, StandingPeg } from '@oak-stilts/core/bed'
import { patternOfStilts, pegGauge, rowsOfPegs } from '@oak-stilts/core/bed'
import { alike, newId, type Gauge, type PegBed, type PegPattern, type Spread, type SpreadWay } from '@oak-stilts/core/contract'
import { movePoint } from '@oak-stilts/core/pose'
import { latestOnly } from '../stage/latest-only'
import { outerPoints } from '../stage/outer-points'
import { useKitStore } from '../stores/kit'
import type { BenchContext } from './context'
import { keptMm, type createSpreading } from './spreading'

export type BedWay = Extract<SpreadWay, { kind: 'bed' }>
/** What comes of a bed where it lies. */
export interface BedReport {
  readonly pegs: number
  readonly standing: readonly StandingPeg[]
  /** How deep they go in on average, mm, and what they touch in all, mm². */
  readonly meanMm: number
  readonly contactMm2: number
  /** Those of which less than half of the top touches. */
  readonly partly: number
  /** What was left out, most first: why, and which. */
  readonly leftOut: readonly { readonly reason: string; readonly pegs: readonly number[] }[]
}

/** The least of a peg's top that should touch; our own choice. */
export const LEAST_SHARE = 0.5
const ROWS_NAME = 'Rows of pegs'

/** Beds of pegs: rows under the whole part, or a pattern that is kept; shifted and turned as one, dropped, moved again, kept with the workshop. */
export function createBedding({ store, state, model, stand, workers, say }: BenchContext, spreading: ReturnType<typeof createSpreading>, gauges: Readonly<Ref<readonly Gauge[]>>) {
  const kit = useKitStore(), { bed } = state
  /** The box of the part seen from above, in its stand. */
  const footprint = computed(() => {
    if (!model.value || !stand.value) return null
    const points = outerPoints(model.value.mesh.positions), low = [Infinity, Infinity], high = [-Infinity, -Infinity]
    for (let i = 0; i < points.length; i += 3) {
      const p = movePoint(stand.value, [points[i], points[i + 1], points[i + 2]])
      for (const k of [0, 1]) {
        low[k] = Math.min(low[k], p[k])
        high[k] = Math.max(high[k], p[k])
      }
    }
    return { xMm: (low[0] + high[0]) / 2, yMm: (low[1] + high[1]) / 2, widthMm: high[0] - low[0], depthMm: high[1] - low[1] }
  })
  /** The bed that is selected, while the tool is put down. */
  const chosenBed = computed(() => {
    const spread = state.tool === 'bed' ? null : spreading.chosenSpread.value
    return spread?.way.kind === 'bed' ? { spread, way: spread.way } : null
  })
  const anew = computed(() => {
    const spread = bed.anew === null ? undefined : store.spreads.find(s => s.id === bed.anew)
    return spread?.way.kind === 'bed' ? { spread, way: spread.way } : null
  })
  const saved = computed(() => kit.kit.beds.find(b => b.id === bed.source) ?? null)
  /** The bed of the tool, or the one that is selected. */
  const way = computed<BedWay | null>(() => {
    if (chosenBed.value) return chosenBed.value.way
    const area = footprint.value, { xMm, yMm, turnDeg } = bed
    if (state.tool !== 'bed' || !area) return null
    if (anew.value) return { ...anew.value.way, xMm, yMm, turnDeg }
    if (saved.value) return { kind: 'bed', name: saved.value.bed.name, bed: saved.value.id, pattern: saved.value.bed.pattern, xMm, yMm, turnDeg }
    const gauge = pegGauge(bed.topMm, bed.footMm), pegs = rowsOfPegs({ ...area, spacingMm: bed.spacingMm, pattern: bed.pattern }, gauge.id)
    return pegs.length > 0 ? { kind: 'bed', name: ROWS_NAME, bed: null, pattern: { pegs, gauges: [gauge] }, xMm, yMm, turnDeg } : null
  })
  const spacingOf = (own: BedWay): number => (own.bed === null ? bed.spacingMm : own.pattern.gauges[0].spacingMm)
  const keepMm = computed(() => (chosenBed.value ? chosenBed.value.spread.keepMm : way.value && state.spread.keep ? keptMm(spacingOf(way.value)) : 0))
  const ownTips = (): string[] => {
    const id = chosenBed.value?.spread.id ?? anew.value?.spread.id
    return id === undefined ? [] : spreading.stiltsOfSpread(id).map(s => s.id)
  }

  const found = shallowRef<readonly FoundPeg[] | null>(null)
  const ask = latestOnly(async () => {
    const own = way.value
    const pegs = own && workers.value ? await workers.value.surface.bedPreview(own, keepMm.value, ownTips()).catch(() => null) : null
    // null where a newer question came between
    if (own === way.value && (pegs || !own)) found.value = pegs
  })
  watch([way, keepMm, () => store.stilts, stand, () => store.marks], () => void ask(undefined))
  const report = computed<BedReport | null>(() => {
    if (!found.value || !way.value) return null
    const standing = found.value.flatMap(p => (p.ok ? [p] : [])), reasons = new Map<string, { reason: string; pegs: number[] }>()
    for (const p of found.value) {
      if (p.ok) continue
      const same = reasons.get(p.problem)
      if (same) same.pegs.push(p.peg + 1)
      else reasons.set(p.problem, { reason: p.reason, pegs: [p.peg + 1] })
    }
    return {
      pegs: found.value.length, standing, meanMm: standing.reduce((s, p) => s + p.meanMm, 0) / (standing.length || 1), contactMm2: standing.reduce((s, p) => s + p.contactMm2, 0),
      partly: standing.filter(p => p.share < LEAST_SHARE).length, leftOut: [...reasons.values()].sort((a, b) => b.pegs.length - a.pegs.length),
    }
  })

  /** A bed whose gauges have names that mean nothing else in the job. */
  function withOwnGauges(own: BedWay): BedWay {
    const names = new Map<string, string>()
    const taken: Gauge[] = own.pattern.gauges.map(g => {
      const here = gauges.value.find(o => alike(o, g)), id = here?.id ?? (gauges.value.some(o => o.id === g.id) ? newId() : g.id)
      names.set(g.id, id)
      return here ?? { ...g, id }
    })
    const pattern: PegPattern = { gauges: taken.filter((g, i) => taken.findIndex(o => o.id === g.id) === i), pegs: own.pattern.pegs.map(p => ({ ...p, gauge: names.get(p.gauge) as string })) }
    return { ...own, pattern }
  }

  /** Drops the bed where it lies: as stilts, in one step of undo; one that is moved takes its own place. */
  async function dropBed(): Promise<void> {
    const own = way.value
    if (state.tool !== 'bed') return
    if (!own) {
      say(footprint.value ? 'Rows that close make too many pegs. Widen the spacing.' : 'There is no part on the bench.')
      return
    }
    const again = anew.value, named = again ? own : withOwnGauges(own), row = { gauge: named.pattern.gauges[0].id, spacingMm: spacingOf(named), keepMm: keepMm.value }
    if (again) await spreading.respread(again.spread.id, { way: named })
    else await spreading.spreadOut(named, row)
    if (state.selectedStilts.length > 0) state.tool = 'select'
  }

  /** Where the bed lies: of the tool, or of the one that is selected, whose pegs are placed anew. */
  function moveBed(to: Partial<BedPlace>): void {
    const chosen = chosenBed.value
    if (to.turnDeg !== undefined) to = { ...to, turnDeg: ((((to.turnDeg + 180) % 360) + 360) % 360) - 180 }
    if (chosen) void spreading.respread(chosen.spread.id, { way: { ...chosen.way, ...to } })
    else Object.assign(bed, to)
  }
  function nudgeBed(xMm: number, yMm: number): void {
    moveBed({ xMm: bed.xMm + xMm, yMm: bed.yMm + yMm })
  }
  function turnBed(byDeg: number): void {
    moveBed({ turnDeg: bed.turnDeg + byDeg })
  }
  /** Takes a bed to drop: rows, or one that is kept, under the middle of the part. */
  function takeBed(source: string): void {
    Object.assign(bed, { source, anew: null, turnDeg: 0, xMm: footprint.value?.xMm ?? 0, yMm: footprint.value?.yMm ?? 0 })
  }
  /** Takes the bed that is selected up again, to be moved. */
  function takeUp(): void {
    const chosen = chosenBed.value
    if (!chosen) return
    const { xMm, yMm, turnDeg } = chosen.way
    Object.assign(bed, { anew: chosen.spread.id, xMm, yMm, turnDeg })
    state.tool = 'bed'
  }
  // it lies under the part that is on the bench
  watch(() => state.tool, (tool, before) => {
    if (tool === 'bed' && bed.anew === null) takeBed(kit.kit.beds.some(b => b.id === bed.source) ? bed.source : 'rows')
    if (before === 'bed' && tool !== 'bed') bed.anew = null
  })

  /** Keeps the stilts that are selected as a bed of the workshop, each as a peg under its tip. */
  async function keepAsBed(name: string): Promise<void> {
    const stilts = state.chosenStilts, clean = name.trim().slice(0, 120)
    if (stilts.length === 0 || !clean) return
    const { pattern, middle } = patternOfStilts(stilts, gauges.value), chosen = chosenBed.value
    const same = kit.kit.beds.find(b => b.bed.name === clean), kept: PegBed = { name: clean, pattern: chosen ? chosen.way.pattern : pattern, provedWith: same?.bed.provedWith ?? [] }
    const id = await kit.putBed(kept)
    if (kit.problem) {
      say(kit.problem)
      return
    }
    if (chosen) rename(chosen.spread, { ...chosen.way, name: clean, bed: id })
    else if (state.tool === 'bed') Object.assign(bed, { source: id, anew: null, xMm: middle[0], yMm: middle[1], turnDeg: 0 })
    say(`“${clean}”, ${kept.pattern.pegs.length === 1 ? '1 peg' : `${kept.pattern.pegs.length} pegs`}, is kept with the workshop.`)
  }
  function rename(spread: Spread, own: BedWay): void {
    if (store.spreads.includes(spread)) store.apply({ label: 'keep a peg bed', put: { spreads: [{ ...spread, way: own }] } })
  }

  /** The kept bed that the selected one was dropped from. */
  const keptBed = computed(() => kit.kit.beds.find(b => b.id === (chosenBed.value?.way.bed ?? saved.value?.id)) ?? null)
  /** Notes that a print on this bed came out well, with the resin of the job. */
  async function proveBed(): Promise<void> {
    const kept = keptBed.value, resin = store.job?.resin.name
    if (!kept || !resin) return
    const others = kept.bed.provedWith.filter(p => p.resin !== resin)
    await kit.put([{ id: kept.id, kind: 'bed', bed: { ...kept.bed, provedWith: [...others, { resin, on: new Date().toISOString().slice(0, 10) }] } }])
    say(kit.problem || `“${kept.bed.name}” proved with ${resin}.`)
  }

  return { bedWay: way, bedFound: found, bedReport: report, chosenBed, keptBed, bedAnew: anew, dropBed, moveBed, nudgeBed, turnBed, takeBed, takeUpBed: takeUp, keepAsBed, proveBed }
}
