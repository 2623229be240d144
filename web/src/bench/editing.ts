import type { ScanSettings, Waiver } from '@oak-stilts/core/contract'
import type { Vec3 } from '@oak-stilts/core/mesh'
import { placementOf, unplacePoint, type Pose } from '@oak-stilts/core/pose'
import type { Stilt, StiltSizes } from '@oak-stilts/core/stilts'
import { knownAt, type Finding } from '../stores/findings'
import { stiltsEdit } from '../stores/job'
import { samePose, type BenchContext } from './context'

/** Everything a person changes on the job: pose, stilts, limits, waivers. Each change is one step of undo. */
export function createEditing({ store, state, model, current, say }: BenchContext) {
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

  // each nudge goes on from the one before, however fast they are pressed
  let nudges: Promise<void> = Promise.resolve()
  /** Moves the tip of the one selected stilt along the surface, by a vector in mm. */
  function nudge(by: Vec3): Promise<void> {
    nudges = nudges.then(() => nudgeNow(by)).catch((error: unknown) => say(`The tip could not be moved: ${(error as Error).message}`))
    return nudges
  }
  async function nudgeNow(by: Vec3): Promise<void> {
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

  function setSettings(settings: ScanSettings): void {
    store.apply({ label: 'change scan settings', settings })
  }

  /** Leaves a finding as it is, for a reason; its state follows at once. */
  function waive(finding: Finding, reason: string): void {
    if (finding.kind === 'lost' || !reason.trim()) return
    const [x, y, z] = knownAt(finding)
    const at = unplacePoint(current().placement, [x, y, z])
    const waiver: Waiver = { id: crypto.randomUUID(), kind: finding.kind, at: [at[0], at[1], at[2]], reason: reason.trim() }
    store.apply({ label: 'waive', putWaivers: [waiver] })
    say(`Waived: ${reason.trim()}`)
  }
  function takeBackWaiver(finding: Finding): void {
    if (finding.waiver) store.apply({ label: 'take back a waiver', dropWaivers: [finding.waiver.id] })
  }

  return { setPose, settlePose, putStilts, nudge, resize, regauge, remove, setSettings, waive, takeBackWaiver }
}

/** An angle within ±180°, to a thousandth. */
function wrap(degrees: number): number {
  const r = ((((degrees + 180) % 360) + 360) % 360) - 180
  return Math.round((r === -180 ? 180 : r) * 1000) / 1000
}

