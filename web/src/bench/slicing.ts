import { proxy } from 'comlink'
import { computed, shallowRef, watch } from 'vue'
import { loadsOf, newId, stateOfPrint, type Copy, type HeightRange, type LayerTimes, type PackageManifest, type Part, type PrintSettings, type Resin } from '@oak-stilts/core/contract'
import { decodeMesh, type Mesh } from '@oak-stilts/core/mesh'
import type { StandingCopy } from '@oak-stilts/core/plate'
import { costOf, growthOf, packageName, proposeRanges, secondsOf, timesOfLayers, type PartToSlice } from '@oak-stilts/core/print'
import { download } from '../files'
import type { MadePackage, PackageWorker, ToldRehearsal } from '../workers/package.worker'
import type { PlatePart } from '../workers/plate-bodies'
import { slicePlate, startPackager, startSlicer } from '../workers/slice-pool'
import type { Supervised } from '../workers/supervised'
import type { BenchContext } from './context'

/** Cells by which copies are laid out, mm. */
const CELL_MM = 0.25
/** Copies of a part at the most. */
export const MOST_COPIES = 200

/** Areas of pictures differ from those of the scan by turned rasters and by shades that are rounded: so much is none of it. */
const DIFFERS_SHARE = 0.03, DIFFERS_MM2 = 0.5

/** A package that was sliced here, and the state of the job that it is of. */
interface Sliced extends MadePackage {
  readonly of: string
  readonly bytes: number
}

/** What a print comes to before it is sliced: estimates from the scan of the plate. */
export interface PrintEstimate {
  readonly layers: number
  readonly seconds: number
  readonly ml: number
  readonly cost: number
  /** The layer that pulls most, and its pull, N; −1 where none does. */
  readonly fullest: number
  readonly pullN: number
}

