import { proxy } from 'comlink'
import { inject, provide, shallowRef, watch, type InjectionKey, type ShallowRef } from 'vue'
import { PLAN_FORMAT, PlanFileSchema, type Job, type PlanFile, type ScanSettings, type Waiver } from '@oak-stilts/core/contract'
import { decodeMesh, type Mesh, type Vec3 } from '@oak-stilts/core/mesh'
import { placementOf, unplacePoint, type Placement, type Pose } from '@oak-stilts/core/pose'
import { signalsCsv, type LayerPicture, type ScanResult, type Vent } from '@oak-stilts/core/scan'
import { GAUGES, stiltsOfGraph, type Stilt, type StiltSizes } from '@oak-stilts/core/stilts'
import { api } from '../api/client'
import { useBenchStore } from '../stores/bench'
import type { Finding } from '../stores/findings'
import type { FirstLook } from '../workers/scan.worker'
import { stiltsEdit, useJobStore } from '../stores/job'
import { startWorkers, type Workers } from '../workers/clients'

export interface LoadedModel {
  readonly mesh: Mesh
  readonly normals: Float32Array
}

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
  const store = useJobStore()
  const state = useBenchStore()
  let workers: Workers | null = null
  const model: ShallowRef<LoadedModel | null> = shallowRef(null)
  const placement: ShallowRef<Placement | null> = shallowRef(null)
  const picture: ShallowRef<LayerPicture | null> = shallowRef(null)
  /** Where the selected finding hangs: line segments in build coordinates. */
  const outline: ShallowRef<Float32Array | null> = shallowRef(null)
  /** Set by the stage: brings a point into view. */
  const flyTo: ShallowRef<((at: Vec3, from: Vec3, distanceMm: number) => void) | null> = shallowRef(null)
  const stopWatching: (() => void)[] = []

  const raster = (job: Job): { pixelMm: number; layerMm: number } => ({ pixelMm: job.printer.pixelMm, layerMm: job.printer.layerMm })
  const say = (sentence: string): void => {
    state.message = sentence
  }
  /** The bench's own job and workers; everything below is only called while they are there. */
  const current = (): { job: Job; workers: Workers; placement: Placement } => {
    if (!store.job || !workers || !placement.value) throw new Error('No job is open.')
    return { job: store.job, workers, placement: placement.value }
  }

  async function open(id: string): Promise<void> {
    state.reset()
    model.value = null
    picture.value = null
    const job = await store.open(id)
    workers = startWorkers()
    const buffer = await api.mesh(id)
    const mesh = decodeMesh(buffer)
    place(placementOf(mesh.positions, job.pose, job.printer.pixelMm))
    const [normals] = await Promise.all([workers.place.load(buffer, current().placement, GAUGES, job.printer), workers.scan.load(buffer)])
    model.value = { mesh, normals }
    watchJob()
    if (store.recovered === 'sent') say('Changes of your last visit that had not reached the server were sent now.')
    if (store.recovered === 'lost') say('The job was changed elsewhere since; changes of your last visit could not be kept.')
    await rescan()
  }

  function place(next: Placement): void {
    placement.value = next
    state.placement = next
  }

  function watchJob(): void {
    stopWatching.push(
      watch(() => store.job?.pose, (pose, before) => {
        if (!pose || !model.value || !store.job || samePose(pose, before)) return
        place(placementOf(model.value.mesh.positions, pose, store.job.printer.pixelMm))
        void workers?.place.setPlacement(current().placement)
        void rescan()
      }),
      watch(() => store.stilts, () => {
        state.selectedStilts = state.selectedStilts.filter(id => store.stilts.some(s => s.id === id))
        void rescan()
      }),
      watch(() => store.job?.settings, (now, before) => {
        if (now && before && JSON.stringify(now) !== JSON.stringify(before)) void rescan()
      }),
      watch(() => state.playhead, () => void showLayer()),
      watch([() => state.finding, () => state.result?.stage], () => void showOutline()),
    )
  }

  function close(): void {
    for (const stop of stopWatching.splice(0)) stop()
    workers?.end()
    workers = null
    store.close()
  }

  // Scans that follow each other at once are one; the newest request always wins.
  let asked = false
  async function rescan(): Promise<void> {
    state.scanState = 'scanning'
    state.progress = 0
    if (asked || holding) return
    asked = true
    await Promise.resolve()
    asked = false
    if (!store.job || !workers || !placement.value) return
    const { job } = current()
    const ticket = job
    const wasEmpty = state.result === null
    try {
      let fresh = true
      const isCurrent = (): boolean => fresh && store.job?.pose === ticket.pose && store.job.nodes === ticket.nodes && store.job.settings === ticket.settings
      const take = (result: ScanResult): void => {
        const atTop = wasEmpty || state.playhead >= state.layerCount - 1
        state.result = result
        state.setPlayhead(atTop ? state.layerCount - 1 : state.playhead)
      }
      const result = await workers.scan.scan(raster(job), placement.value, job.settings, store.stilts, proxy({
        progress: (stage: string, done: number, total: number) => {
          if (!isCurrent()) return
          state.stage = stage
          state.progress = done / Math.max(1, total)
        },
        firstLook: (look: FirstLook) => {
          if (isCurrent()) state.firstLook = look
        },
        found: (result: ScanResult) => {
          // while the layers are still being made, a whole result of before says more than a part of the new one
          if (isCurrent() && (result.stage !== 'layers' || wasEmpty)) take(result)
        },
      }))
      if (!result || !isCurrent()) return
      fresh = false
      take(result)
      state.firstLook = null
      state.scanState = 'fresh'
      state.progress = 1
      if (state.selectedFinding && !state.finding) state.selectedFinding = null
      await Promise.all([showLayer(), showOutline()])
    } catch (error) {
      state.scanState = 'failed'
      say(`The scan failed: ${(error as Error).message}`)
    }
  }

  async function cancel(): Promise<void> {
    await workers?.scan.cancel()
    state.busy = ''
    if (state.scanState === 'scanning') {
      state.scanState = 'cancelled'
      say('The scan was cancelled; what is shown is from before.')
    }
  }

  let pictureAsked = 0
  async function showLayer(): Promise<void> {
    if (!workers || !state.result) return
    const ticket = ++pictureAsked
    const next = await workers.scan.picture(state.playhead)
    if (ticket === pictureAsked) picture.value = next
  }

  let outlineAsked = 0
  /** Draws what hangs of the selected finding on the model. */
  async function showOutline(): Promise<void> {
    const ticket = ++outlineAsked
    const f = state.finding
    if (f?.cup?.vent) {
      outline.value = ventLines(f.cup.vent)
      return
    }
    const labels = f?.ledge?.hanging ?? (f?.state === 'partly' ? f.island?.hanging : undefined) ?? []
    const island = f?.island && labels.length === 0 ? { layer: f.island.layer, component: f.island.component } : null
    const next = workers && f && (labels.length > 0 || island) ? await workers.scan.outline([...labels], island) : null
    if (ticket === outlineAsked) outline.value = next
  }

  let contourAsked = false
  /** The outline of a layer around the model, for the pointer; null where one is under way already. */
  async function contourAt(layer: number): Promise<Float32Array | null> {
    if (!workers || contourAsked) return null
    contourAsked = true
    try {
      return await workers.scan.contour(layer)
    } finally {
      contourAsked = false
    }
  }

  function setSettings(settings: ScanSettings): void {
    store.apply({ label: 'change scan settings', settings })
  }

  /** Leaves a finding as it is, for a reason; its state follows at once. */
  function waive(finding: Finding, reason: string): void {
    if (finding.kind === 'lost' || !reason.trim()) return
    const at = unplacePoint(current().placement, [finding.at[0], finding.at[1], finding.at[2]])
    const waiver: Waiver = { id: crypto.randomUUID(), kind: finding.kind, at: [at[0], at[1], at[2]], reason: reason.trim() }
    store.apply({ label: 'waive', putWaivers: [waiver] })
    say(`Waived: ${reason.trim()}`)
  }
  function takeBackWaiver(finding: Finding): void {
    if (finding.waiver) store.apply({ label: 'take back a waiver', dropWaivers: [finding.waiver.id] })
  }

  function exportSignals(): void {
    const r = state.result
    if (!r) return
    download(new Blob([signalsCsv(r.signals, r.layerMm)], { type: 'text/csv' }), `${store.job?.name ?? 'model'} - layers.csv`)
    say(`Written: ${r.signals.areaMm2.length.toLocaleString('en')} layers.`)
  }

  /** A pose that seats all stilts anew, as one step that undo takes back whole. */
  async function setPose(pose: Pose, label: string): Promise<void> {
    const { job, workers: w } = current()
    const next: Pose = { tiltXDeg: wrap(pose.tiltXDeg), tiltYDeg: wrap(pose.tiltYDeg), turnDeg: wrap(pose.turnDeg), liftMm: Math.max(0, Math.min(200, pose.liftMm)) }
    if (samePose(next, job.pose) || !model.value) return
    const stilts = store.stilts
    if (stilts.length === 0) {
      store.apply({ label, pose: next, poseSettled: true })
      return
    }
    state.busy = stilts.length === 1 ? 'Seating the stilt anew' : `Seating ${stilts.length} stilts anew`
    let seated
    try {
      seated = await w.place.reseat(placementOf(model.value.mesh.positions, next, job.printer.pixelMm), stilts)
    } finally {
      state.busy = ''
    }
    if (!store.job) return
    store.apply({ ...stiltsEdit(store.job, label, seated.stilts), pose: next, poseSettled: true })
    say(seated.lost.length === 0 ? (stilts.length === 1 ? 'The stilt was seated anew.' : `All ${stilts.length} stilts were seated anew.`) : `${stilts.length - seated.lost.length} stilts were seated anew; ${seated.lost.length} found no way down and are listed.`)
  }

  function settlePose(liftMm: number): void {
    const job = store.job
    if (job) store.apply({ label: liftMm === 0 ? 'keep on the plate' : 'lift', pose: { ...job.pose, liftMm }, poseSettled: true })
  }

  function putStilts(label: string, put: readonly Stilt[], drop: readonly number[] = []): void {
    if (store.job) store.apply(stiltsEdit(store.job, label, put, drop))
  }

  let holding = false
  /** Places stilts under all open islands, or under those given. */
  async function hold(only: number[] | null, ledges = false): Promise<void> {
    if (holding) return
    const { job, workers: w, placement: p } = current()
    if (only === null && state.scanState === 'fresh' && state.openIslands.length + (ledges ? state.openLedges.length : 0) === 0) {
      say(ledges ? 'Nothing hangs that a stilt could hold.' : 'No island is open.')
      return
    }
    holding = true
    state.busy = 'Placing stilts'
    try {
      const answer = await w.scan.hold(raster(job), p, job.settings, store.stilts, GAUGES, job.printer, { only, ledges }, proxy((sentence: string) => {
        if (holding) state.busy = sentence
      }))
      holding = false
      state.busy = ''
      if (!answer) {
        say('Holding was cancelled; nothing was placed.')
        void rescan()
        return
      }
      notHeld.value = new Map(answer.notHeld.map(n => [n.island, n.reason]))
      if (answer.added.length > 0) putStilts(only ? 'hold this finding' : ledges ? 'hold islands and ledges' : 'hold open islands', answer.added)
      const missed = answer.notHeld.length
      const placed = answer.added.length === 1 ? '1 stilt was placed' : `${answer.added.length} stilts were placed`
      say(missed === 0 ? `${placed}.` : `${placed}. ${missed} ${missed === 1 ? 'island' : 'islands'} could not be held: ${answer.notHeld[0].reason}`)
      if (answer.added.length === 0) void rescan()
    } catch (error) {
      holding = false
      state.busy = ''
      say(`Holding failed: ${(error as Error).message}`)
    }
  }
  /** Why islands could not be held, by island. */
  const notHeld: ShallowRef<ReadonlyMap<number, string>> = shallowRef(new Map())

  function replace(label: string, edited: { ok: true; stilt: Stilt } | { ok: false; reason: string } | null): boolean {
    if (!edited) {
      say('There is no surface within a millimetre of there.')
      return false
    }
    if (!edited.ok) {
      say(edited.reason)
      return false
    }
    putStilts(label, [edited.stilt])
    return true
  }

  /** Moves the tip of the one selected stilt along the surface, by a vector in mm. */
  async function nudge(by: Vec3): Promise<void> {
    const stilt = store.stilts.find(s => s.id === state.selectedStilts[0])
    if (!stilt || state.selectedStilts.length !== 1) return
    const [x, y, z] = stilt.path[0]
    replace('nudge tip', await current().workers.place.moveTipNear(stilt, [x + by[0], y + by[1], z + by[2]]))
  }

  async function resize(stilts: readonly Stilt[], changes: Partial<StiltSizes>, label: string): Promise<void> {
    const { workers: w } = current()
    const results = await Promise.all(stilts.map(s => w.place.resize(s, changes)))
    const fine = results.filter(r => r.ok).map(r => (r as { stilt: Stilt }).stilt)
    if (fine.length > 0) putStilts(label, fine)
    const bad = results.find(r => !r.ok)
    if (bad && !bad.ok) say(bad.reason)
  }

  async function regauge(gauge: string): Promise<void> {
    const chosen = store.stilts.filter(s => state.selectedStilts.includes(s.id))
    if (chosen.length === 0) return
    const results = await current().workers.place.regauge(chosen, gauge)
    const fine = results.filter(r => r.ok).map(r => (r as { stilt: Stilt }).stilt)
    if (fine.length > 0) putStilts('change gauge', fine)
    const missed = results.length - fine.length
    say(missed === 0 ? `${fine.length === 1 ? '1 stilt has' : `${fine.length} stilts have`} the ${gauge} gauge now.` : `${missed} of ${results.length} stilts have no room for the ${gauge} gauge and stay as they are.`)
  }

  function remove(): void {
    if (state.selectedStilts.length === 0) return
    putStilts(state.selectedStilts.length === 1 ? 'delete stilt' : `delete ${state.selectedStilts.length} stilts`, [], state.selectedStilts)
    state.selectedStilts = []
  }

  async function goTo(finding: Finding): Promise<void> {
    state.selectedFinding = finding.key
    state.selectedStilts = finding.stilt ? [finding.stilt] : []
    state.setPlayhead(finding.layer)
    const at: Vec3 = [finding.at[0], finding.at[1], finding.at[2]]
    state.marks = true
    if (finding.kind === 'cup' || finding.kind === 'sealed' || finding.kind === 'pool') {
      // the space is inside: cut the print off at its widest layer and look down into it
      state.cut = 'above'
      state.setPlayhead(finding.cup?.peakLayer ?? finding.lastLayer)
      flyTo.value?.(at, [0.45, -0.75, 0.75], 90)
      return
    }
    state.cut = 'none'
    const from = await current().workers.place.viewFrom(at)
    flyTo.value?.(at, [from[0], from[1], from[2]], finding.island && finding.island.class !== 'limb' && finding.island.class !== 'body' ? 32 : 60)
  }

  function step(by: 1 | -1): void {
    const list = state.shown
    if (list.length === 0) return
    const index = list.findIndex(f => f.key === state.selectedFinding)
    const next = index < 0 ? (by > 0 ? 0 : list.length - 1) : (index + by + list.length) % list.length
    void goTo(list[next])
  }

  async function exportFile(kind: 'stl' | 'stilts' | '3mf' | 'plan'): Promise<void> {
    const { job, workers: w } = current()
    const base = job.name.replace(/[^\p{L}\p{N} _-]/gu, '').trim() || 'model'
    if (kind === 'plan') {
      const plan: PlanFile = { format: PLAN_FORMAT, version: 1, pose: job.pose, nodes: job.nodes, beams: job.beams }
      download(new Blob([JSON.stringify(plan)], { type: 'application/json' }), `${base} - plan.json`)
      return
    }
    if (kind === 'stilts' && store.stilts.every(s => s.foot === 'none')) {
      say('There are no stilts to export yet.')
      return
    }
    state.busy = 'Writing the file'
    const bytes = await w.place.exportFile(kind, store.stilts, base)
    state.busy = ''
    const type = kind === '3mf' ? 'model/3mf' : 'model/stl'
    download(new Blob([bytes as BlobPart], { type }), kind === '3mf' ? `${base}.3mf` : kind === 'stilts' ? `${base} - stilts.stl` : `${base} - supported.stl`)
    const open = state.worklist.open
    say(open > 0 ? `Written, with ${open} ${open === 1 ? 'finding' : 'findings'} still open.` : 'Written. Nothing is open.')
  }

  async function readPlan(file: File): Promise<void> {
    const job = store.job
    if (!job) return
    let parsed
    try {
      parsed = PlanFileSchema.safeParse(JSON.parse(await file.text()))
    } catch {
      say(`${file.name} is not a plan: it is no JSON. Choose a plan that was exported here.`)
      return
    }
    if (!parsed.success) {
      say(`${file.name} is not a plan of stilts: ${parsed.error.issues[0].path.join('.') || 'its form'} is wrong. Choose a plan that was exported here.`)
      return
    }
    const { stilts, broken } = stiltsOfGraph(parsed.data)
    const drop = store.stilts.map(s => s.id).filter(id => !stilts.some(s => s.id === id))
    const pose = parsed.data.pose ?? job.pose
    store.apply({ ...stiltsEdit(job, 'load a plan', stilts, drop), ...(!samePose(pose, job.pose) && { pose }), poseSettled: true })
    say(`${stilts.length} stilts were loaded${broken ? `; ${broken} were incomplete and left out` : ''}.`)
  }

  return {
    model, placement, picture, outline, flyTo, notHeld,
    workers: () => current().workers,
    open, close, rescan, cancel, setPose, settlePose, putStilts, hold, nudge, resize, regauge, remove, goTo, step, exportFile, exportSignals, readPlan, say, contourAt, setSettings, waive, takeBackWaiver,
  }
}

