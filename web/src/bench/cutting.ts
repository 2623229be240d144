import { computed, shallowRef, watch } from 'vue'
import { newId, type Copy, type CutStep, type Part, type Recipe, type SourcePoint, type StandPoint } from '@oak-stilts/core/contract'
import { leaned, leansOf, planeThrough, type Plane } from '@oak-stilts/core/carve'
import { directionOf, partPoint, planeOf, stepPoint } from '@oak-stilts/core/finish'
import { centerOf, decodeMesh, dot, scale, sizeOf, volumeOf, type Mesh, type Vec3 } from '@oak-stilts/core/mesh'
import { movedBounds, moveDirection, moveDirectionBack, movePoint, movePointBack, shapeOf, shiftOf, standOf, type Stand } from '@oak-stilts/core/pose'
import { freePlace } from '@oak-stilts/core/plate'
import type { CutLook, FinishWorker, PegsWanted } from '../workers/finish.worker'
import type { Supervised } from '../workers/supervised'
import type { PartHost } from '../workers/surface.worker'
import { latestOnly } from '../stage/latest-only'
import type { BenchContext } from './context'
import type { createEditing } from './editing'
import { meshKeyOf, startFinisher } from './meshes'

/** A plane that is being set, as the part stands: leaned from level about x and y, so far from the middle of the plate. */
export interface CutDraft {
  readonly leanXDeg: number
  readonly leanYDeg: number
  readonly distanceMm: number
  /** Points in the pieces that are left whole, in the stand. */
  readonly whole: readonly Vec3[]
  readonly pegs: PegsWanted
  /** The cut that is set anew; null for a new one. */
  readonly of: CutStep | null
}
/** What a draft comes to, in the stand. */
export type CutSeen = CutLook & { readonly areaMm2: number }

const USUAL_PEGS: PegsWanted = { shape: 'keyed', diameterMm: 3, endDiameterMm: 2.6, depthMm: 3, clearanceMm: 0.15, wallMm: 0.8, count: 0, at: null }
/** Letters of a name that are kept when more is said. */
const NAME_ROOM = 105

