import { computed, nextTick, shallowRef, watch, type Ref } from 'vue'
import { newId, type Gauge, type Outcome, type Print, type PrintFacts } from '@oak-stilts/core/contract'
import { strongerSizes, type Stilt } from '@oak-stilts/core/stilts'
import { causesOf, changesBetween, factsOf, proposeRanges, type Cause, type FailureEvidence } from '@oak-stilts/core/print'
import { api } from '../api/client'
import { useKitStore } from '../stores/kit'
import type { BenchContext } from './context'
import type { createEditing } from './editing'
import type { createHolding } from './holding'
import { watchLayer } from './layer-look'
import type { createSending } from './sending'
import type { createSlicing } from './slicing'

/** How far under and above the layer where it failed is looked for what hangs, mm. */
const UNDER_MM = 2, ABOVE_MM = 0.5
/** How much stronger tips become, the light longer, the first layers longer: our own choice. */
const STRONGER = 1.2, LONGER = 1.1, FIRST_LONGER = 1.25
/** Ranges that go slower reach so far to each side, mm. */
const AROUND_MM = 1
const MOST_SECONDS = 600

type Slicing = ReturnType<typeof createSlicing>

/** What was printed of this job before, how it came out, and where a failure came from. */
export function createLogging(context: BenchContext, slicing: Slicing, sending: ReturnType<typeof createSending>, acts: Pick<ReturnType<typeof createEditing>, 'resize'> & Pick<ReturnType<typeof createHolding>, 'holdOne'> & { liftOutBuiltIn(): Promise<void> }, gauges: Readonly<Ref<readonly Gauge[]>>, builtIn: () => readonly { readonly heightMm: number; readonly diameterMm: number }[]) {
  const { store, state, current, say } = context, kit = useKitStore()
  /** Newest first; null before they were loaded. */
  const prints = shallowRef<readonly Print[] | null>(null), tracedId = shallowRef<string | null>(null)
  const traced = computed(() => prints.value?.find(p => p.id === tracedId.value) ?? null)

  async function loadPrints(): Promise<void> {
    const { job } = store
    if (!job) return
    try {
      const found = await api.prints(job.id)
      if (store.job?.id === job.id) prints.value = found
    } catch (error) {
      say(`The print log could not be read: ${(error as Error).message}`)
    }
  }

  /** What the job is now, as far as a print depends on it. */
  function factsNow(): PrintFacts {
    const { job } = current(), layers = slicing.slicedManifest.value?.layers.length ?? slicing.printEstimate.value?.layers ?? 0
    return factsOf(job, store.parts, store.copies, layers, p => store.stiltsOf(p.id).map(s => ({ gauge: gauges.value.find(g => g.id === s.gauge)?.name ?? s.gauge, diameterMm: s.sizes.tipDiameterMm })))
  }

  /** Gives whether it was kept. */
  async function keep(print: Print): Promise<boolean> {
    try {
      await api.keepPrint(print)
      prints.value = [print, ...(prints.value ?? []).filter(p => p.id !== print.id)].sort((a, b) => b.at.localeCompare(a.at))
    } catch (error) {
      say(`It could not be noted in the print log: ${(error as Error).message}`)
      return false
    }
    return true
  }

  /** Starts what the printer holds, and notes that in the log. */
  async function startPrint(): Promise<void> {
    const { value: to } = sending.printer, { job } = current(), manifest = slicing.slicedManifest.value
    if (!to?.loaded) return
    const own = slicing.sliced.value?.sha256 === to.loaded.sha256, { loaded } = to
    if (!(await sending.orderPrinter('start')) || loaded.job?.id !== job.id) return
    await keep({ id: newId(), job: loaded.job, name: loaded.name, at: new Date().toISOString(), facts: { ...factsNow(), layers: loaded.layers }, seconds: own && manifest ? manifest.seconds : (slicing.printEstimate.value?.seconds ?? 0), resinMl: own && manifest ? manifest.resinMl.all : (slicing.printEstimate.value?.ml ?? 0), sha256: loaded.sha256, outcome: null, photo: null })
  }
  /** Notes a print that was made elsewhere, of the job as it is now. */
  async function notePrint(): Promise<void> {
    const { job } = current(), e = slicing.printEstimate.value
    const id = newId()
    await keep({ id, job: { id: job.id, state: slicing.printedState.value }, name: job.name, at: new Date().toISOString(), facts: factsNow(), seconds: e?.seconds ?? 0, resinMl: e?.ml ?? 0, sha256: null, outcome: null, photo: null })
    tracedId.value = id
  }
  async function setOutcome(print: Print, outcome: Outcome | null, photo?: File): Promise<void> {
    if (!(await keep({ ...print, outcome }))) return
    countWithRecipes(print, outcome)
    if (photo) {
      try {
        const hash = await api.keepPhoto(print.id, photo)
        prints.value = (prints.value ?? []).map(p => (p.id === print.id ? { ...p, photo: hash } : p))
      } catch (error) {
        say(`The photograph was not kept: ${(error as Error).message}`)
      }
    }
    if (outcome?.kind === 'failed') tracePrint(print)
  }
  /** Recipes count the prints of what was planned by them. */
  function countWithRecipes({ facts, outcome: before }: Print, now: Outcome | null): void {
    if (before?.kind === now?.kind) return
    const by = (o: Outcome | null, kind: Outcome['kind']): number => (o?.kind === kind ? 1 : 0), names = new Set(facts.parts.flatMap(p => p.recipe ?? []))
    for (const { recipe } of kit.kit.recipes) {
      if (names.has(recipe.name)) void kit.putRecipe({ ...recipe, cameOut: Math.max(0, recipe.cameOut + by(now, 'good') - by(before, 'good')), failed: Math.max(0, recipe.failed + by(now, 'failed') - by(before, 'failed')) })
    }
  }
  async function dropPrint(print: Print): Promise<void> {
    try {
      await api.dropPrint(print.id)
      countWithRecipes(print, null)
      prints.value = (prints.value ?? []).filter(p => p.id !== print.id)
      if (tracedId.value === print.id) tracedId.value = null
    } catch (error) {
      say((error as Error).message)
    }
  }

  function tracePrint(print: Print | null): void {
    tracedId.value = print?.id ?? null
    // the part that failed comes onto the bench
    const lost = print?.outcome?.kind === 'failed' ? print.outcome.copies : [], copy = store.copies.find(c => lost.includes(c.id)), here = store.copy
    if (copy && here && copy.part !== here.part) store.chosenCopy = copy.id
    showFailed()
  }
  /** Brings the layer where the traced print failed into view. */
  function showFailed(): void {
    if (failedAtMm.value !== null && store.raster && state.layerCount > 0) state.setPlayhead(Math.floor(failedAtMm.value / store.raster.layerMm))
  }
  // a scan that ends shows what is worst; what one was led to comes first
  watch(() => state.scanState, (now, before) => {
    if (now === 'fresh' && before === 'scanning' && tracedId.value) void nextTick(showFailed)
  })

  /** Height above the plate where the traced print failed, mm; null where nobody can say. */
  const failedAtMm = computed(() => (traced.value?.outcome?.kind === 'failed' && traced.value.outcome.layer !== null ? (traced.value.outcome.layer + 0.5) * traced.value.facts.layerMm : null))
  /** The layer of the part as it is now that lies where the traced print failed, looked into. */
  const failedLayer = watchLayer(context, () => (failedAtMm.value === null || !store.raster ? null : Math.max(0, Math.min(state.layerCount - 1, Math.floor(failedAtMm.value / store.raster.layerMm)))))
  /** Stilts whose tips carry that layer, the weakest there first, and how much of what they can bear they bear there. */
  const carrying = computed<{ readonly stilt: Stilt; readonly share: number }[]>(() => {
    const stilts = new Map(store.stilts.map(s => [s.id, s]))
    return (failedLayer.value?.ends ?? []).flatMap(({ id, kind, share }) => {
      const stilt = stilts.get(id)
      return stilt && kind === 'tip' ? [{ stilt, share }] : []
    })
  })
  const findings = computed(() => {
    const at = failedAtMm.value, layerMm = store.raster?.layerMm ?? 0
    if (at === null) return []
    return state.worklist.findings.filter(f => (f.kind === 'island' || f.kind === 'ledge') && (f.state === 'open' || f.state === 'partly') && f.layer * layerMm >= at - UNDER_MM && f.layer * layerMm <= at + ABOVE_MM)
  })
  const evidence = computed<FailureEvidence>(() => {
    const at = failedAtMm.value, signals = slicing.plateSignals.value, layerMm = store.raster?.layerMm ?? 0
    let pull: FailureEvidence['pull'] = null
    if (at !== null && signals && layerMm > 0) {
      const values = Array.from(signals.peelN).filter(n => n > 0).sort((a, b) => a - b), k = Math.min(signals.peelN.length - 1, Math.floor(at / layerMm))
      if (values.length > 0 && k >= 0) pull = { atN: Math.max(...Array.from(signals.peelN).slice(Math.max(0, k - 4), k + 5)), middleN: values[values.length >> 1], mostN: values[values.length - 1] }
    }
    return {
      pull,
      // a file that came with its supports has no stilts, but tips all the same
      tips: store.stilts.length > 0 || at === null ? carrying.value.map(({ stilt, share }) => ({ stilt: stilt.number, share, diameterMm: stilt.sizes.tipDiameterMm })) : builtIn().filter(t => t.heightMm <= at + ABOVE_MM).map((t, i) => ({ stilt: i + 1, share: null, diameterMm: t.diameterMm })),
      hanging: findings.value.map(f => ({ layer: f.layer, areaMm2: f.kind === 'island' ? f.island.hangingMm2 : f.kind === 'ledge' ? f.ledge.areaMm2 : 0 })),
      near: state.worklist.findings.filter(f => f.kind === 'near' && f.state === 'open').length,
    }
  })
  const causes = computed<Cause[]>(() => {
    const print = traced.value
    return print?.outcome?.kind === 'failed' ? causesOf(print, print.outcome, (prints.value ?? []).filter(p => p.id !== print.id), evidence.value) : []
  })
  /** What the traced print had other than the one before it; and what the job has other than the traced print. */
  const changedBefore = computed(() => {
    const print = traced.value, all = prints.value ?? [], before = print ? all[all.indexOf(print) + 1] : undefined
    return print && before ? changesBetween(before.facts, print.facts) : null
  })
  const changedSince = computed(() => (traced.value && store.job ? changesBetween(traced.value.facts, { ...factsNow(), layers: traced.value.facts.layers }) : []))

  /** What the fix of a cause does, in words; empty where only a person can do something. */
  function fixText({ fix }: Cause): string {
    const r = store.job?.resin
    if (!r) return ''
    if (fix === 'stronger-tips' && store.stilts.length === 0) return builtIn().length > 0 ? 'Lift its supports out, to make them stronger' : ''
    if (fix === 'stronger-tips') return carrying.value.length > 0 ? `Make these tips ${Math.round((STRONGER - 1) * 100)} % stronger` : ''
    if (fix === 'slower-there') return failedAtMm.value !== null ? `Half as fast up around ${failedAtMm.value.toFixed(1)} mm` : ''
    if (fix === 'longer-first-layers') return `First layers ${r.bottomExposureS} s → ${longer(r.bottomExposureS, FIRST_LONGER)} s`
    if (fix === 'longer-exposure') return `Exposure ${r.exposureS} s → ${longer(r.exposureS, LONGER)} s`
    if (fix === 'hold-there') return findings.value.length > 0 ? 'Hold what hangs there' : ''
    return ''
  }
  const longer = (s: number, by: number): number => Math.min(MOST_SECONDS, Math.round(s * by * 10) / 10)
  /** Does what helps against a cause, as one step of undo. */
  async function fixCause({ fix }: Cause): Promise<void> {
    const { job } = current(), r = job.resin, at = failedAtMm.value
    if (fix === 'stronger-tips' && store.stilts.length === 0) await acts.liftOutBuiltIn()
    else if (fix === 'stronger-tips') {
      // those that bear much, or are thin; where none does, all that carry there
      const weak = carrying.value.filter(c => c.share >= 0.7 || c.stilt.sizes.tipDiameterMm < 0.4), stilts = (weak.length > 0 ? weak : carrying.value).map(c => c.stilt)
      await acts.resize(stilts, i => strongerSizes(stilts[i].sizes, stilts[i].sizes.tipDiameterMm * STRONGER), stilts.length === 1 ? 'strengthen a tip' : `strengthen ${stilts.length} tips`, false)
      say(`${stilts.length === 1 ? '1 tip is' : `${stilts.length} tips are`} stronger now. Prove it, and print again.`)
    } else if (fix === 'slower-there' && at !== null) {
      const [known] = proposeRanges(slicing.plateSignals.value?.peelN ?? [], job.layerMm, r.bottomLayers + r.transitionLayers, r).filter(p => p.fromMm <= at && at < p.toMm), round = (mm: number): number => Math.round(mm * 100) / 100
      slicing.addRange(known ?? { fromMm: Math.max(0, round(at - AROUND_MM)), toMm: round(at + AROUND_MM), set: { travelUpMmMin: Math.max(1, Math.round(r.travelUpMmMin / 2)) }, why: `A print failed at ${at.toFixed(1)} mm: there the plate goes up half as fast.` })
      say('The plate goes up more slowly there now.')
    } else if (fix === 'longer-first-layers') {
      slicing.setResin({ bottomExposureS: longer(r.bottomExposureS, FIRST_LONGER) }, 'longer first layers')
      say(`The first layers are lit for ${longer(r.bottomExposureS, FIRST_LONGER)} s in this job now.`)
    } else if (fix === 'longer-exposure') {
      slicing.setResin({ exposureS: longer(r.exposureS, LONGER) }, 'longer exposure')
      say(`Layers are lit for ${longer(r.exposureS, LONGER)} s in this job now.`)
    } else if (fix === 'hold-there' && findings.value[0]) await acts.holdOne(findings.value[0])
  }

  function forgetPrints(): void {
    prints.value = null
    tracedId.value = null
  }

  return { prints, traced, carrying, failedLayer, causes, changedBefore, changedSince, failedAtMm, loadPrints, startPrint, notePrint, setOutcome, dropPrint, tracePrint, fixText, fixCause, forgetPrints }
}
