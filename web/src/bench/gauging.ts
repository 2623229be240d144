import { computed, watch } from 'vue'
import { gaugesFor, type Gauge, type Part } from '@oak-stilts/core/contract'
import { decodeMesh } from '@oak-stilts/core/mesh'
import { shapeOf, shiftOf, standOf } from '@oak-stilts/core/pose'
import { gaugeFor, keepSizes, proposeGauge, sizesOf, type Stilt, type StiltShape } from '@oak-stilts/core/stilts'
import { useKitStore } from '../stores/kit'
import type { BenchContext } from './context'
import { meshKeyOf } from './meshes'

/** The gauges to choose from on the bench: chosen, changed, made from what is selected, proposed. */
export function createGauging({ store, state, workers, plate, current, meshOf, say }: BenchContext) {
  const kit = useKitStore()
  const offered = computed(() => gaugesFor({
    job: store.gauges, resin: store.job?.resin.gauges ?? [], used: store.usedGauges,
    workshop: kit.kit.gauges.filter(g => !g.builtIn).map(g => g.gauge),
  }))
  const gauges = computed<readonly Gauge[]>(() => offered.value.map(o => o.gauge))
  /** The one that the next stilt gets; where what was chosen is not offered any more, the one nearest to it in size. */
  const gauge = computed<Gauge>(() => gaugeFor({ gauge: state.gauge, sizes: { tipDiameterMm: 0.5 } }, gauges.value))
  watch(gauge, g => (state.gauge = g.id), { immediate: true })
  watch([gauges, workers], () => void workers.value?.surface.setGauges(gauges.value).catch(() => undefined))

  /** Takes what the workshop has; without it there is what the job, its resin and everybody have. */
  function loadKit(): void {
    void kit.load().catch(() => undefined)
  }

  function chooseGauge(id: string): void {
    const chosen = gauges.value.find(g => g.id === id)
    if (!chosen) return
    state.gauge = id
    say(`${chosen.name} gauge, tip ${chosen.tipDiameterMm.toFixed(2)} mm.`)
  }
  /** Chooses by place in the list, counted from 0. */
  function chooseGaugeAt(place: number): void {
    const chosen = gauges.value[place]
    if (chosen) chooseGauge(chosen.id)
    else say(`There are ${gauges.value.length} gauges.`)
  }

  /** Rows to put into the job along with stilts of some gauges: of those that came from elsewhere, so that the job keeps them as they are. */
  function gaugeRows(ids: Iterable<string>): Gauge[] {
    const wanted = new Set(ids)
    return offered.value.filter(o => wanted.has(o.gauge.id) && (o.from === 'resin' || o.from === 'workshop')).map(o => o.gauge)
  }

  /** Stilts of the whole job that have a gauge. */
  function stiltsWith(id: string): Stilt[] {
    return store.parts.flatMap(p => store.stiltsOf(p.id).filter(s => s.gauge === id))
  }

  /** Changes a gauge of the job. Stilts that have it follow, but for sizes that were set by hand; or all of them stay as they are. One step of undo. */
  async function changeGauge(now: Gauge, follow: boolean): Promise<void> {
    const before = gauges.value.find(g => g.id === now.id)
    if (!before) return
    const put: { stilt: Stilt; shape: StiltShape }[] = []
    let missed = 0
    try {
      for (const part of store.parts) {
        const stilts = store.stiltsOf(part.id).filter(s => s.gauge === now.id)
        if (stilts.length === 0) continue
        if (!follow) {
          put.push(...stilts.map(stilt => ({ stilt, shape: keepSizes(stilt, before, now) })))
          continue
        }
        state.busy = stilts.length === 1 ? 'Fitting the stilt' : `Fitting ${stilts.length} stilts`
        const fitted = await current().workers.surface.refit(stilts, before, now, part.id === store.part?.id ? undefined : await elsewhere(part))
        missed += fitted.filter(f => !f.fits).length
        put.push(...fitted.map(({ shape }, i) => ({ stilt: stilts[i], shape })))
      }
    } catch (error) {
      say(`The gauge could not be changed: ${(error as Error).message}`)
      return
    } finally {
      state.busy = ''
    }
    // what was changed meanwhile was not fitted
    const there = new Set(store.parts.flatMap(p => store.stiltsOf(p.id)))
    if (put.some(p => !there.has(p.stilt))) {
      say('Stilts were changed meanwhile; the gauge stays as it was.')
      return
    }
    const change = store.stiltChange(`change the ${now.name} gauge`, { put })
    store.apply({ ...change, put: { ...change.put, gauges: [now] } })
    const count = put.length === 1 ? '1 stilt' : `${put.length} stilts`
    say(put.length === 0 ? `${now.name} was changed in this job.` : follow ? `${now.name} was changed; ${missed === 0 ? `${count} ${put.length === 1 ? 'follows' : 'follow'}` : `${missed} of ${count} ${missed === 1 ? 'has' : 'have'} no room for it and ${missed === 1 ? 'stays as it is' : 'stay as they are'}`}.` : `${now.name} was changed; ${count} ${put.length === 1 ? 'stays as it is' : 'stay as they are'}.`)
  }
  /** Where another part stands, for stilts of it that are fitted. */
  async function elsewhere(part: Part): Promise<{ buffer: ArrayBuffer; place: { key: string; shape: ReturnType<typeof shapeOf>; stand: ReturnType<typeof standOf> }; plate: typeof plate.value }> {
    const buffer = await meshOf(part), { raster } = current(), copy = store.copies.find(c => c.part === part.id)
    return {
      buffer, place: { key: meshKeyOf(part), shape: shapeOf(part.recipe), stand: standOf(decodeMesh(buffer).positions, part.pose, raster.pixelMm) },
      plate: { ...plate.value, shift: copy && shiftOf(copy, raster.pixelMm) },
    }
  }

  /** The gauge as the workshop, or everybody, has it; where the job has one of its own. */
  function workshopGauge(id: string): Gauge | null {
    return kit.kit.gauges.find(g => g.gauge.id === id)?.gauge ?? null
  }
  /** Keeps a gauge of the job with the workshop, for other jobs. */
  async function keepGauge(g: Gauge): Promise<void> {
    await kit.putGauge(g)
    say(kit.problem || `${g.name} is kept with the workshop, for other jobs too.`)
  }

  /** A new gauge with the sizes of a stilt, kept with the workshop; it is chosen. */
  function gaugeFromStilt(stilt: Stilt): Gauge {
    const base = gaugeFor(stilt, gauges.value), { footPenetrationMm, ...sizes } = stilt.sizes, { footDiameterMm, footHeightMm } = sizesOf(base)
    const foot = stilt.foot === 'model' ? { modelFootDiameterMm: sizes.footDiameterMm, modelFootPenetrationMm: footPenetrationMm, footDiameterMm, footHeightMm } : {}
    const made = kit.addGauge({ ...base, ...sizes, ...foot, coneShortestMm: Math.min(base.coneShortestMm, sizes.coneLengthMm) })
    state.gauge = made.id
    return made
  }

  /** The gauge for what carries this part, and why; null before it was scanned. */
  const proposed = computed(() => {
    const { result } = state, { part, job } = store
    if (!result || !part || !job) return null
    const scale = part.recipe.scale.reduce((a, b) => a * b, part.recipe.unitMm ** 3)
    return proposeGauge(gauges.value, { volumeMm3: Math.abs(part.source.summary.volumeMm3 * scale), widestMm2: result.widestMm2 }, job.resin)
  })

  return { offered, gauges, gauge, proposed, loadKit, chooseGauge, chooseGaugeAt, gaugeRows, stiltsWith, changeGauge, workshopGauge, keepGauge, gaugeFromStilt }
}