/** A proposed vent as lines: its axis through the wall and out, and a ring on the inner side. */
function ventLines({ at, direction: d, wallMm }: Vent): Float32Array {
  const out: number[] = []
  const side: Vec3 = Math.abs(d[2]) > 0.5 ? [1, 0, 0] : [-d[1], d[0], 0], up: Vec3 = Math.abs(d[2]) > 0.5 ? [0, 1, 0] : [0, 0, 1]
  const to = (along: number, s: number, u: number): number[] => [0, 1, 2].map(i => at[i] + d[i] * along + side[i] * s + up[i] * u)
  out.push(...to(-1, 0, 0), ...to(wallMm + 6, 0, 0), ...to(wallMm + 6, 0, 0), ...to(wallMm + 4.4, 0.8, 0), ...to(wallMm + 6, 0, 0), ...to(wallMm + 4.4, -0.8, 0))
  for (const along of [0, wallMm]) {
    for (let i = 0; i < 24; i++) {
      const a = (i * Math.PI) / 12, b = ((i + 1) * Math.PI) / 12
      out.push(...to(along, Math.cos(a) * 0.8, Math.sin(a) * 0.8), ...to(along, Math.cos(b) * 0.8, Math.sin(b) * 0.8))
    }
  }
  return Float32Array.from(out)
}

function samePose(a: Pose, b: Pose | undefined): boolean {
  return !!b && a.tiltXDeg === b.tiltXDeg && a.tiltYDeg === b.tiltYDeg && a.turnDeg === b.turnDeg && a.liftMm === b.liftMm
}

/** An angle within ±180°, to a thousandth. */
function wrap(degrees: number): number {
  const r = ((((degrees + 180) % 360) + 360) % 360) - 180
  return Math.round((r === -180 ? 180 : r) * 1000) / 1000
}

function download(blob: Blob, name: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(blob)
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 10000)
}
