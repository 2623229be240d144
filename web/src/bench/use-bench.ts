import { effectScope, inject, nextTick, onScopeDispose, provide, watch, type InjectionKey } from 'vue'
import type { Part } from '@oak-stilts/core/contract'
import { decodeMesh, type Mesh } from '@oak-stilts/core/mesh'
import { shapeOf, standOf, type Stand } from '@oak-stilts/core/pose'
import { Superseded } from '../stores/job'
import { startWorkers, type Workers } from '../workers/clients'
import { WorkerDied } from '../workers/supervised'
import { planEditOf, raftsOf } from '../workers/plan-replica'
import { createContext, samePose, touchesScan } from './context'
import { meshKeyOf } from './meshes'
import { createAiming } from './aiming'
import { createArriving } from './arriving'
import { createAuditing } from './auditing'
import { createClearing } from './clearing'
import { createComparing } from './comparing'
import { createEditing } from './editing'
import { createEquipment } from './equipment'
import { createFiles } from './files'
import { createFixing } from './fixing'
import { createGauging } from './gauging'
import { createCutting } from './cutting'
import { createDrilling } from './drilling'
import { createHollowing } from './hollowing'
import { createHolding } from './holding'
import { createKeeping } from './keeping'
import { watchLayer } from './layer-look'
import { createScanning } from './scanning'
import { createSending } from './sending'
import { createSlicing } from './slicing'
import { createBedding } from './bedding'
import { createSpreading } from './spreading'
import { createStaggering } from './staggering'
import { createLogging } from './logging'
import { createMarking } from './marking'
import { createMeshCheck } from './mesh-check'
import { createOptimising } from './optimising'
import { createParts } from './parts'
import { createPlanning } from './planning'
import { createPlate } from './plate'
import { createPosing } from './posing'
import { createProving } from './proving'
import { createRafting } from './rafting'
import { createTying } from './tying'
import { createTilting } from './tilting'
import { createVersions } from './versions'
import { createWalking } from './walking'

/** What the bench's components share: the model, its workers, and everything that can be done to the job. */
export type Bench = ReturnType<typeof createBench>

/** Workers are started again this often within this time. */
const MOST_DEATHS = 3, DEATHS_WITHIN_MS = 120_000

const key: InjectionKey<Bench> = Symbol('bench')

export function provideBench(): Bench {
  const bench = createBench()
  provide(key, bench)
  return bench
}

export function useBench(): Bench {
  const bench = inject(key)
  if (!bench) throw new Error('This component belongs on the bench.')
  return bench
}

