import type { ScanSettings, Waiver } from '@oak-stilts/core/contract'
import type { Vec3 } from '@oak-stilts/core/mesh'
import { placementOf, unplacePoint, type Pose } from '@oak-stilts/core/pose'
import type { Stilt, StiltSizes } from '@oak-stilts/core/stilts'
import { knownAt, type Finding } from '../stores/findings'
import { stiltsEdit } from '../stores/job'
import { samePose, type BenchContext } from './context'

/** Everything a person changes on the job: pose, stilts, limits, waivers. Each change is one step of undo. */
export function createEditing({ store, state, model, current, say }: BenchContext) {
  // changes of the pose follow each other: each goes on from what the one before left
  let poses: Promise<void> = Promise.resolve()
  let asked = 0
  /** Changes the pose and seats all stilts anew, as one step that undo takes back whole. */
  function setPose(change: Partial<Pose>, label: string): Promise<void> {
    asked++
    state.posing = { ...state.posing, ...change }
    poses = poses.then(() => setPoseNow(change, label)).catch((error: unknown) => {
      state.busy = ''
      say(`The part could not be posed: ${(error as Error).message}`)
    }).finally(() => {
      if (--asked === 0) state.posing = {}
    })
    return poses
  }
  async function setPoseNow(change: Partial<Pose>, label: string): Promise<void> {
    const { job, workers: w } = current()
    const pose = { ...job.pose, ...change }
    const next: Pose = { tiltXDeg: wrap(pose.tiltXDeg), tiltYDeg: wrap(pose.tiltYDeg), turnDeg: wrap(pose.turnDeg), liftMm: Math.max(0, Math.min(200, pose.liftMm)) }
    if (samePose(next, job.pose) || !model.value) return
    const placement = placementOf(model.value.mesh.positions, next, job.printer.pixelMm)
    const seated = new Map<number, { from: Stilt; to: Stilt; lost: boolean }>()
    try {
      // stilts that are placed or changed meanwhile are seated as well; those that are deleted stay away
      for (;;) {
        const waiting = store.stilts.filter(s => seated.get(s.id)?.from !== s)
        if (waiting.length === 0) break
        state.busy = waiting.length === 1 ? 'Seating the stilt anew' : `Seating ${waiting.length} stilts anew`
        const answer = await w.place.reseat(placement, waiting)
        const lost = new Set(answer.lost.map(l => l.id))
        answer.stilts.forEach((to, i) => seated.set(to.id, { from: waiting[i], to, lost: lost.has(to.id) }))
        if (!store.job || store.job.id !== job.id || !samePose(store.job.pose, job.pose)) break
      }
    } finally {
      state.busy = ''
    }
    if (!store.job || store.job.id !== job.id) return
    if (!samePose(store.job.pose, job.pose)) {
      // undone meanwhile, say: what was seated belongs to a pose that nobody asks for any more
      await w.place.setPlacement(current().placement)
      return
    }
    const all = store.stilts.flatMap(s => seated.get(s.id) ?? [])
    store.apply({ ...stiltsEdit(store.job, label, all.map(a => a.to)), pose: next, poseSettled: true })
    if (all.length === 0) return
    const lost = all.filter(a => a.lost).length
    say(lost === 0 ? (all.length === 1 ? 'The stilt was seated anew.' : `All ${all.length} stilts were seated anew.`) : `${all.length - lost} ${all.length - lost === 1 ? 'stilt was' : 'stilts were'} seated anew; ${lost} found no way down and ${lost === 1 ? 'is' : 'are'} listed.`)
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
    const edited = await current().workers.place.moveTipNear(stilt, [x + by[0], y + by[1], z + by[2]])
    if (store.stilts.includes(stilt)) replace('nudge tip', edited)
  }

  /** Those of some answers whose stilts are still as they were asked about. */
  function stillThere(asked: readonly Stilt[], results: readonly ({ ok: true; stilt: Stilt } | { ok: false; reason: string })[]): Stilt[] {
    const now = new Set(store.stilts)
    return results.flatMap((r, i) => (r.ok && now.has(asked[i]) ? [r.stilt] : []))
  }

  /** Changes sizes of stilts, of each by its place in the list. */
  async function resize(stilts: readonly Stilt[], changes: (index: number) => Partial<StiltSizes>, label: string): Promise<void> {
    const { workers: w } = current()
    const results = await Promise.all(stilts.map((s, i) => w.place.resize(s, changes(i))))
    const fine = stillThere(stilts, results)
    if (fine.length > 0) putStilts(label, fine)
    const bad = results.filter(r => !r.ok)
    if (bad.length > 0 && !bad[0].ok) say(bad.length === stilts.length || stilts.length === 1 ? bad[0].reason : `${bad.length} of ${stilts.length} stilts stay as they are: ${bad[0].reason}`)
  }

  async function regauge(gauge: string): Promise<void> {
    const chosen = store.stilts.filter(s => state.selectedStilts.includes(s.id))
    if (chosen.length === 0) return
    const results = await current().workers.place.regauge(chosen, gauge)
    const fine = stillThere(chosen, results)
    if (fine.length > 0) putStilts('change gauge', fine)
    const missed = results.filter(r => !r.ok).length
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

