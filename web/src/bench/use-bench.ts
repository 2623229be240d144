import { inject, provide, watch, type InjectionKey } from 'vue'
import { decodeMesh, type Mesh } from '@oak-stilts/core/mesh'
import { placementOf, type Placement } from '@oak-stilts/core/pose'
import { GAUGES } from '@oak-stilts/core/stilts'
import { api } from '../api/client'
import { Superseded } from '../stores/job'
import { startWorkers, type Workers } from '../workers/clients'
import { WorkerDied } from '../workers/supervised'
import { createContext, sameForScan, samePose } from './context'
import { createEditing } from './editing'
import { createFiles } from './files'
import { createHolding } from './holding'
import { createKeeping } from './keeping'
import { createScanning } from './scanning'
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
  const { store, state, workers, model, placement, picture, outline, flyTo, whyNotHeld, current, say } = context
  const scanning = createScanning(context, () => holding.holding())
  const editing = createEditing(context)
  const holding = createHolding(context, editing.putStilts, scanning.rescan)
  const walking = createWalking(context)
  const files = createFiles(context)
  const keeping = createKeeping(context)
  const stopWatching: (() => void)[] = []
  let newest = 0

  /** @throws ApiError; Superseded where another job was opened, or the bench left, meanwhile */
  async function open(id: string): Promise<void> {
    const ticket = ++newest
    const goOn = (): void => {
      if (ticket !== newest) throw new Superseded()
    }
    state.reset()
    model.value = null
    picture.value = null
    context.notHeld.value = []
    const job = await store.open(id)
    goOn()
    const buffer = await api.mesh(id)
    goOn()
    const mesh = decodeMesh(buffer)
    place(placementOf(mesh.positions, job.pose, job.printer.pixelMm))
    await loadWorkers(mesh, buffer, goOn)
    watchJob()
    // the part may have been posed while the workers started
    if (current().job.pose !== job.pose) takePose()
    if (store.recovered === 'sent') say('Changes of your last visit that had not reached the server were sent now.')
    await scanning.rescan()
  }

  /** Starts the workers and gives them the mesh. */
  async function loadWorkers(mesh: Mesh, buffer: ArrayBuffer, goOn: () => void): Promise<void> {
    const own = startWorkers()
    workers.value = own
    void own.died.then(() => revive(own))
    const { job, placement: at } = current()
    const [normals] = await Promise.all([own.place.load(buffer, at, GAUGES, job.printer), own.scan.load(buffer)])
    goOn()
    model.value ??= { mesh, normals, buffer }
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
    state.busy = ''
    if (deaths.length > MOST_DEATHS || !store.job) {
      state.scanState = 'failed'
      state.scanProblem = 'The scan stopped working several times. The part may need more memory than this browser has. All your changes are kept; close other tabs and reload the page.'
      say(state.scanProblem)
      return
    }
    state.scanState = 'scanning'
    state.progress = 0
    try {
      const loaded = model.value
      const buffer = loaded?.buffer ?? (await api.mesh(store.job.id))
      await loadWorkers(loaded?.mesh ?? decodeMesh(buffer), buffer, () => {
        if (ticket !== newest) throw new Superseded()
      })
      say('The scan had stopped working and was started again. Nothing was lost.')
      await scanning.rescan()
    } catch (error) {
      if (error instanceof Superseded || error instanceof WorkerDied) return
      state.scanState = 'failed'
      state.scanProblem = (error as Error).message
      say(`The scan could not be started again: ${state.scanProblem}`)
    }
  }

  function place(next: Placement): void {
    placement.value = next
    state.placement = next
  }

  /** Brings the part to where the job says it stands. */
  function takePose(): void {
    const { job } = current()
    if (!model.value) return
    place(placementOf(model.value.mesh.positions, job.pose, job.printer.pixelMm))
    void workers.value?.place.setPlacement(current().placement).catch(() => undefined)
  }

  function watchJob(): void {
    stopWatching.push(
      watch(() => store.job, (job, before) => {
        if (!job || !before || !model.value) return
        if (!samePose(job.pose, before.pose)) takePose()
        if (job.nodes !== before.nodes) state.selectedStilts = state.selectedStilts.filter(id => store.stilts.some(s => s.id === id))
        if (!sameForScan(job, before)) void scanning.rescan()
      }),
      watch(() => state.playhead, () => void scanning.showLayer()),
      watch([() => state.finding, () => state.result?.stage], () => void scanning.showOutline()),
    )
  }

  function close(): void {
    newest++
    for (const stop of stopWatching.splice(0)) stop()
    workers.value?.end()
    workers.value = null
    holding.giveUp()
    void store.close()
  }

  /** Ends whatever is under way. */
  function cancel(): void {
    if (!holding.cancelHold()) scanning.cancel()
  }

  const { rescan, contourAt } = scanning
  return { model, placement, picture, outline, flyTo, whyNotHeld, workers: () => current().workers, open, close, say, rescan, cancel, contourAt, holdAll: holding.holdAll, holdOne: holding.holdOne, ...editing, ...walking, ...files, ...keeping }
}