function createBench() {
  const context = createContext()
  const { store, state, workers, model, stand, surroundings, scanVersion, picture, outline, flyTo, otherPlan, whyNotHeld, current, meshOf, say } = context
  const scanning = createScanning(context, () => holding.holding() || proving.readying())
  const gauging = createGauging(context)
  const editing = createEditing(context, gauging.gaugeRows)
  const holding = createHolding(context, editing.addStilts, scanning.rescan, () => gauging.gauges.value)
  const spreading = createSpreading(context, gauging.gauge, gauging.gaugeRows)
  const bedding = createBedding(context, spreading, gauging.gauges)
  const walking = createWalking(context)
  const keeping = createKeeping(context)
  const onPlate = createPlate(context)
  const clearing = createClearing(context)
  const parts = createParts(context, onPlate.look)
  const meshCheck = createMeshCheck(context)
  const hollowing = createHollowing(context, editing), drilling = createDrilling(context, editing, hollowing, parts), cutting = createCutting(context, editing, onPlate.look)
  const aiming = createAiming(context), marking = createMarking(context, aiming)
  const posing = createPosing(context, editing)
  const arriving = createArriving(context, () => gauging.gauges.value)
  const tilting = createTilting(context, marking.worths, editing)
  const tying = createTying(context, editing)
  const planning = createPlanning(context)
  const proving = createProving(context, { ...editing, ...tying, holdAll: holding.holdAll }, () => gauging.gauges.value, { ...planning, ...aiming }, scanning.rescan)
  const comparing = createComparing(context, () => gauging.gauges.value, proving.onPlate, scanning.rescan, () => proving.proving.value !== '')
  const optimising = createOptimising(context, () => gauging.gauges.value, proving.onPlate, scanning.rescan, () => proving.proving.value !== '')
  const printing = createSlicing(context, onPlate.standing, onPlate.look, parts.roomFor)
  const sending = createSending(context, printing)
  const logging = createLogging(context, printing, sending, { ...editing, holdOne: holding.holdOne, liftOutBuiltIn: arriving.liftOutBuiltIn }, gauging.gauges, () => arriving.builtInTips.value)
  const files = createFiles(context, onPlate.standing, gauging.gauges)
  /** What follows the job that is open; ends with it. */
  let following = effectScope()
  let newest = 0

  /** @throws ApiError; Superseded where another job was opened, or the bench left, meanwhile */
  async function open(id: string): Promise<void> {
    const ticket = ++newest
    gauging.loadKit()
    const goOn = (): void => {
      if (ticket !== newest) throw new Superseded()
    }
    await store.open(id)
    goOn()
    await takePart(goOn)
    watchJob()
    void onPlate.look()
    if (store.recovered === 'sent') say('Changes of your last visit that had not reached the server were sent now.')
    await scanning.rescan()
  }

  /** The part that is on the bench, as it was when last looked at. */
  let shown: Part | null = null
  /** Brings the part that is chosen onto the bench. */
  async function takePart(goOn: () => void): Promise<void> {
    state.reset()
    model.value = null
    picture.value = null
    stand.value = null
    context.notHeld.value = []
    const { part, raster } = store
    shown = part
    if (!part || !raster) return
    // what fails because it was left is not told
    const buffer = await meshOf(part).catch((error: unknown) => {
      goOn()
      throw error
    })
    goOn()
    const mesh = decodeMesh(buffer)
    // it may have been posed meanwhile
    shown = store.part ?? part
    place(standOf(mesh.positions, shown.pose, raster.pixelMm))
    await loadWorkers(mesh, buffer, goOn)
    if (store.part && !samePose(store.part.pose, shown.pose)) takePose()
  }

  /** Gives the workers the mesh and the plans; starts them where there are none. */
  async function loadWorkers(mesh: Mesh, buffer: ArrayBuffer, goOn: () => void): Promise<void> {
    const own = workers.value ?? startWorkers()
    if (workers.value !== own) {
      workers.value = own
      void own.died.then(() => revive(own))
    }
    const { part } = current(), index = store.plan(), rows = { nodes: [...index.nodes.values()], beams: [...index.beams.values()], rafts: raftsOf(store.parts) }
    const [normals] = await Promise.all([own.surface.load(buffer, { key: meshKeyOf(part), shape: shapeOf(part.recipe), stand: current().stand }, gauging.gauges.value, surroundings.value), own.scan.load(buffer, `${part.id} ${meshKeyOf(part)}`, shapeOf(part.recipe)), own.surface.plan(rows), own.scan.plan(rows)])
    goOn()
    model.value ??= { mesh, normals, buffer }
    void clearing.look()
  }

  /** When workers died, in ms: what dies again and again is not started for ever. */
  let deaths: number[] = []
  /** A worker died: both are started anew. The job lives on this page and loses nothing. */
  async function revive(dead: Workers): Promise<void> {
    if (workers.value !== dead) return
    dead.end()
    workers.value = null
    const ticket = newest, now = Date.now()
    deaths = [...deaths.filter(t => now - t < DEATHS_WITHIN_MS), now]
    holding.giveUp()
    proving.giveUp()
    state.busy = ''
    if (deaths.length > MOST_DEATHS || !store.part) {
      state.scanState = 'failed'
      state.scanProblem = 'The scan stopped working several times. The part may need more memory than this browser has. All your changes are kept; close other tabs and reload the page.'
      say(state.scanProblem)
      return
    }
    state.scanState = 'scanning'
    state.progress = 0
    try {
      const loaded = model.value
      const buffer = loaded?.buffer ?? (await meshOf(store.part))
      await loadWorkers(loaded?.mesh ?? decodeMesh(buffer), buffer, () => {
        if (ticket !== newest) throw new Superseded()
      })
      say('The scan had stopped working and was started again. Nothing was lost.')
      void onPlate.look()
      await scanning.rescan()
    } catch (error) {
      if (error instanceof Superseded || error instanceof WorkerDied) return
      state.scanState = 'failed'
      state.scanProblem = (error as Error).message
      say(`The scan could not be started again: ${state.scanProblem}`)
    }
  }

  function place(next: Stand): void {
    stand.value = next
    state.stand = next
  }

  /** Brings the part to where the job says it stands. */
  function takePose(): void {
    const { part, raster } = current()
    shown = part
    if (!model.value) return
    place(standOf(model.value.mesh.positions, part.pose, raster.pixelMm))
    void workers.value?.surface.setStand(current().stand).catch(() => undefined)
    // what is said about stilts is said as the part stands now
    void clearing.look()
  }

  /** Brings another part onto the bench. */
  async function changePart(): Promise<void> {
    const ticket = newest, id = store.part?.id
    holding.giveUp()
    scanVersion.value++
    try {
      await takePart(() => {
        if (ticket !== newest || store.part?.id !== id) throw new Superseded()
      })
      await scanning.rescan()
    } catch (error) {
      if (error instanceof Superseded || error instanceof WorkerDied) return
      say((error as Error).message)
    }
  }

  function watchJob(): void {
    let raster = store.raster
    following = effectScope(true)
    following.run(() => {
      onScopeDispose(store.onChange((change, touched) => {
        const edit = planEditOf(change), before = shown, { part } = store
        if (edit) {
          void workers.value?.scan.edit(edit).catch(() => undefined)
          void workers.value?.surface.edit(edit).catch(() => undefined)
          if (state.selectedStilts.length > 0) {
            const there = new Set(store.stilts.map(s => s.id))
            state.selectedStilts = state.selectedStilts.filter(id => there.has(id))
          }
          onPlate.lookSoon()
          void clearing.look()
        }
        const sampled = store.raster !== raster
        raster = store.raster
        if (part?.id !== before?.id || (part && before && meshKeyOf(part) !== meshKeyOf(before))) {
          void changePart()
          return
        }
        if (!part || !before) return
        if (stand.value && (sampled || !samePose(part.pose, before.pose))) takePose()
        shown = part
        // where holes go depends on what the skin is worth; the workers are told that first
        if (touched.rows.has('marks') && state.result?.cups.length) void nextTick().then(scanning.rescan)
        if (!touchesScan(change, touched, part, before, sampled)) return
        scanVersion.value++
        void scanning.rescan()
      }))
      watch(() => store.part?.id, id => {
        if (id !== shown?.id) void changePart()
      })
      watch([() => store.parts, () => store.copies, () => store.copy, () => store.job?.printer, () => store.raster, () => state.hiddenParts], () => void onPlate.look())
      watch([() => state.scanState, () => state.busy, () => store.copies, () => store.parts], () => onPlate.scanPlateSoon())
      watch([() => state.seeThrough, model], () => void (model.value && workers.value?.surface.setSeeThrough(state.seeThrough).catch(() => undefined)))
      watch(surroundings, now => {
        void workers.value?.surface.setSurroundings(now).catch(() => undefined)
        void clearing.look()
      })
      watch([marking.skin, gauging.gauges], () => void clearing.look())
      watch(() => state.playhead, () => void scanning.showLayer())
      watch([() => state.finding, () => state.result?.stage], () => void scanning.showOutline())
    })
  }

  function close(): void {
    newest++
    following.stop()
    shown = null
    workers.value?.end()
    workers.value = null
    holding.giveUp()
    tilting.forgetTilts()
    comparing.closeCompare()
    optimising.closeOptimise()
    arriving.endArriving()
    hollowing.endHollowing()
    cutting.endCut()
    context.endFinisher()
    printing.endSliced()
    sending.leavePrinters()
    sending.leaveSending()
    logging.forgetPrints()
    // what was scanned is of the job that is left
    state.reset()
    void store.close()
  }

  /** Ends whatever is under way. */
  function cancel(): void {
    if (!printing.cancelSlice() && !context.cancelFinish() && !holding.cancelHold() && !proving.cancelProof()) scanning.cancel()
  }

  const { rescan, contourAt } = scanning
  return { lookInto: (layer: () => number | null) => watchLayer(context, layer), model, stand, picture, outline, flyTo, otherPlan, whyNotHeld, workers: () => current().workers, open, close, say, rescan, cancel, contourAt, holdAll: holding.holdAll, holdOne: holding.holdOne, ...editing, ...gauging, ...bedding, ...spreading, ...createAuditing(context, editing), ...createFixing(context, editing, gauging.gauges), ...tying, ...createRafting(context), ...planning, ...aiming, ...comparing, ...optimising, ...proving, ...arriving, ...walking, ...files, ...keeping, ...parts, ...marking, ...posing, ...tilting, ...meshCheck, ...hollowing, ...drilling, ...cutting, ...createVersions(context), ...printing, ...createStaggering(context, parts, printing), ...sending, ...logging, ...onPlate, ...createEquipment(context) }
}
