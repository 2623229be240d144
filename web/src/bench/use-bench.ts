import { inject, provide, watch, type InjectionKey } from 'vue'
import { decodeMesh } from '@oak-stilts/core/mesh'
import { placementOf, type Placement } from '@oak-stilts/core/pose'
import { GAUGES } from '@oak-stilts/core/stilts'
import { api } from '../api/client'
import { startWorkers } from '../workers/clients'
import { createContext, sameForScan, samePose } from './context'
import { createEditing } from './editing'
import { createFiles } from './files'
import { createHolding } from './holding'
import { createScanning } from './scanning'
import { createWalking } from './walking'

/** What the bench's components share: the model, its workers, and everything that can be done to the job. */
export type Bench = ReturnType<typeof createBench>

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
  const stopWatching: (() => void)[] = []

  async function open(id: string): Promise<void> {
    state.reset()
    model.value = null
    picture.value = null
    context.notHeld.value = []
    const job = await store.open(id)
    const own = startWorkers()
    workers.value = own
    const buffer = await api.mesh(id)
    const mesh = decodeMesh(buffer)
    place(placementOf(mesh.positions, job.pose, job.printer.pixelMm))
    const [normals] = await Promise.all([own.place.load(buffer, current().placement, GAUGES, job.printer), own.scan.load(buffer)])
    model.value = { mesh, normals }
    watchJob()
    if (store.recovered === 'sent') say('Changes of your last visit that had not reached the server were sent now.')
    if (store.recovered === 'lost') say('The job was changed elsewhere since; changes of your last visit could not be kept.')
    await scanning.rescan()
  }

  function place(next: Placement): void {
    placement.value = next
    state.placement = next
  }

  function watchJob(): void {
    stopWatching.push(
      watch(() => store.job, (job, before) => {
        if (!job || !before || !model.value) return
        if (!samePose(job.pose, before.pose)) {
          place(placementOf(model.value.mesh.positions, job.pose, job.printer.pixelMm))
          void workers.value?.place.setPlacement(current().placement)
        }
        if (job.nodes !== before.nodes) state.selectedStilts = state.selectedStilts.filter(id => store.stilts.some(s => s.id === id))
        if (!sameForScan(job, before)) void scanning.rescan()
      }),
      watch(() => state.playhead, () => void scanning.showLayer()),
      watch([() => state.finding, () => state.result?.stage], () => void scanning.showOutline()),
    )
  }

  function close(): void {
    for (const stop of stopWatching.splice(0)) stop()
    workers.value?.end()
    workers.value = null
    store.close()
  }

  const { rescan, cancel, contourAt } = scanning
  return { model, placement, picture, outline, flyTo, whyNotHeld, workers: () => current().workers, open, close, say, rescan, cancel, contourAt, holdAll: holding.holdAll, holdOne: holding.holdOne, ...editing, ...walking, ...files }
}
