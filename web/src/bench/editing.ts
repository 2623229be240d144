import { shallowRef, watch } from 'vue'
import { newId, WaivableKindSchema, type Change, type Gauge, type Part, type Recipe, type ScanSettings, type Tilt, type Waiver } from '@oak-stilts/core/contract'
import { decodeMesh, type Vec3 } from '@oak-stilts/core/mesh'
import { mirroredTilt, shapedSize, shapeOf, standOf, toSource, type Pose, type Stand, type Standing } from '@oak-stilts/core/pose'
import { isTied, mirroredNodes, type Edited, type FootSpread, type ReseatedTrees, type SharedOut, type Stilt, type StiltShape, type StiltSizes } from '@oak-stilts/core/stilts'
import { knownAt, type Finding } from '../findings'
import type { PlanEdit } from '../workers/plan-replica'
import { samePose, type BenchContext } from './context'
import { FinishCancelled, meshKeyOf } from './meshes'

/** What hangs together, seated anew; and which stilts that are. */
type Reseated = ReseatedTrees & { readonly of: readonly Stilt[] }
const isOf = (trees: Reseated | null, tied: readonly Stilt[]): boolean => (trees?.of.length ?? 0) === tied.length && tied.every((s, i) => s === trees?.of[i])

/** Sizes that a part may have, mm. */
const SMALLEST_MM = 0.01, LARGEST_MM = 2000
const CHANGED_MEANWHILE = 'The part was changed meanwhile, so this was not done. Try it again.'

/** What becomes of a recipe, or how that follows from what it is by then. */
export type RecipeChange = Partial<Recipe> | ((now: Recipe) => Partial<Recipe>)

/**
 * Everything a person changes on the job: pose, stilts, limits, waivers. Each change is one step of undo.
 * @param gaugeRows rows of gauges that the job is to keep with stilts of some
 */