/** The print of a job: copies laid out, how layers are printed, slices, and the package that comes of it. */
export function createSlicing({ store, state, current, meshOf, scanVersion, say }: BenchContext, standing: (only: boolean) => Promise<{ parts: PlatePart[]; copies: StandingCopy[] }>, look: () => Promise<void>, roomFor: (size: readonly [number, number]) => Pick<Copy, 'xPixels' | 'yPixels'>) {
  const slicing = shallowRef<{ readonly words: string; readonly share: number } | null>(null)
  const sliced = shallowRef<Sliced | null>(null), rehearsal = shallowRef<ToldRehearsal | null>(null), rebuilt = shallowRef<Mesh | null>(null)
  let packager: Supervised<PackageWorker> | null = null, aborting: AbortController | null = null

  /** The state of the job as far as its layers depend on it. */
  const printedState = computed(() => {
    const { job } = store
    void [store.parts, store.stilts, store.marks, store.waivers, store.copies, store.gauges, scanVersion.value]
    return job ? stateOfPrint(store.snapshot()) : ''
  })
  /** Whether what was sliced is what the job is now. */
  const slicedStale = computed(() => sliced.value !== null && sliced.value.of !== printedState.value)

  /** The signals of all that stands on the plate. */
  const plateSignals = computed(() => (store.copies.length > 1 ? (state.plateScan?.signals ?? null) : (state.result?.stage !== 'layers' ? (state.result?.signals ?? null) : null)))
  /** How much larger everything is printed than it is to be, and how many layers it has then. */
  const printedSize = computed(() => {
    const { job } = store, growth = job ? growthOf(job) : ([1, 1, 1] as const), count = plateSignals.value?.areaMm2.length ?? 0
    return { growth, layers: growth[2] === 1 ? count : Math.round(count * growth[2]) }
  })
  const layerTimes = computed<LayerTimes[]>(() => {
    const { job } = store
    return job && plateSignals.value ? timesOfLayers(printedSize.value.layers, job.layerMm, job.resin, job.printing.ranges, job.printer) : []
  })
  const estimate = computed<PrintEstimate | null>(() => {
    const { job } = store, signals = plateSignals.value
    if (!job || !signals) return null
    const { growth: [growX, growY, growZ], layers } = printedSize.value
    let ml = 0, fullest = -1
    for (let k = 0; k < signals.areaMm2.length; k++) {
      ml += (signals.areaMm2[k] * job.layerMm * growX * growY * growZ) / 1000
      if (fullest < 0 || signals.peelN[k] > signals.peelN[fullest]) fullest = k
    }
    return { layers, seconds: layerTimes.value.reduce((sum, t) => sum + secondsOf(t), 0), ml, cost: costOf(ml, job.resin), fullest, pullN: fullest < 0 ? 0 : signals.peelN[fullest] * growX * growY }
  })

  /** Copies that the printer cannot print as they stand: over an edge or too high, or run into each other. */
  const misplaced = computed(() => ({ outside: state.plateCheck?.outside ?? [], overlaps: state.plateCheck?.overlaps ?? [] }))

  function setPrinting(change: Partial<PrintSettings>, label: string): void {
    if (store.job) store.apply({ label, set: { printing: { ...store.job.printing, ...change } } })
  }
  /** Values of the resin as this job has it; the resin of the workshop stays as it is. */
  function setResin(change: Partial<Resin>, label: string): void {
    if (store.job) store.apply({ label, set: { resin: { ...store.job.resin, ...change } } })
  }
  function addRange(range: Omit<HeightRange, 'id'>): void {
    const { job } = store
    if (job) setPrinting({ ranges: [...job.printing.ranges, { ...range, id: newId() }] }, 'add a range of heights')
  }
  /** Proposes slower layers where the plate pulls most. */
  function proposeSlower(): void {
    const { job } = store, signals = plateSignals.value
    if (!job || !signals) return
    const { bottomLayers, transitionLayers, travelUpMmMin } = job.resin, found = proposeRanges(signals.peelN, job.layerMm, bottomLayers + transitionLayers, { travelUpMmMin })
    if (found.length === 0) say('No layer pulls so much more than the others that it had better be slower.')
    else setPrinting({ ranges: [...job.printing.ranges.filter(r => !r.why), ...found.map(r => ({ ...r, id: newId() }))].slice(-20) }, 'go slower where layers pull most')
  }

  /** As many copies of a part as are asked for, one step of undo. */
  async function setCopies(part: Part, count: number): Promise<void> {
    await look()
    const mine = store.copies.filter(c => c.part === part.id), wanted = Math.max(1, Math.min(MOST_COPIES, Math.round(count)))
    if (wanted < mine.length) store.apply({ label: `${wanted} ${wanted === 1 ? 'copy' : 'copies'} of ${part.name.slice(0, 60)}`, drop: { copies: mine.slice(wanted).map(c => c.id) } })
    else if (wanted > mine.length) {
      const box = state.plateCheck?.boxes.find(b => b.copy === mine[0]?.id), size: [number, number] = box ? [box.max[0] - box.min[0], box.max[1] - box.min[1]] : [10, 10], place = roomFor(size)
      const added = Array.from({ length: wanted - mine.length }, (): Copy => ({ id: newId(), part: part.id, turnDeg: mine[0]?.turnDeg ?? 0, ...place }))
      // where each of them stands is found at once
      await layOutWith([...store.copies, ...added], `${wanted} copies of ${part.name.slice(0, 60)}`)
    }
  }
  const layOut = (): Promise<void> => layOutWith(store.copies, 'lay out the plate')
  async function layOutWith(copies: readonly Copy[], label: string): Promise<void> {
    const { job, raster, workers: w } = current(), { gapMm, turns } = job.printing
    try {
      const { parts } = await standing(false), { widthMm, depthMm, edgesMm } = job.printer
      const laid = await w.surface.layOut(parts, copies.map(({ id, part, turnDeg }) => ({ id, part, turnDeg })), { widthMm, depthMm, edgesMm: [...edgesMm] }, { cellMm: CELL_MM, gapMm, turns })
      if (store.job?.id !== job.id) return
      const put = copies.flatMap(copy => {
        const to = laid.find(l => l.id === copy.id)
        if (!to) return []
        const turnDeg = (copy.turnDeg + 90 * to.quarters) % 360, moved: Copy = { ...copy, xPixels: Math.round(to.xMm / raster.pixelMm) || 0, yPixels: Math.round(to.yMm / raster.pixelMm) || 0, turnDeg: turnDeg > 180 ? turnDeg - 360 : turnDeg }
        return [moved]
      })
      const changed = put.filter(c => JSON.stringify(store.copies.find(o => o.id === c.id)) !== JSON.stringify(c)), beside = laid.filter(l => l.beside).length
      if (changed.length > 0) store.apply({ label, put: { copies: changed } })
      say(beside > 0 ? `${beside} of ${copies.length} ${beside === 1 ? 'finds' : 'find'} no room and ${beside === 1 ? 'stands' : 'stand'} beside the plate. Take ${beside === 1 ? 'it' : 'them'} out, or leave less room between.` : changed.length > 0 ? `${copies.length === 1 ? 'The part stands' : `${copies.length} copies stand`} free on the plate.` : 'They stand like that already.')
    } catch (error) {
      say(`The plate could not be laid out: ${(error as Error).message}`)
    }
  }

  /** All parts that stand on the plate, with what stands under them. */
  async function partsNow(): Promise<{ parts: PartToSlice[]; copies: Pick<Copy, 'part' | 'xPixels' | 'yPixels' | 'turnDeg'>[] }> {
    const { workers: w } = current(), { parts } = await standing(false), copies = store.copies.map(({ part, xPixels, yPixels, turnDeg }) => ({ part, xPixels, yPixels, turnDeg })), rows = store.parts
    return {
      copies, parts: await Promise.all(parts.filter(p => copies.some(c => c.part === p.id)).map(async (p): Promise<PartToSlice> => {
        const row = rows.find(r => r.id === p.id) as Part
        return { id: p.id, mesh: decodeMesh(await meshOf(row)), stand: p.stand, ...(await w.surface.underneath(p.id)) }
      })),
    }
  }

  /** Writes the contours of all layers as 3MF with slices. */
  async function saveContours(): Promise<void> {
    if (slicing.value) return
    const { job } = current(), own = new AbortController(), worker = startSlicer()
    aborting = own
    slicing.value = { words: 'Getting ready', share: 0 }
    state.busy = 'Drawing the contours of all layers'
    let going = true
    try {
      const { parts, copies } = await partsNow(), cancelled = new Promise<never>((_, reject) => own.signal.addEventListener('abort', () => reject(own.signal.reason as Error), { once: true }))
      const working = worker.remote.contours({ parts, copies, printer: job.printer, layerMm: job.layerMm, printing: job.printing, resin: job.resin }, job.name, proxy((share: number) => {
        if (going) slicing.value = { words: 'Drawing contours', share }
      }))
      working.catch(() => undefined)
      const blob = await Promise.race([working, cancelled])
      download(blob, packageName(job.name, job.resin.name, job.layerMm, '3mf'))
      say(`Written: the contours of all layers, ${(blob.size / 1e6).toFixed(1)} MB.`)
    } catch (error) {
      say(own.signal.aborted ? 'It was cancelled. Nothing was written.' : `The contours could not be written: ${(error as Error).message}`)
    } finally {
      going = false
      state.busy = ''
      worker.end()
      if (aborting === own) {
        aborting = null
        slicing.value = null
      }
    }
  }

  /** Slices the plate into a package, on all cores. */
  async function slice(): Promise<void> {
    if (slicing.value) return
    const { job } = current(), of = printedState.value
    endSliced()
    const own = new AbortController(), pack = startPackager()
    aborting = own
    packager = pack
    slicing.value = { words: 'Getting ready', share: 0 }
    try {
      await look()
      const { outside, overlaps } = misplaced.value
      if (outside.length > 0 || overlaps.length > 0) throw new Error(outside.length > 0 ? `${outside.length === 1 ? 'A copy reaches' : `${outside.length} copies reach`} beyond what ${job.printer.name} can print. Lay out, or move ${outside.length === 1 ? 'it' : 'them'} in.` : 'Copies run into each other. Lay out, or move them apart.')
      const { parts: ready, copies } = await partsNow(), rows = store.parts
      const made = await slicePlate(
        { parts: ready, copies, printer: job.printer, layerMm: job.layerMm, printing: job.printing, resin: job.resin },
        { name: job.name, job: { id: job.id, state: of }, parts: rows.map(r => ({ name: r.name, copies: copies.filter(c => c.part === r.id).length })).filter(r => r.copies > 0), layerMm: job.layerMm, printer: job.printer, resin: job.resin, printing: job.printing },
        layers => timesOfLayers(layers, job.layerMm, job.resin, job.printing.ranges, job.printer), pack, own.signal,
        (done, total) => (slicing.value = { words: `${done.toLocaleString('en')} of ${total.toLocaleString('en')} layers`, share: done / Math.max(1, total) }),
      )
      if (aborting !== own) return
      sliced.value = { ...made, of, bytes: made.blob.size }
      say(made.cutPixels > 0 ? 'Sliced, but something reaches over the edge of the picture and is cut off there.' : `Sliced and read back: ${made.manifest.layers.length.toLocaleString('en')} layers, ${(made.blob.size / 1e6).toFixed(1)} MB.`)
    } catch (error) {
      pack.end()
      if (packager === pack) packager = null
      if (own.signal.aborted) say('Slicing was cancelled. Nothing was changed.')
      else say(`It was not sliced: ${(error as Error).message}`)
    } finally {
      if (aborting === own) {
        aborting = null
        slicing.value = null
      }
    }
  }
  /** Ends what is under way of a print; gives whether anything was. */
  function cancelSlice(): boolean {
    if (!slicing.value) return false
    if (aborting) aborting.abort()
    else void packager?.remote.leaveOff().catch(() => undefined)
    return true
  }

  /** Goes through what was sliced as a printer would, from its pictures alone. */
  async function rehearse(): Promise<void> {
    const { job } = current(), pack = packager
    if (!pack || !sliced.value || slicing.value) return
    slicing.value = { words: 'Rehearsing', share: 0 }
    let going = true
    try {
      const found = await pack.remote.rehearse(job.settings, loadsOf(job.resin), proxy((words: string, share: number) => {
        if (going) slicing.value = { words, share }
      }))
      if (packager !== pack) return
      if (found) rehearsal.value = found
      else say('The rehearsal was cancelled.')
    } catch (error) {
      say(`It could not be rehearsed: ${(error as Error).message}`)
    } finally {
      going = false
      slicing.value = null
    }
  }

  /** Shows what the pictures of the package make behind the plate, or takes that away again. */
  async function toggleRebuilt(): Promise<void> {
    const pack = packager
    if (rebuilt.value || !pack || !sliced.value || slicing.value) {
      rebuilt.value = null
      return
    }
    slicing.value = { words: 'Building it from its pictures', share: 0 }
    let going = true
    try {
      const made = await pack.remote.rebuild(proxy((words: string, share: number) => {
        if (going) slicing.value = { words, share }
      }))
      if (packager === pack) rebuilt.value = made
    } catch (error) {
      say(`It could not be built: ${(error as Error).message}`)
    } finally {
      going = false
      slicing.value = null
    }
  }

  function saveSliced(): void {
    const { job } = current()
    if (sliced.value) download(sliced.value.blob, packageName(job.name, job.resin.name, job.layerMm, 'zip'))
  }

  /** The picture of a layer as the printer shows it, PNG; null while nothing is sliced. */
  async function printedLayer(k: number): Promise<Uint8Array | null> {
    return (await packager?.remote.layer(k).catch(() => null)) ?? null
  }

  function endSliced(): void {
    aborting?.abort()
    aborting = null
    packager?.end()
    packager = null
    sliced.value = null
    rehearsal.value = null
    rebuilt.value = null
    slicing.value = null
  }
  // another job is another print
  watch(() => store.job?.id, endSliced)

  /** Layers whose pictures cover another area than what was proved: the first one, both areas in mm², and how many there are; null where none does, or they cannot be compared. */
  const differs = computed(() => {
    const signals = plateSignals.value, found = rehearsal.value?.result, growth = manifest.value?.growth
    // what is grown upwards has other layers
    if (!signals || !found || !growth || growth[2] !== 1 || slicedStale.value) return null
    let first = -1, count = 0
    const proved = (k: number): number => (signals.areaMm2[k] ?? 0) * growth[0] * growth[1]
    for (let k = 0; k < Math.max(signals.areaMm2.length, found.areaMm2.length); k++) {
      if (Math.abs((found.areaMm2[k] ?? 0) - proved(k)) <= DIFFERS_SHARE * proved(k) + DIFFERS_MM2) continue
      if (first < 0) first = k
      count++
    }
    return count > 0 ? { layer: first, count, provedMm2: proved(first), areaMm2: found.areaMm2[first] ?? 0 } : null
  })

  const manifest = computed<PackageManifest | null>(() => sliced.value?.manifest ?? null)
  return { slicing, sliced, printedState, slicedStale, slicedManifest: manifest, rehearsal, rehearsalDiffers: differs, printEstimate: estimate, misplaced, plateSignals, setPrinting, setResin, addRange, proposeSlower, setCopies, layOut, slice, cancelSlice, rehearse, rebuilt, toggleRebuilt, saveSliced, saveContours, printedLayer, endSliced }
}
