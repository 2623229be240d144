import { computed, shallowRef, watch } from 'vue'
import { newId, type CutStep, type Part, type Recipe, type SourcePoint, type StandPoint } from '@oak-stilts/core/contract'
import { leaned, leansOf, planeThrough, type Plane } from '@oak-stilts/core/carve'
import { directionOf, partPoint, planeOf, stepPoint } from '@oak-stilts/core/finish'
import { centerOf, decodeMesh, dot, scale, sizeOf, volumeOf, type Mesh, type Vec3 } from '@oak-stilts/core/mesh'
import { movedBounds, moveDirection, moveDirectionBack, movePoint, movePointBack, shapeOf, type Stand } from '@oak-stilts/core/pose'
import type { CutLook, FinishWorker, PegsWanted } from '../workers/finish.worker'
import type { Supervised } from '../workers/supervised'
import { latestOnly } from '../stage/latest-only'
import type { BenchContext } from './context'
import type { createEditing } from './editing'
import { meshKeyOf, startFinisher } from './meshes'
import { createSharing } from './sharing'

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
export function createCutting(context: BenchContext, { inTurn }: Pick<ReturnType<typeof createEditing>, 'inTurn'>, look: () => Promise<void>) {
  const { store, state, model, stand, current, meshOf, say } = context, share = createSharing(context, look)
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
  /** The part that lies on the other side of a cut; null where the job has none. A copy of this side is none. */
  function otherSide({ id, keeps }: CutStep): Part | null {
    return store.parts.find(p => p.recipe.cuts.some(c => c.id === id && c.keeps !== keeps)) ?? null
  }
  /** Whether nothing was cut after a cut, on either side of it; says so where something was. */
  function isLast(cut: CutStep, part: Part): boolean {
    const later = [part, otherSide(cut)].find(p => p && p.recipe.cuts.at(-1)?.id !== cut.id)
    if (later) say(`${later.name} was cut once more after that. Join that cut first.`)
    return !later
  }

  /** Begins to set a plane: level, through the middle of the part; or as a cut has it. */
  async function beginCut(of: CutStep | null = null): Promise<void> {
    const { part, stand: now } = current(), loaded = model.value
    if (!loaded || (of && !isLast(of, part))) return
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
    const beside = found.pegs.findIndex(p => p.roomMm === null), tight = found.pegs.findIndex(p => (p.roomMm ?? 0) < now.pegs.wallMm - 1e-6)
    if (beside >= 0) return `Peg ${beside + 1} stands beside what is cut. Click on it to take it away.`
    if (tight >= 0) return `Peg ${tight + 1} leaves ${Math.max(0, found.pegs[tight].roomMm ?? 0).toFixed(2)} mm of wall beside its socket; ${now.pegs.wallMm} mm are asked for. Move it, or make it smaller.`
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
    if (of) {
      const other = otherSide(of), to = (p: Part, keeps: CutStep['keeps']): Part => ({ ...p, recipe: side(keeps, uncut(p, of).recipe) })
      const next = [to(part, of.keeps), ...(other ? [to(other, of.keeps === 'above' ? 'below' : 'above')] : [])]
      await share('cut anew', [part, ...(other ? [other] : [])], next)
      return
    }
    // the larger side stays the part that it was
    const volume = async (keeps: CutStep['keeps']): Promise<number> => volumeOf(decodeMesh(await meshOf({ ...base, recipe: side(keeps, base.recipe) }, true))), above = await volume('above'), below = await volume('below'), own = above > below ? 'above' : 'below', fresh = newId()
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
    const { part } = current(), other = otherSide(cut), known = new Set(part.recipe.holes.map(h => h.id))
    if (!isLast(cut, part)) return
    const holes = [...part.recipe.holes, ...(other?.recipe.holes.filter(h => !known.has(h.id)) ?? [])]
    const whole: Part = { ...uncut(part, cut), recipe: { ...uncut(part, cut).recipe, holes } }
    state.busy = 'Joining the parts'
    await share('join again', [part, ...(other ? [other] : [])], [whole])
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