export function createEditing({ store, state, model, plate, current, onBench, meshOf, say }: BenchContext, gaugeRows: (ids: Iterable<string>) => Gauge[] = () => []) {
  // changes of the pose follow each other: each goes on from what the one before left
  let poses: Promise<void> = Promise.resolve()
  let asked = 0
  /** Changes how the part stands: its tilt and lift, seating all stilts anew, or its turn, which carries them along. One step of undo. */
  function setPose(change: Partial<Pose>, label: string): Promise<void> {
    asked++
    state.posing = { ...state.posing, ...change }
    poses = poses.then(onBench).then(() => setPoseNow(change, label)).catch((error: unknown) => {
      state.busy = ''
      say(`The part could not be posed: ${(error as Error).message}`)
    }).finally(() => {
      if (--asked === 0) state.posing = {}
    })
    return poses
  }
  async function setPoseNow({ turnDeg, ...tilt }: Partial<Pose>, label: string): Promise<void> {
    const { job, part, raster, workers: w } = current(), { copy } = store
    const pose = { ...part.pose, ...tilt }
    const next: Tilt = { tiltXDeg: wrap(pose.tiltXDeg), tiltYDeg: wrap(pose.tiltYDeg), liftMm: Math.max(0, Math.min(200, pose.liftMm)), ...(pose.zero && { zero: pose.zero }) }
    const turned = copy && turnDeg !== undefined && wrap(turnDeg) !== copy.turnDeg ? [{ ...copy, turnDeg: wrap(turnDeg) }] : []
    if (samePose(next, part.pose)) {
      if (!part.poseSettled) store.apply({ label, put: { parts: [{ ...part, poseSettled: true }], ...(turned.length > 0 && { copies: turned }) } })
      else if (turned.length > 0) store.apply({ label, put: { copies: turned } })
      return
    }
    if (!model.value) return
    const stand = standOf(model.value.mesh.positions, next, raster.pixelMm)
    /** Whether it is still the same part, and stands as it stood. */
    const samePart = (): boolean => store.job?.id === job.id && store.part?.id === part.id
    const standsYet = (): boolean => samePart() && !!store.part && samePose(store.part.pose, part.pose)
    const seated = new Map<string, { stilt: Stilt; shape: StiltShape }>()
    let trees: Reseated | null = null
    try {
      // stilts that are placed or changed meanwhile are seated as well; those that are deleted stay away
      for (let first = true; ; first = false) {
        const waiting = store.stilts.filter(s => !isTied(s) && seated.get(s.id)?.stilt !== s), tied = store.stilts.filter(isTied), again = !isOf(trees, tied)
        if (waiting.length === 0 && !again) break
        const count = waiting.length + (again ? tied.length : 0)
        state.busy = count === 1 ? 'Seating the stilt anew' : `Seating ${count} stilts anew`
        if (first || waiting.length > 0) {
          const answer = await w.surface.reseat(stand, waiting)
          answer.forEach((shape, i) => seated.set(waiting[i].id, { stilt: waiting[i], shape }))
        }
        if (!standsYet()) break
        if (again) trees = tied.length === 0 ? null : { ...(await w.surface.reseatTrees(tied.map(s => s.id))), of: tied }
        if (!standsYet()) break
      }
    } finally {
      state.busy = ''
    }
    if (!samePart() || !store.part) return
    if (!standsYet()) {
      // undone meanwhile, say: what was seated belongs to a pose that nobody asks for any more
      await w.surface.setStand(current().stand)
      return
    }
    const all = store.stilts.flatMap(s => (isTied(s) ? [] : (seated.get(s.id) ?? [])))
    const { put, drop } = withTrees(store.stiltChange(label, { put: all }), trees)
    store.apply({ label, put: { ...put, parts: [{ ...store.part, pose: next, poseSettled: true }], ...(turned.length > 0 && { copies: turned }) }, drop })
    tellSeated(all, trees)
  }

  function withTrees({ label, put, drop }: Change, trees: Reseated | null): Change {
    if (!trees) return { label, put, drop }
    const { change } = trees
    return {
      label, put: { nodes: [...(put?.nodes ?? []), ...(change.put?.nodes ?? [])], beams: [...(put?.beams ?? []), ...(change.put?.beams ?? [])] },
      drop: { nodes: [...(drop?.nodes ?? []), ...(change.drop?.nodes ?? [])], beams: [...(drop?.beams ?? []), ...(change.drop?.beams ?? [])] },
    }
  }
  function tellSeated(alone: readonly { readonly shape: StiltShape }[], trees: Reseated | null): void {
    const count = alone.length + (trees?.of.length ?? 0), lost = alone.filter(a => a.shape.foot === 'lost').length + (trees?.lost ?? 0), gone = trees?.braces ?? 0
    if (count === 0) return
    const seated = lost === 0 ? (count === 1 ? 'The stilt was seated anew.' : `All ${count} stilts were seated anew.`) : `${count - lost} ${count - lost === 1 ? 'stilt was' : 'stilts were'} seated anew; ${lost} found no way down and ${lost === 1 ? 'is' : 'are'} listed.`
    say(gone === 0 ? seated : `${seated} ${gone === 1 ? '1 brace has' : `${gone} braces have`} no room any more and ${gone === 1 ? 'is' : 'are'} gone.`)
  }

  /** Makes the part another, once what was asked of it before is done. Where that fails it stays as it was, and the reason is said. */
  function inTurn(work: () => Promise<void>, failed: string): Promise<void> {
    poses = poses.then(onBench).then(work).catch((error: unknown) => {
      state.busy = ''
      say(error instanceof FinishCancelled ? 'Cancelled; the part stays as it was.' : `${failed}: ${(error as Error).message}`)
    })
    return poses
  }
  /** What became of stilts whose part was cut into, where any of them could not stay. */
  function tellKept({ anew, lost, braces }: Pick<SharedOut, 'anew' | 'lost' | 'braces'>): void {
    if (anew + lost + braces === 0) return
    say([...(anew > 0 ? [`${anew === 1 ? '1 stilt was' : `${anew} stilts were`} seated anew.`] : []), ...(lost > 0 ? [`${lost === 1 ? '1 stilt has' : `${lost} stilts have`} nothing to hold or to stand on any more and ${lost === 1 ? 'is' : 'are'} listed.`] : []), ...(braces > 0 ? [`${braces === 1 ? '1 brace has' : `${braces} braces have`} no room any more and ${braces === 1 ? 'is' : 'are'} gone.`] : [])].join(' '))
  }

  /** Changes what is made of the source before it is posed, seating all stilts anew. One step of undo. @param change told of the recipe as it is by then @param along other parts that follow, as they become */
  function setRecipe(change: RecipeChange, label: string, along: readonly Part[] = []): Promise<void> {
    return inTurn(() => setRecipeNow(change, label, along), 'The part could not be changed')
  }
  /** What stands under another part once that has become another, as rows. */
  async function seatedAlong(next: Part): Promise<Pick<Change, 'put' | 'drop'>> {
    const before = store.parts.find(p => p.id === next.id), { raster, workers: w } = current()
    if (!before || store.stiltsOf(next.id).length === 0) return {}
    const [old, buffer] = [await meshOf(before, true), await meshOf(next, true)], standing = (b: ArrayBuffer): Stand => standOf(decodeMesh(b).positions, next.pose, raster.pixelMm)
    return (await w.surface.shareOut([{ part: next.id, stand: standing(old) }], [{ part: next.id, buffer, place: { key: meshKeyOf(next), shape: shapeOf(next.recipe), stand: standing(buffer) }, plate: plate.value }], [])).change
  }
  async function setRecipeNow(change: RecipeChange, label: string, along: readonly Part[]): Promise<void> {
    const { part: before } = current(), next: Part = { ...before, recipe: { ...before.recipe, ...(typeof change === 'function' ? change(before.recipe) : change) }, sizeSettled: true }
    if (meshKeyOf(next) === meshKeyOf(before)) {
      // a step that is switched off was changed
      state.busy = ''
      if (JSON.stringify(next.recipe) !== JSON.stringify(before.recipe)) store.apply({ label, put: { parts: [next, ...along] } })
      return
    }
    const largest = Math.max(...shapedSize(before.source.summary.sizeMm, shapeOf(next.recipe)))
    if (largest > LARGEST_MM || largest < SMALLEST_MM) {
      say(`The part would be ${largest.toPrecision(3)} mm large. It can be ${SMALLEST_MM} to ${LARGEST_MM} mm; nothing was changed.`)
      return
    }
    const buffer = await meshOf(next, true), { positions } = decodeMesh(buffer), { part, raster, workers: w, stand: now } = current(), stilts = store.stilts
    state.busy = ''
    if (part !== before) {
      say(CHANGED_MEANWHILE)
      return
    }
    const shape = shapeOf(next.recipe), place: Standing & { readonly key: string } = { key: meshKeyOf(next), shape, stand: standOf(positions, part.pose, raster.pixelMm) }
    const alone = stilts.filter(s => !isTied(s)), sameShape = String(shape) === String(shapeOf(before.recipe))
    let seated: { stilt: Stilt; shape: StiltShape }[] = [], trees: Reseated | null = null, shared: SharedOut | null = null
    const others: Pick<Change, 'put' | 'drop'>[] = []
    try {
      for (const other of along) others.push(await seatedAlong(other))
      // under a part that is only cut into, what stands stays
      if (stilts.length > 0 && sameShape) shared = await w.surface.shareOut([{ part: part.id, stand: now }], [{ part: part.id, buffer, place, plate: plate.value }], [])
      else if (stilts.length > 0) {
        state.busy = stilts.length === 1 ? 'Seating the stilt anew' : `Seating ${stilts.length} stilts anew`
        seated = (await w.surface.reseatOn(buffer, place, alone)).map((s, i) => ({ stilt: alone[i], shape: s }))
        if (alone.length < stilts.length) trees = { ...(await w.surface.reseatTreesOn(buffer, place, stilts.filter(isTied).map(s => s.id))), of: stilts.filter(isTied) }
      }
    } finally {
      state.busy = ''
    }
    // what was changed meanwhile was not seated
    if (store.part !== part || store.stilts !== stilts) {
      say(CHANGED_MEANWHILE)
      return
    }
    const { put, drop } = shared?.change ?? withTrees(store.stiltChange(label, { put: seated }), trees), all = [{ put, drop }, ...others]
    store.apply({
      label, put: { ...put, nodes: all.flatMap(c => c.put?.nodes ?? []), beams: all.flatMap(c => c.put?.beams ?? []), parts: [next, ...along] },
      drop: { ...drop, nodes: all.flatMap(c => c.drop?.nodes ?? []), beams: all.flatMap(c => c.drop?.beams ?? []) },
    })
    if (!next.recipe.mended && before.recipe.mended) say('The mesh is scanned as it came. What is found near its faults is not to be trusted.')
    if (shared) tellKept(shared)
    else tellSeated(seated, trees)
  }

  /** The size is as it should be; it is not asked again. */
  function settleSize(): void {
    const { part } = store
    if (part) store.apply({ label: 'keep the size', put: { parts: [{ ...part, sizeSettled: true }] } })
  }

  /** Makes the part its own mirror image, left for right as it stands, its stilts along with it. One step of undo. */
  function mirror(): Promise<void> {
    poses = poses.then(onBench).then(mirrorNow).catch((error: unknown) => say(`The part could not be mirrored: ${(error as Error).message}`))
    return poses
  }
  async function mirrorNow(): Promise<void> {
    const { part: before } = current(), recipe: Recipe = { ...before.recipe, mirrored: !before.recipe.mirrored }, next: Part = { ...before, recipe, pose: mirroredTilt(before.pose) }
    const { positions } = decodeMesh(await meshOf(next)), { part, raster, stand } = current()
    if (part !== before) return
    const now: Standing = { shape: shapeOf(recipe), stand: standOf(positions, next.pose, raster.pixelMm) }
    const nodes = mirroredNodes([...store.plan().nodes.values()].filter(n => n.part === part.id), { shape: shapeOf(part.recipe), stand }, now)
    store.apply({ label: 'mirror', put: { parts: [next], nodes } })
    say(nodes.length > 0 ? 'Mirrored, left for right, with its stilts.' : 'Mirrored, left for right.')
  }

  /** Answers how a part that was made to stand is to stand. */
  function settlePose(liftMm: number): Promise<void> {
    return setPose({ liftMm }, liftMm === 0 ? 'keep on the plate' : 'lift')
  }

  /** A change along with the gauges that its stilts bring into the job. */
  function withGauges(change: Change, shapes: readonly StiltShape[]): Change {
    const gauges = gaugeRows(shapes.map(s => s.gauge))
    return gauges.length > 0 ? { ...change, put: { ...change.put, gauges } } : change
  }

  /** Adds stilts; gives them as they are in the plan now. */
  function addStilts(label: string, shapes: readonly StiltShape[]): Stilt[] {
    if (!store.job || shapes.length === 0) return []
    const known = new Set(store.stilts.map(s => s.id))
    store.apply(withGauges(store.stiltChange(label, { add: shapes }), shapes))
    return store.stilts.filter(s => !known.has(s.id))
  }

  /** Applies rows of stilts that a worker made, along with the gauges that they bring into the job. */
  function applyRows(label: string, { put, drop }: PlanEdit, gauges: readonly string[] = [], parts: readonly Part[] = []): void {
    const rows = gaugeRows(gauges)
    if (store.job) store.apply({ label, put: { nodes: [...put.nodes], beams: [...put.beams], ...(rows.length > 0 && { gauges: rows }), ...(parts.length > 0 && { parts: [...parts] }) }, drop: { nodes: [...drop.nodes], beams: [...drop.beams] } })
  }

  /** Gives stilts of the plan another shape. */
  function putStilts(label: string, put: readonly { stilt: Stilt; shape: StiltShape }[]): void {
    if (store.job && put.length > 0) store.apply(withGauges(store.stiltChange(label, { put }), put.map(p => p.shape)))
  }

  function replace(label: string, stilt: Stilt, edited: Edited | null): void {
    if (!edited) say('There is no surface within a millimetre of there.')
    else if (!edited.ok) say(edited.reason)
    else putStilts(label, [{ stilt, shape: edited.shape }])
  }

  // each nudge goes on from the one before, however fast they are pressed
  let nudges: Promise<void> = Promise.resolve()
  /** Moves the tip of the one selected stilt along the surface, by a vector in mm. */
  function nudge(by: Vec3): Promise<void> {
    nudges = nudges.then(() => nudgeNow(by)).catch((error: unknown) => say(`The tip could not be moved: ${(error as Error).message}`))
    return nudges
  }
  async function nudgeNow(by: Vec3): Promise<void> {
    const [stilt, another] = state.chosenStilts
    if (!stilt || another) return
    const [x, y, z] = stilt.path[0]
    const edited = await current().workers.surface.moveTipNear(stilt, [x + by[0], y + by[1], z + by[2]])
    if (store.stilts.includes(stilt)) replace('nudge tip', stilt, edited)
  }

  /** Those of some answers whose stilts are still as they were asked about. */
  function stillThere(asked: readonly Stilt[], results: readonly Edited[]): { stilt: Stilt; shape: StiltShape }[] {
    const now = new Set(store.stilts)
    return results.flatMap((r, i) => (r.ok && now.has(asked[i]) ? [{ stilt: asked[i], shape: r.shape }] : []))
  }

  /** Changes sizes of stilts, of each by its place in the list. @param ask whether it is asked before only some of them change */
  async function resize(stilts: readonly Stilt[], changes: (index: number) => Partial<StiltSizes>, label: string, ask = true): Promise<void> {
    const { workers: w } = current()
    putOrAsk(label, stilts, await Promise.all(stilts.map((s, i) => w.surface.resize(s, changes(i)))), () => undefined, ask)
  }

  /** Stands sticks on other points of the model, each by its place in the list. */
  async function spreadFeet(stilts: readonly Stilt[], changes: (index: number) => Partial<FootSpread>, label: string): Promise<void> {
    const { workers: w } = current()
    putOrAsk(label, stilts, await Promise.all(stilts.map((s, i) => w.surface.spreadStick(s, changes(i)))), () => undefined)
  }

  /** A change of several stilts that some of them cannot follow: how many can, why others cannot, and what does it. */
  const partly = shallowRef<{ readonly count: number; readonly of: number; readonly reason: string; readonly go: () => void } | null>(null)
  watch([() => store.stilts, () => state.selectedStilts], () => (partly.value = null))
  /** Puts what answers came, where all can follow; where only some can, it is asked first. */
  function putOrAsk(label: string, stilts: readonly Stilt[], results: readonly Edited[], said: (count: number) => void, ask = true): void {
    const fine = stillThere(stilts, results), missed = results.find(r => !r.ok)
    const go = (): void => {
      partly.value = null
      putStilts(label, fine)
      said(fine.length)
    }
    if (!missed || missed.ok || (!ask && fine.length > 0)) go()
    else if (fine.length === 0) say(missed.reason)
    else partly.value = { count: fine.length, of: stilts.length, reason: missed.reason, go }
  }

  async function regauge(gauge: string, name = gauge): Promise<void> {
    const chosen = state.chosenStilts
    if (chosen.length === 0) return
    putOrAsk('change gauge', chosen, await current().workers.surface.regauge(chosen, gauge), count => say(`${count === 1 ? '1 stilt has' : `${count} stilts have`} the ${name} gauge now.`))
  }

  /** Gives each of the selected stilts the gauge that comes after its own in the list, or before it. */
  async function regaugeBy(step: 1 | -1, gauges: readonly Gauge[]): Promise<void> {
    const chosen = state.chosenStilts, worker = current().workers.surface
    const results = await Promise.all(chosen.map(async (s): Promise<Edited> => {
      const next = gauges[gauges.findIndex(g => g.id === s.gauge) + step] as Gauge | undefined
      return next && gauges.some(g => g.id === s.gauge) ? (await worker.regauge([s], next.id))[0] : { ok: false, problem: 'blocked', reason: step > 0 ? 'There is no gauge after its own.' : 'There is no gauge before its own.' }
    }))
    putOrAsk(step > 0 ? 'take the next gauge' : 'take the gauge before', chosen, results, count => say(`${count === 1 ? '1 stilt has' : `${count} stilts have`} the ${step > 0 ? 'next gauge' : 'gauge before'} now.`))
  }

  function remove(): void {
    const drop = state.chosenStilts
    if (drop.length === 0) return
    store.apply(store.stiltChange(drop.length === 1 ? 'delete stilt' : `delete ${drop.length} stilts`, { drop }))
    state.selectedStilts = []
  }

  /** Stilts that no longer make sense as the part stands. */
  const lostOf = (ids: readonly string[] | null): Stilt[] => store.stilts.filter(s => s.foot === 'lost' && (ids === null || ids.includes(s.id)))
  /** Moves the tips of lost stilts to the nearest place where each can stand. @param ids which; all where it is null */
  async function reaim(ids: readonly string[] | null): Promise<void> {
    const stilts = lostOf(ids)
    if (stilts.length === 0) return
    state.busy = stilts.length === 1 ? 'Looking for a place for the stilt' : `Looking for places for ${stilts.length} stilts`
    try {
      const results = await current().workers.surface.reaim(stilts), fine = stillThere(stilts, results), missed = results.find(r => !r.ok)
      if (fine.length > 0) putStilts(fine.length === 1 ? 're-aim a stilt' : `re-aim ${fine.length} stilts`, fine)
      const left = stilts.length - fine.length, done = fine.length === 1 ? '1 stilt was re-aimed' : `${fine.length} stilts were re-aimed`
      say(left === 0 ? `${done}.` : fine.length === 0 && missed && !missed.ok ? missed.reason : `${done}; ${left} found no place and ${left === 1 ? 'is' : 'are'} still listed.`)
    } catch (error) {
      say(`It could not be re-aimed: ${(error as Error).message}`)
    } finally {
      state.busy = ''
    }
  }
  /** Deletes lost stilts. @param ids which; all where it is null */
  function removeLost(ids: readonly string[] | null): void {
    const drop = lostOf(ids)
    if (drop.length === 0) return
    store.apply(store.stiltChange(drop.length === 1 ? 'delete a lost stilt' : `delete ${drop.length} lost stilts`, { drop }))
    say(drop.length === 1 ? 'The stilt was deleted.' : `${drop.length} stilts were deleted.`)
  }

  function setSettings(settings: ScanSettings): void {
    store.apply({ label: 'change scan settings', set: { settings } })
  }

  /** Leaves a finding as it is, for a reason; its state follows at once. */
  function waive(finding: Finding, reason: string): void {
    const kind = WaivableKindSchema.safeParse(finding.kind)
    if (!kind.success || !reason.trim()) return
    const [x, y, z] = knownAt(finding)
    const { part, stand } = current(), at = toSource({ shape: shapeOf(part.recipe), stand }, [x, y, z])
    const waiver: Waiver = { id: newId(), part: part.id, kind: kind.data, at: [at[0], at[1], at[2]], reason: reason.trim() }
    store.apply({ label: 'waive', put: { waivers: [waiver] } })
    say(`Waived: ${reason.trim()}`)
  }
  function takeBackWaiver(finding: Finding): void {
    if (finding.waiver) store.apply({ label: 'take back a waiver', drop: { waivers: [finding.waiver.id] } })
  }

  return { inTurn, setPose, setRecipe, settleSize, mirror, settlePose, addStilts, putStilts, applyRows, nudge, resize, spreadFeet, partly, regauge, regaugeBy, remove, reaim, removeLost, setSettings, waive, takeBackWaiver }
}

/** An angle within ±180°, to a thousandth. */
function wrap(degrees: number): number {
  const r = ((((degrees + 180) % 360) + 360) % 360) - 180
  return Math.round((r === -180 ? 180 : r) * 1000) / 1000
}