/** Cuts of the part: set, tried, made, set anew, joined again. Each is one step of undo. @param look brings up to date what stands where on the plate */
export function createCutting({ store, state, model, stand, plate, current, meshOf, say }: BenchContext, { inTurn }: Pick<ReturnType<typeof createEditing>, 'inTurn'>, look: () => Promise<void>) {
  const draft = shallowRef<CutDraft | null>(null), seen = shallowRef<CutSeen | null>(null)
  /** The part before the cut that is set anew; null for a new one. */
  const before = shallowRef<Mesh | null>(null)
  /** The piece that is pointed at in the list; −1 for none. */
  const lit = shallowRef(-1)
  /** Why the part cannot be cut at all; empty where it can. */
  const problem = shallowRef('')
  const cuts = computed(() => store.part?.recipe.cuts ?? [])
  let worker: Supervised<FinishWorker> | null = null, tried: Promise<unknown> | null = null, newest = 0

  const planeOfDraft = ({ leanXDeg, leanYDeg, distanceMm }: CutDraft): Plane => ({ normal: leaned(leanXDeg, leanYDeg), offsetMm: distanceMm })
  /** The plane of a draft, in the stand. */
  const plane = computed<Plane | null>(() => (draft.value ? planeOfDraft(draft.value) : null))
  // asked once while a plane is set: only whether one is counts
  const setting = computed(() => draft.value !== null)
  const box = computed(() => (setting.value && model.value && stand.value ? movedBounds(model.value.mesh.positions, stand.value) : null))
  /** The middle of the part on the plane, and half of its largest side: where handles are. */
  const frame = computed(() => {
    const own = plane.value
    if (!own || !box.value) return null
    const middle = centerOf(box.value), off = own.offsetMm - dot(own.normal, middle)
    return { at: [0, 1, 2].map(i => middle[i] + off * own.normal[i]) as unknown as Vec3, radiusMm: Math.max(...sizeOf(box.value)) / 2 }
  })

  /** The part before its last cut, where that is set anew; else as it is. */
  function uncut(part: Part, of: CutStep | null): Part {
    return of ? { ...part, recipe: { ...part.recipe, cuts: part.recipe.cuts.filter(c => c.id !== of.id) } } : part
  }
  /** The other sides of a cut, as far as the job has them. */
  const othersOf = (part: Part, cut: CutStep): Part[] => store.parts.filter(p => p !== part && p.recipe.cuts.some(c => c.id === cut.id))
  /** The part that lies on the other side of a cut; null where the job has none. */
  function otherSide(cut: CutStep): Part | null {
    return (store.part && othersOf(store.part, cut)[0]) ?? null
  }

  /** Begins to set a plane: level, through the middle of the part; or as a cut has it. */
  async function beginCut(of: CutStep | null = null): Promise<void> {
    const { part, stand: now } = current(), loaded = model.value
    if (!loaded) return
    const shape = shapeOf(part.recipe), ticket = ++newest
    problem.value = ''
    seen.value = null
    const pegs = of?.pegs ? { ...of.pegs, count: of.pegs.at.length, at: of.pegs.at.map(p => toStand(now, partPoint(p, shape))) } : USUAL_PEGS
    if (of) {
      const { normal, offsetMm } = inStand(now, planeOf(of, shape)), [leanXDeg, leanYDeg] = leansOf(normal)
      draft.value = { leanXDeg, leanYDeg, distanceMm: offsetMm, whole: of.whole.map(p => toStand(now, partPoint(p, shape))), pegs, of }
    } else {
      const { min, max } = movedBounds(loaded.mesh.positions, now)
      draft.value = { leanXDeg: 0, leanYDeg: 0, distanceMm: (min[2] + max[2]) / 2, whole: [], pegs, of: null }
    }
    try {
      const buffer = of ? await meshOf(uncut(part, of), true) : loaded.buffer
      if (ticket !== newest) return
      before.value = of ? decodeMesh(buffer) : null
      worker ??= startFinisher()
      tried = worker.remote.tryCuts(buffer)
      await tried
      if (ticket === newest) await lookAgain(draft.value)
    } catch (error) {
      if (ticket === newest) problem.value = (error as Error).message
    }
  }
  function endCut(): void {
    newest++
    draft.value = null
    seen.value = null
    before.value = null
    problem.value = ''
    if (state.tool === 'cut-points' || state.tool === 'cut-pegs') state.tool = 'select'
    worker?.end()
    worker = null
    tried = null
  }
  // what is set belongs to the part as it stands
  watch([() => store.part?.id, () => store.part && meshKeyOf(store.part), stand], () => endCut())

  /** Looks at what the newest draft comes to. */
  const lookAgain = latestOnly(async (asked: CutDraft | null) => {
    const own = worker, now = stand.value
    if (!own || !now || !asked || !tried) return
    try {
      await tried
      const back = (p: Vec3): Vec3 => movePointBack(now, p as StandPoint), { pegs } = asked
      const found = await own.remote.lookAtCut(inPart(now, planeOfDraft(asked)), asked.whole.map(back), pegs.count > 0 || pegs.at ? { ...pegs, at: pegs.at?.map(back) ?? null } : null)
      if (own !== worker || !found) return
      seen.value = {
        ...found, areaMm2: found.pieces.reduce((sum, p, i) => (found.whole.includes(i) ? sum : sum + p.areaMm2), 0),
        pieces: found.pieces.map(p => ({ ...p, inside: toStand(now, p.inside), loops: p.loops.map(loop => loop.map(q => toStand(now, q))) })), pegs: found.pegs.map(p => ({ ...p, at: toStand(now, p.at) })),
      }
    } catch (error) {
      if (own === worker) problem.value = (error as Error).message
    }
  })
  function setDraft(next: CutDraft): void {
    draft.value = next
    void lookAgain(next)
  }
  /** Turns the plane about the middle of the part on it, or moves it. Pegs that were placed by pointing go along as a count. */
  function setPlane(change: Partial<Pick<CutDraft, 'leanXDeg' | 'leanYDeg' | 'distanceMm'>>): void {
    const before = draft.value, pivot = frame.value?.at
    if (!before || !pivot) return
    const next = { ...before, ...change, pegs: { ...before.pegs, at: null } }
    setDraft(change.distanceMm === undefined ? { ...next, distanceMm: dot(leaned(next.leanXDeg, next.leanYDeg), pivot) } : next)
  }
  /** Lays the plane through three points of the stand. */
  function planeBy(points: readonly [Vec3, Vec3, Vec3]): void {
    const through = planeThrough(...points)
    if (!through) {
      say('The three points lie in line; no plane is told by them. Take another.')
      return
    }
    // what it looks at lies above it, where there is an above
    const up = through.normal[2] < 0 ? -1 : 1, [leanXDeg, leanYDeg] = leansOf(scale(through.normal, up))
    setPlane({ leanXDeg, leanYDeg, distanceMm: up * through.offsetMm })
  }
  /** Cuts through a piece, or leaves it whole. */
  function leavePiece(index: number, whole: boolean): void {
    const now = draft.value, found = seen.value
    if (!now || !found) return
    const left = found.whole.filter(i => i !== index)
    setDraft({ ...now, whole: (whole ? [...left, index] : left).map(i => found.pieces[i].inside) })
  }
  /** Asks for other pegs. A count takes back what was placed by pointing. */
  function askPegs(change: Partial<PegsWanted>): void {
    const now = draft.value
    if (!now) return
    const pegs = { ...now.pegs, ...change, ...(change.count !== undefined && change.at === undefined && { at: null }) }
    // one that is thinner at its end stays so
    setDraft({ ...now, pegs: { ...pegs, endDiameterMm: Math.min(pegs.endDiameterMm, pegs.diameterMm) } })
  }
  /** Puts a peg at a place of the plane, or takes away the one that stands there. */
  function pegAt(at: Vec3): void {
    const now = draft.value
    if (!now) return
    const standing = (now.pegs.at ?? seen.value?.pegs.map(p => p.at) ?? []), there = standing.findIndex(p => Math.hypot(p[0] - at[0], p[1] - at[1], p[2] - at[2]) < now.pegs.diameterMm / 2)
    const next = there < 0 ? [...standing, at] : standing.filter((_, i) => i !== there)
    askPegs({ at: next, count: next.length })
  }

  /** Why what is set cannot be cut; empty where it can. */
  const cannot = computed(() => {
    const now = draft.value, found = seen.value
    if (problem.value) return problem.value
    if (!now || !found) return ''
    if (found.pieces.length === 0) return 'The plane does not meet the part. Move it, or turn it.'
    if (found.areaMm2 === 0) return 'All that the plane meets is left whole. Choose a piece to cut through.'
    const tight = found.pegs.findIndex(p => p.roomMm < now.pegs.wallMm - 1e-6)
    if (tight >= 0) return `Peg ${tight + 1} leaves ${Math.max(0, found.pegs[tight].roomMm).toFixed(2)} mm of wall beside its socket; ${now.pegs.wallMm} mm are asked for. Move it, or make it smaller.`
    if (!now.pegs.at && found.roomFor < now.pegs.count) return `There is room for ${found.roomFor === 0 ? 'none of these pegs' : `${found.roomFor} of these pegs`}. Take fewer, or smaller ones.`
    return ''
  })

  /** Makes the cut that is set. */
  function makeCut(): Promise<void> {
    const now = draft.value, found = seen.value
    if (!now || !found || cannot.value) return Promise.resolve()
    const { part, stand: from } = current(), shape = shapeOf(part.recipe), source = (p: Vec3): SourcePoint => stepPoint(movePointBack(from, p as StandPoint), shape)
    const own = planeOfDraft(now), normal = directionOf(moveDirectionBack(from, own.normal), shape)
    const { shape: form, diameterMm, endDiameterMm, depthMm, clearanceMm, wallMm } = now.pegs
    const step: Omit<CutStep, 'keeps'> = {
      id: now.of?.id ?? newId(), at: source(frame.value?.at ?? scale(own.normal, own.offsetMm)), normal: [...normal], whole: found.whole.map(i => source(found.pieces[i].inside)),
      pegs: found.pegs.length > 0 ? { shape: form, diameterMm, endDiameterMm, depthMm, clearanceMm, wallMm, at: found.pegs.map(p => source(p.at)) } : null,
    }
    state.busy = 'Cutting the part'
    return inTurn(() => cutNow(part, step, now.of), 'The part could not be cut')
  }
  async function cutNow(part: Part, step: Omit<CutStep, 'keeps'>, of: CutStep | null): Promise<void> {
    const base = uncut(part, of), side = (keeps: CutStep['keeps'], r: Recipe): Recipe => ({ ...r, cuts: [...r.cuts, { ...step, keeps }] })
    const meshes = [await meshOf({ ...base, recipe: side('above', base.recipe) }, true), await meshOf({ ...base, recipe: side('below', base.recipe) }, true)]
    state.busy = ''
    if (of) {
      const other = othersOf(part, of)[0], to = (p: Part, keeps: CutStep['keeps']): Part => ({ ...p, recipe: side(keeps, uncut(p, of).recipe) })
      const next = [to(part, of.keeps), ...(other ? [to(other, of.keeps === 'above' ? 'below' : 'above')] : [])]
      await share('cut anew', [part, ...(other ? [other] : [])], next)
      return
    }
    // the larger side stays the part that it was
    const [above, below] = meshes.map(b => volumeOf(decodeMesh(b))), own = above > below ? 'above' : 'below', fresh = newId()
    const stays: Part = { ...part, recipe: side(own, part.recipe) }, leaves: Part = { ...part, id: fresh, name: nameOfPiece(part.name), recipe: side(own === 'above' ? 'below' : 'above', part.recipe) }
    await share('cut', [part], [stays, leaves])
  }
  /** What the piece is called that a part loses. */
  function nameOfPiece(name: string): string {
    const base = `${name.replace(/, cut off( \(\d+\))?$/, '').slice(0, NAME_ROOM)}, cut off`, names = new Set(store.parts.map(p => p.name))
    for (let n = 1; ; n++) {
      const next = n === 1 ? base : `${base} (${n})`
      if (!names.has(next)) return next
    }
  }

  /** Makes a part and the other side of its last cut one again. */
  function joinAgain(cut: CutStep): Promise<void> {
    return inTurn(() => joinNow(cut), 'The parts could not be joined')
  }
  async function joinNow(cut: CutStep): Promise<void> {
    const { part } = current(), others = othersOf(part, cut), later = [part, ...others].find(p => p.recipe.cuts.at(-1)?.id !== cut.id)
    if (later) {
      say(`${later.name} was cut once more after that. Join that cut first.`)
      return
    }
    const known = new Set(part.recipe.holes.map(h => h.id)), holes = [...part.recipe.holes, ...others.flatMap(o => o.recipe.holes.filter(h => !known.has(h.id)))]
    const whole: Part = { ...uncut(part, cut), recipe: { ...uncut(part, cut).recipe, holes } }
    state.busy = 'Joining the parts'
    await share('join again', [part, ...others], [whole])
  }

  /**
   * Puts parts in the place of others: those of the same id stay, with their copies; those that are new get copies beside them; those
   * that are missing go. Stilts, marks and waivers go with the part whose skin they are on. One step of undo.
   */
  async function share(label: string, before: readonly Part[], after: readonly Part[]): Promise<void> {
    await look()
    const { job, raster, workers: w } = current(), plan = store.stilts, meshes: { readonly buffer: ArrayBuffer; readonly mesh: Mesh; readonly stand: Stand }[] = []
    for (const p of after) {
      const buffer = await meshOf(p, true), mesh = decodeMesh(buffer)
      meshes.push({ buffer, mesh, stand: standOf(mesh.positions, p.pose, raster.pixelMm) })
    }
    const stood = await Promise.all(before.map(async p => ({ part: p.id, stand: standOf(decodeMesh(await meshOf(p)).positions, p.pose, raster.pixelMm) })))
    state.busy = ''
    const fresh = after.filter(p => !before.some(b => b.id === p.id)), gone = before.filter(b => !after.some(p => p.id === b.id)), copies = fresh.flatMap(p => copiesFor(p, before[0], meshes[after.indexOf(p)]))
    const hosts = after.map((p, i): PartHost => {
      const copy = [...store.copies, ...copies].find(c => c.part === p.id)
      return { part: p.id, buffer: meshes[i].buffer, place: { key: meshKeyOf(p), shape: shapeOf(p.recipe), stand: meshes[i].stand }, plate: { widthMm: plate.value.widthMm, depthMm: plate.value.depthMm, ...(copy && { shift: shiftOf(copy, raster.pixelMm) }) } }
    })
    const { tables } = store.snapshot(), ids = new Set(before.map(p => p.id)), waivers = [...tables.waivers.values()].filter(v => ids.has(v.part))
    const shared = await w.surface.shareOut(stood, hosts, waivers.map(v => v.at))
    if (store.job?.id !== job.id || store.stilts !== plan || before.some(p => !store.parts.includes(p))) {
      say('The part was changed meanwhile; it stays as it was.')
      return
    }
    const of = (rows: ReadonlyMap<string, { readonly id: string; readonly part: string }>, parts: readonly Part[]): string[] => [...rows.values()].filter(r => parts.some(p => p.id === r.part)).map(r => r.id)
    const marks = [...tables.marks.values()].filter(m => ids.has(m.part)), same = (a: (typeof marks)[number], b: (typeof marks)[number]): boolean => a.worth === b.worth && a.runs.join() === b.runs.join()
    // a mark names triangles of the file: each side shows what it has of them
    const marked = after.flatMap(p => marks.filter((m, i) => m.part !== p.id && (fresh.includes(p) ? m.part === before[0].id : gone.some(g => g.id === m.part) && !marks.some((o, j) => (o.part === p.id || j < i) && same(o, m)))).map(m => ({ ...m, id: newId(), part: p.id })))
    const settled = waivers.flatMap((v, i) => (after[shared.belong[i]].id === v.part ? [] : [{ ...v, part: after[shared.belong[i]].id }]))
    const { put, drop } = shared.change
    store.apply({
      label,
      put: { ...put, parts: [...after], ...(copies.length > 0 && { copies }), ...(marked.length > 0 && { marks: marked }), ...(settled.length > 0 && { waivers: settled }) },
      drop: {
        ...drop, marks: of(tables.marks, gone), spreads: of(tables.spreads, gone), waivers: of(tables.waivers, gone).filter(id => !settled.some(v => v.id === id)), checkWaivers: of(tables.checkWaivers, gone),
        proofs: gone.flatMap(p => (tables.proofs.has(p.id) ? [p.id] : [])), copies: of(tables.copies, gone), parts: gone.map(p => p.id),
      },
    })
    tellShared(label, after, fresh, shared)
  }
  /** Copies of a new part: as many as the one that it comes from has, where there is room beside the others. */
  function copiesFor(part: Part, from: Part, { mesh, stand: at }: { readonly mesh: Mesh; readonly stand: Stand }): Copy[] {
    const { raster, job } = current(), { min, max } = movedBounds(mesh.positions, at), size = [max[0] - min[0], max[1] - min[1]] as const, taken = [...(state.plateCheck?.boxes ?? [])], out: Copy[] = []
    for (const copy of store.copies.filter(c => c.part === from.id)) {
      const [x, y] = freePlace([size[0], size[1]], taken, job.printer) ?? [0, 0], next: Copy = { ...copy, id: newId(), part: part.id, turnDeg: 0, xPixels: Math.round(x / raster.pixelMm), yPixels: Math.round(y / raster.pixelMm) }
      taken.push({ copy: next.id, min: [x - size[0] / 2, y - size[1] / 2], max: [x + size[0] / 2, y + size[1] / 2] })
      out.push(next)
    }
    return out
  }
  function tellShared(label: string, after: readonly Part[], fresh: readonly Part[], { moved, lost, braces }: { readonly moved: number; readonly lost: number; readonly braces: number }): void {
    const count = (n: number, one: string, more: string): string => (n === 1 ? `1 ${one}` : `${n} ${more}`)
    const what = label === 'cut' ? `Cut in two: ${after.map(p => p.name).join(' and ')}${fresh.length > 0 ? ', which stands beside it on the plate' : ''}.` : label === 'cut anew' ? 'Cut anew.' : `${after[0].name} is whole again.`
    say([what, ...(moved > 0 ? [`${count(moved, 'stilt', 'stilts')} went along.`] : []), ...(lost > 0 ? [`${count(lost, 'stilt touches or stands', 'stilts touch or stand')} on nothing any more and ${lost === 1 ? 'is' : 'are'} listed.`] : []), ...(braces > 0 ? [`${count(braces, 'brace has', 'braces have')} no room any more and ${braces === 1 ? 'is' : 'are'} gone.`] : [])].join(' '))
  }

  return { cutting: { draft, seen, before, plane, frame, lit, cuts, cannot }, beginCut, endCut, setPlane, planeBy, leavePiece, askPegs, pegAt, makeCut, joinAgain, otherSide }
}

const toStand = (stand: Stand, p: Vec3): Vec3 => movePoint(stand, p as Parameters<typeof movePoint<'part', 'stand'>>[1])
/** A plane of the stand in the frame of the part. */
function inPart(stand: Stand, { normal, offsetMm }: Plane): Plane {
  const own = moveDirectionBack(stand, normal)
  return { normal: own, offsetMm: dot(own, movePointBack(stand, scale(normal, offsetMm) as StandPoint)) }
}
/** A plane of the part in its stand. */
function inStand(stand: Stand, { normal, offsetMm }: Plane): Plane {
  const own = moveDirection(stand, normal)
  return { normal: own, offsetMm: dot(own, toStand(stand, scale(normal, offsetMm))) }
}
