import { expose, transfer } from 'comlink'
import { WORTHS, type Gauge, type PartPoint, type Printer, type SourcePoint, type StandPoint, type StiltVerdict, type Worth } from '@oak-stilts/core/contract'
import { boreFrom, drainWays, opensBest, opensChamber, type WayOut } from '@oak-stilts/core/finish'
import { decodeMesh, joinMeshes, NO_SOURCE, Patches, radians, scale, triangleArea, write3mf, writeStl, type Mesh, type Vec3 } from '@oak-stilts/core/mesh'
import { checkPlate, layOut, shadowOf, type LaidOut, type LayOutOptions, type PlateCheck, type Shadow, type StandingCopy } from '@oak-stilts/core/plate'
import { after, moveDirection, moveDirectionBack, moveMesh, movePoint, movePointBack, plateOf, type Stand, type Standing } from '@oak-stilts/core/pose'
import { GAP_FLOOR_MM, gapOfPath, gaugeFor, gaugeOf, isTied, judgeStilt, judgeTips, keepSizes, moveFoot, moveTip, nearestHost, reaimStilt, regaugeStilt, reseatStilts, reseatTrees, resizeStilt, seenFrom, shareOut, spreadStick, Surface, type Editable, type Edited, type FootSpread, type Others, type Plate, type ReseatedTrees, type SharedOut, type Stilt, type StoodUnder, type StiltShape, type StiltSizes, type SurfacePoint } from '@oak-stilts/core/stilts'
import type { NearPairs } from '../findings'
import { PlateBodies, type PlatePart } from './plate-bodies'
import { PlanReplica, type AllPlans, type PlanEdit } from './plan-replica'
import { breathe } from './breathe'
import { createGhostWork } from './ghost-work'
import { createSpreadWork } from './spread-work'
import { createTieWork, type MovedTip } from './tie-work'
import { holdLife } from './supervised'
import { areasByWorth, OFF_LIMITS, PRIZED } from '@oak-stilts/core/marks'

/** What stilts of the part on the bench have to do with besides the part. */
export interface Surroundings {
  readonly plate: Plate
  readonly part: string
  /** Gap between stilts under which the resin webs, mm. */
  readonly webMm: number
}

/** How a part comes to its stand, and what its mesh is known by. */
export interface PartPlace extends Standing {
  readonly key: string
}

/** A part that stilts come to stand under: its mesh, how it stands, and the plate as it sees it. */
export interface PartHost {
  readonly part: string
  readonly buffer: ArrayBuffer
  readonly place: PartPlace
  readonly plate: Plate
}

/** Pairs of stilts that are told of at once. */
const MOST_NEAR = 500

/** Lowest and highest that is shown of the part, mm. */
type Heights = readonly [number, number]

/** How many times its wall a drain counts by what the skin is worth, in the order of worths. */
const COST_OF_WORTH = WORTHS.map(w => ({ plain: 1, prized: 4, spare: 0.7, 'off-limits': Infinity })[w])
/** What has no skin of the file is not drilled from outside: the wall of a chamber, the cap of a cut. */
const costOf = (own: Surface, face: number): number => (own.faces.from?.[face] === NO_SOURCE ? Infinity : COST_OF_WORTH[own.worthOf(face)])
/** A way out of the part in its stand. */
function inStand({ stand }: Surface, out: WayOut | null): WayOut | null {
  return out && { ...out, at: movePoint(stand, out.at as PartPoint), into: moveDirection(stand, out.into) }
}

let mesh: Mesh | null = null
let surface: Surface | null = null
let gauges: readonly Gauge[] = []
let around: Surroundings = { plate: { widthMm: 100, depthMm: 100 }, part: '', webMm: 0 }
/** A surface that was made for stilts that are seated before their part becomes the current one. */
let ahead: { readonly key: string; readonly mesh: Mesh; readonly surface: Surface } | null = null
const plan = new PlanReplica()
/** Stilts that are judged between two turns of others. */
const JUDGED_AT_ONCE = 64
/** What was said about stilts that are the same objects still; forgotten once the part stands differently. */
let judged = new WeakMap<Stilt, StiltVerdict[]>()
let newestJudge = 0
const plateBodies = new PlateBodies()

function ready(): Surface {
  if (!surface) throw new Error('No model is loaded.')
  return surface
}

/** A mesh and its surface; the one that was made ahead, where it is that. */
function surfaceAt(buffer: ArrayBuffer, { key, shape, stand }: PartPlace): { readonly mesh: Mesh; readonly surface: Surface } {
  if (ahead?.key === key) {
    ahead.surface.setStand(stand)
    return ahead
  }
  const decoded = decodeMesh(buffer)
  return { mesh: decoded, surface: new Surface(decoded, { shape, stand }) }
}

/** The stilts that a new one keeps clear of. @param own tips of the stilts themselves, where there are some: what hangs together with them is left out */
function others(...own: readonly string[]): Others {
  return { field: plan.field(around.part), limitMm: around.webMm, but: own.length > 0 ? new Set(own.flatMap(id => [id, ...plan.tipsWith(id)])) : undefined }
}

/** A hole as it would be drilled: where it begins and which way it goes, in the stand; null for the depth where it goes through the whole part. */
export interface AimedBore {
  readonly at: Vec3
  readonly into: Vec3
  readonly depthMm: number | null
  readonly worth: Worth
}

/** A face of the part under the pointer: the flat it is part of, and the crease of that which is nearest. All in the stand. */
export interface PickedFace {
  readonly normal: Vec3
  readonly areaMm2: number
  readonly border: Float32Array
  readonly crease: { readonly from: Vec3; readonly to: Vec3; readonly normals: readonly [Vec3, Vec3] } | null
}
/** How faces are marked. */
/** How faces are taken: what is under the pointer, what a brush reaches, or what is seen within a box that is drawn. */
export type MarkBy = 'flat' | 'patch' | 'brush' | 'box'
/** Faces of the part's mesh under the pointer, and their border in the stand. */
export interface MarkedFaces {
  readonly faces: Uint32Array
  readonly border: Float32Array
  readonly areaMm2: number
}
let patches: { readonly of: Surface; readonly patches: Patches } | null = null
/** What the faces of the part have to do with their neighbours. */
function patchesOf(own: Surface): Patches {
  if (patches?.of !== own) patches = { of: own, patches: new Patches(own.faces) }
  return patches.patches
}

const tieWork = createTieWork({ surface: ready, gauges: () => gauges, plate: () => around.plate, index: () => plan.index, stilts: () => plan.stilts(around.part), others, ownField: () => ({ field: plan.copyOfField(around.part), limitMm: around.webMm }) })

const surfaceWorker = {
  ...createGhostWork({ surface: ready, gauges: () => gauges, plate: () => around.plate, stilts: () => plan.stilts(around.part), others: () => others() }),
  ...createSpreadWork({
    surface: ready, patches: () => patchesOf(ready()), gauges: () => gauges, plate: () => around.plate,
    tips: but => plan.tips(around.part).flatMap(t => (but.has(t.id) ? [] : [t.at])),
    // new ones are added to it
    others: but => ({ field: plan.copyOfField(around.part), limitMm: around.webMm, but }),
  }),
  ...tieWork,

  /** Takes the mesh of the part, builds its tree and gives smooth normals for drawing. */
  load(buffer: ArrayBuffer, place: PartPlace, newGauges: readonly Gauge[], newAround: Surroundings): Float32Array {
    gauges = newGauges
    around = newAround
    ;({ mesh, surface } = surfaceAt(buffer, place))
    judged = new WeakMap()
    ahead = null
    const normals = smoothNormals(mesh)
    return transfer(normals, [normals.buffer])
  },

  /** Takes the plans of all parts, and then every edit of them. */
  plan(rows: AllPlans): void {
    plan.load(rows)
  },
  edit(edit: PlanEdit): void {
    plan.edit(edit)
  },

  setStand(stand: Stand): void {
    surface?.setStand(stand)
    judged = new WeakMap()
  },

  /** Lets the pointer pass through the nearest wall, or not. */
  setSeeThrough(on: boolean): void {
    ready().seeThrough = on
  },

  /** Takes other gauges to choose from. */
  setGauges(next: readonly Gauge[]): void {
    gauges = next
    judged = new WeakMap()
  },

  /** Takes another plate, place of the part on it, or resin. */
  setSurroundings(next: Surroundings): void {
    around = next
  },

  /** What a ray meets first between two heights, mm. */
  pick(origin: Vec3, direction: Vec3, visibleMm: Heights): SurfacePoint | null {
    return ready().castBetween(origin, direction, visibleMm)
  },

  /** The hole that would be drilled where a ray meets the part: where it begins in the stand, how deep it goes, and what the skin is worth there. @param upright straight up or down, instead of straight into the skin */
  boreAt(origin: Vec3, direction: Vec3, visibleMm: Heights, diameterMm: number, upright: boolean): AimedBore | null {
    const own = ready(), hit = own.castBetween(origin, direction, visibleMm)
    if (!hit) return null
    const into: Vec3 = upright ? [0, 0, hit.normal[2] > 0 ? -1 : 1] : scale(hit.normal, -1)
    const { depthMm } = boreFrom(own.faces, movePointBack(own.stand, hit.point as StandPoint), moveDirectionBack(own.stand, into), diameterMm)
    return { at: hit.point, into, depthMm, worth: WORTHS[own.worthOf(hit.face)] }
  },

  /** The wall under a ray, mm: from the skin that it meets straight in to the open behind it; null where it meets none. */
  wallAt(origin: Vec3, direction: Vec3, visibleMm: Heights): { readonly at: Vec3; readonly inward: Vec3; readonly wallMm: number } | null {
    const own = ready(), hit = own.castBetween(origin, direction, visibleMm)
    if (!hit) return null
    const inward = scale(hit.normal, -1)
    return { at: hit.point, inward, wallMm: own.thickness(hit.point, inward) }
  },

  /** Where a hole best drains a space from a point of it, in the stand: of ways up or down and to all sides, the one through least wall, never where the skin is off limits. Null where there is none. */
  drainFrom(from: Vec3, down: boolean, diameterMm: number): WayOut | null {
    const own = ready(), { faces, stand } = own, up = down ? -1 : 1, ceiling = own.cast(from, [0, 0, up])
    // the end of the space is where what runs that way gathers
    const start: Vec3 = ceiling ? [from[0], from[1], from[2] + up * Math.max(0, ceiling.distanceMm - 0.1)] : from
    return inStand(own, opensBest(faces, movePointBack(stand, start as StandPoint), drainWays(moveDirectionBack(stand, [0, 0, up])), diameterMm, { costOf: face => costOf(own, face) }))
  },
  /** Where one more hole best opens a chamber; null where there is no way. @param min corner of the box around it, in the part @param holes where those begin that it has, in the stand */
  openChamber(min: Vec3, max: Vec3, holes: readonly Vec3[], wallMm: number, diameterMm: number): WayOut | null {
    const own = ready(), { faces, stand } = own
    return inStand(own, opensChamber(faces, { min, max }, holes.map(h => movePointBack(stand, h as StandPoint)), moveDirectionBack(stand, [0, 0, 1]), wallMm, diameterMm, face => costOf(own, face)))
  },

  /** Takes what the faces of the part are worth; gives the skin of each worth, mm². */
  setWorths(worths: Uint8Array | null): [number, number, number, number] {
    ready().setWorths(worths)
    judged = new WeakMap()
    const { faces } = ready()
    return areasByWorth(faces, worths ?? new Uint8Array(faces.triangles.length / 3))
  },

  /** The lines between faces of different worth: x, y, z of both ends in the part. */
  markBorders(): Float32Array {
    const own = ready()
    if (!own.marked) return new Float32Array(0)
    const lines = patchesOf(own).bordersWhere((a, b) => own.worthOf(a) !== own.worthOf(b))
    return transfer(lines, [lines.buffer])
  },

  /** The faces that a mark here takes: the flat or the patch up to its creases under the pointer, or what a brush reaches; null where a ray meets nothing. */
  facesAt(origin: Vec3, direction: Vec3, visibleMm: Heights, by: MarkBy, radiusMm: number): MarkedFaces | null {
    const own = ready(), hit = own.castBetween(origin, direction, visibleMm)
    if (!hit) return null
    const all = patchesOf(own), faces = by === 'brush' ? own.facesWithin(hit, radiusMm) : by === 'flat' ? all.flatAt(hit.face).faces : all.patchAt(hit.face)
    const border = all.borderOf(faces)
    for (let i = 0; i < border.length; i += 3) border.set(movePoint(own.stand, [border[i], border[i + 1], border[i + 2]]), i)
    return { faces: Uint32Array.from(faces), border, areaMm2: faces.reduce((sum, f) => sum + triangleArea(own.faces, f), 0) }
  },

  /** The faces that can be seen from an eye: those that look at it with nothing before their middle. @param within planes through the eye that look inward */
  async facesSeen(eye: Vec3, within: readonly Vec3[] = []): Promise<Uint32Array> {
    const own = ready(), stand = own.stand
    for (const steps = own.facesSeenFrom(eye, within); ;) {
      const step = steps.next()
      if (step.done) return Uint32Array.from(step.value)
      // the pointer has its turn in between
      await breathe()
      if (own.stand !== stand) throw new Error('The part was moved meanwhile.')
    }
  },

  /** Which points of the skin are seen from an eye. */
  marksSeen(eye: Vec3, points: readonly Vec3[]): boolean[] {
    return seenFrom(ready(), eye, points)
  },

  /** The face of the part that a ray meets first; null where it meets none. */
  pickFace(origin: Vec3, direction: Vec3, visibleMm: Heights): PickedFace | null {
    const own = ready(), hit = own.castBetween(origin, direction, visibleMm)
    if (!hit) return null
    const all = patchesOf(own), { stand } = own, { faces, normal } = all.flatAt(hit.face), border = all.borderOf(faces)
    for (let i = 0; i < border.length; i += 3) border.set(movePoint(stand, [border[i], border[i + 1], border[i + 2]]), i)
    const crease = all.creaseAt(hit.face, movePointBack(stand, hit.point))
    return {
      normal: moveDirection(stand, normal), areaMm2: faces.reduce((sum, f) => sum + triangleArea(own.faces, f), 0), border,
      crease: crease && { from: movePoint(stand, crease.from), to: movePoint(stand, crease.to), normals: [moveDirection(stand, crease.normals[0]), moveDirection(stand, crease.normals[1])] },
    }
  },

  /** Stilts of the part on the bench that are nearer to each other than the resin allows: the nearest, as many as somebody may go through. */
  near(): NearPairs {
    const pairs = plan.nearer(around.part, around.webMm)
    return { pairs: pairs.slice(0, MOST_NEAR), more: Math.max(0, pairs.length - MOST_NEAR) }
  },

  /** All there is to say about the stilts of the part on the bench, worst of each kind first. Null where a newer look was asked for. */
  async judge(): Promise<StiltVerdict[] | null> {
    const own = ready(), ticket = ++newestJudge, stilts = plan.stilts(around.part), out: StiltVerdict[] = []
    let looked = 0
    for (const s of stilts) {
      let known = judged.get(s)
      if (!known) {
        // braces may come and go beside a stilt that stays: such a stilt is looked at anew
        known = judgeStilt(own, s, { gauge: gaugeFor(s, gauges), isHeld: n => plan.isHeld(n), diameters: plan.index.diametersOf(s) })
        if (!s.nodes.some(n => plan.isHeld(n))) judged.set(s, known)
        if (++looked % JUDGED_AT_ONCE === 0) {
          await breathe()
          if (ticket !== newestJudge || surface !== own) return null
        }
      }
      out.push(...known)
    }
    return [...out, ...judgeTips(stilts, around.webMm)]
  },

  /** What the skin is worth that the tips of the part on the bench touch, as core/marks counts it; by their ids. */
  tipWorths(): [string, number][] {
    const own = ready()
    return plan.stilts(around.part).map((s): [string, number] => [s.id, own.worthAt(s.path[0])])
  },

  /** Stands leaning stilts upright: their feet under their knees. Each in its place of the list. */
  upright(stilts: readonly Editable[]): Edited[] {
    return stilts.map(s => (s.foot === 'plate' && !isTied(s) ? moveFoot(ready(), s, s.path[1][0], s.path[1][1], gaugeFor(s, gauges), around.plate, GAP_FLOOR_MM) : { ok: false, problem: 'blocked', reason: isTied(s) ? 'Something is tied to this stilt. Drag its foot or its joints instead.' : 'A stick leans as its two ends lie. Move one of them.' }))
  },

  resize(stilt: Editable, changes: Partial<StiltSizes>): Edited {
    return resizeStilt(ready(), stilt, changes, gaugeFor(stilt, gauges), around.plate)
  },

  spreadStick(stilt: Editable, changes: Partial<FootSpread>): Edited {
    return spreadStick(ready(), stilt, changes, gaugeFor(stilt, gauges))
  },

  regauge(stilts: readonly Editable[], gauge: string): Edited[] {
    return stilts.map(s => regaugeStilt(ready(), s, gaugeOf(gauge, gauges), around.plate))
  },

  /**
   * Gives stilts their gauge as it is now, each in its place of the list; those that have no room for it are as they were, and say so.
   * @param elsewhere where they are not those of the part on the bench: its mesh, how it stands, and the plate as it sees it
   */
  refit(stilts: readonly Editable[], before: Gauge, now: Gauge, elsewhere?: { readonly buffer: ArrayBuffer; readonly place: PartPlace; readonly plate: Plate }): { readonly shape: StiltShape; readonly fits: boolean }[] {
    const own = elsewhere ? surfaceAt(elsewhere.buffer, elsewhere.place).surface : ready(), plate = elsewhere?.plate ?? around.plate
    return stilts.map(s => {
      const edited = s.foot === 'lost' ? null : regaugeStilt(own, s, now, plate)
      return edited?.ok ? { shape: edited.shape, fits: true } : { shape: keepSizes(s, before, now), fits: false }
    })
  },

  /** Moves a tip to where a ray meets the model; null where it meets nothing. */
  moveTip(stilt: Stilt, origin: Vec3, direction: Vec3, visibleMm: Heights): MovedTip | null {
    const at = ready().castBetween(origin, direction, visibleMm)
    if (!at) return null
    const moved = moveTip(ready(), stilt, at.point, at.normal, gaugeFor(stilt, gauges), around.plate, others(stilt.id))
    // a branch that does not reach takes its joint along
    return moved.ok ? moved : (tieWork.slide(stilt, at) ?? moved)
  },

  /** Moves a tip to the surface nearest to a point; null where there is none within a millimetre. */
  moveTipNear(stilt: Stilt, point: Vec3): Edited | null {
    const at = ready().nearest(point, 1)
    return at ? moveTip(ready(), stilt, at.point, at.normal, gaugeFor(stilt, gauges), around.plate, others(stilt.id)) : null
  },

  /** Finds the nearest places where stilts that no longer make sense can stand; each in its place of the list. */
  reaim(stilts: readonly Stilt[], offPrized = false): Edited[] {
    const own = ready(), may = (face: number): boolean => own.worthOf(face) !== OFF_LIMITS && !(offPrized && own.worthOf(face) === PRIZED)
    return stilts.map(s => reaimStilt(own, s, gauges, around.plate, others(s.id), place => may(place.face)))
  },

  moveFoot(stilt: StiltShape, x: number, y: number): Edited {
    return moveFoot(ready(), stilt, x, y, gaugeFor(stilt, gauges), around.plate, GAP_FLOOR_MM)
  },

  gap(stilt: StiltShape): number {
    return stilt.foot === 'lost' ? 0 : gapOfPath(ready(), stilt)
  },

  /** Seats stilts anew on a new pose, which becomes the current one; each in its place of the list. */
  reseat(stand: Stand, stilts: readonly StiltShape[]): StiltShape[] {
    ready().setStand(stand)
    judged = new WeakMap()
    return reseatStilts(ready(), stilts, gauges, around.plate)
  },

  /** Seats what hangs together with some tips anew, on the pose that is current now. */
  reseatTrees(tips: readonly string[]): ReseatedTrees {
    return reseatTrees(ready(), plan.index, tips, gauges, around.plate)
  },

  /** The same on another mesh of the part, which is not the current one yet. */
  reseatTreesOn(buffer: ArrayBuffer, place: PartPlace, tips: readonly string[]): ReseatedTrees {
    ahead = { key: place.key, ...surfaceAt(buffer, place) }
    return reseatTrees(ahead.surface, plan.index, tips, gauges, around.plate)
  },

  /** Seats stilts anew on another mesh of the part, which is not the current one yet; each in its place of the list. */
  reseatOn(buffer: ArrayBuffer, place: PartPlace, stilts: readonly StiltShape[]): StiltShape[] {
    ahead = { key: place.key, ...surfaceAt(buffer, place) }
    return reseatStilts(ahead.surface, stilts, gauges, around.plate)
  },

  /** Shares the stilts of some parts out among the parts that come after them; and says to which of those some points of the source belong. */
  shareOut(before: readonly StoodUnder[], hosts: readonly PartHost[], points: readonly SourcePoint[]): SharedOut & { readonly belong: readonly number[] } {
    const made = hosts.map(({ part, buffer, place, plate }) => {
      const { mesh, surface } = surfaceAt(buffer, place)
      return { key: place.key, part, mesh, surface, plate }
    })
    // the first is the one that comes onto the bench
    if (made.length > 0) ahead = made[0]
    return { ...shareOut(plan.index, before, made, gauges), belong: points.map(p => nearestHost(made, p)) }
  },

  /** A direction from which a point can be seen: the first free one of some, else outward and a little from below where that is free; and whether there is none, as within a hollow. */
  viewFrom(at: Vec3, first: readonly Vec3[] = []): { readonly from: Vec3; readonly enclosed: boolean } {
    const free = first.find(d => !ready().cast(at, d))
    if (free) return { from: free, enclosed: false }
    const start: Vec3 = [at[0], at[1], at[2] - 0.3]
    const out = Math.atan2(at[1], at[0])
    for (const elevation of [-18, -35, 8, -55, 25, -75]) {
      for (let i = 0; i < 12; i++) {
        const a = out + ((i % 2 ? 1 : -1) * Math.ceil(i / 2) * Math.PI) / 6, e = radians(elevation)
        const d: Vec3 = [Math.cos(a) * Math.cos(e), Math.sin(a) * Math.cos(e), Math.sin(e)]
        if (!ready().cast(start, d)) return { from: d, enclosed: false }
      }
    }
    return { from: [Math.cos(out) * 0.9, Math.sin(out) * 0.9, -0.4], enclosed: true }
  },

  /** How much tips hold of the skin at every vertex: 255 at a tip, 0 from where it holds no more. @param contacts x, y, z of each, source coordinates */
  heldSkin(contacts: readonly number[], holdMm: number): Uint8Array {
    const p = (mesh as Mesh).positions, held = new Uint8Array(p.length / 3), { shape } = ready()
    contacts = contacts.map((v, i) => v * shape[i % 3])
    const cells = new Map<string, number[]>()
    const cell = (v: number): number => Math.floor(v / holdMm)
    for (let i = 0; i < contacts.length; i += 3) {
      // a tip is in all cells that its hold may reach
      for (let n = 0; n < 27; n++) {
        const key = `${cell(contacts[i]) + (n % 3) - 1} ${cell(contacts[i + 1]) + (Math.floor(n / 3) % 3) - 1} ${cell(contacts[i + 2]) + Math.floor(n / 9) - 1}`
        const list = cells.get(key)
        if (list) list.push(i)
        else cells.set(key, [i])
      }
    }
    if (cells.size > 0) {
      for (let v = 0; v < held.length; v++) {
        for (const i of cells.get(`${cell(p[3 * v])} ${cell(p[3 * v + 1])} ${cell(p[3 * v + 2])}`) ?? []) {
          const d = Math.hypot(p[3 * v] - contacts[i], p[3 * v + 1] - contacts[i + 1], p[3 * v + 2] - contacts[i + 2])
          held[v] = Math.max(held[v], Math.min(255, Math.max(0, 510 * (1 - d / holdMm))))
        }
      }
    }
    return transfer(held, [held.buffer])
  },

  /** Takes a model of the job, whichever part it belongs to. */
  addMesh(key: string, buffer: ArrayBuffer): void {
    plateBodies.add(key, decodeMesh(buffer))
  },

  /** Whether all copies stand on the plate and clear of each other. Their models have to be there. */
  checkPlate(parts: readonly PlatePart[], copies: readonly StandingCopy[], printer: Pick<Printer, 'widthMm' | 'depthMm' | 'heightMm' | 'edgesMm'>): PlateCheck {
    return checkPlate(parts.map(p => plateBodies.standing(p, plan)), copies, printer)
  },

  /** The copy that a ray on the plate meets first, and how far away; null for none. */
  pickCopy(origin: Vec3, direction: Vec3, parts: readonly PlatePart[], copies: readonly StandingCopy[]): { copy: string; distanceMm: number } | null {
    return plateBodies.pick(origin, direction, parts.map(p => plateBodies.standing(p, plan)), copies)
  },

  /** What stands under a part, in its stand: the stilts and the raft. */
  underneath(part: string): { stilts: Mesh[]; raft: Mesh | null } {
    return plan.underneath(part)
  },

  /** Where copies come to stand so that none is on another, by what each really covers. Their models have to be there. */
  layOut(parts: readonly PlatePart[], copies: readonly { readonly id: string; readonly part: string; readonly turnDeg: number }[], printer: Pick<Printer, 'widthMm' | 'depthMm' | 'edgesMm'>, options: LayOutOptions): LaidOut[] {
    const known = new Map<string, Shadow>()
    return layOut(copies.flatMap(({ id, part, turnDeg }) => {
      const of = parts.find(p => p.id === part), key = `${part} ${turnDeg}`
      if (!of) return []
      let shadow = known.get(key)
      if (!shadow) {
        const turned = plateOf({ xMm: 0, yMm: 0, turnDeg }), { stilts, raft } = plan.underneath(part)
        known.set(key, (shadow = shadowOf([{ mesh: plateBodies.mesh(of), motion: after(turned, of.stand) }, ...[...stilts, ...(raft ? [raft] : [])].map(mesh => ({ mesh, motion: turned }))], options.cellMm)))
      }
      return [{ id, shadow }]
    }), printer, options)
  },

  /** The stilts of a part as one mesh, in its stand. */
  supportMesh(part: string): Mesh {
    const joined = joinMeshes(plan.solids(part))
    return transfer(joined, [joined.positions.buffer, joined.triangles.buffer])
  },

  /** A model as it was brought in, prepared, as a file. */
  exportSource(name: string, buffer: ArrayBuffer): Uint8Array {
    const bytes = writeStl(decodeMesh(buffer), name)
    return transfer(bytes, [bytes.buffer])
  },

  /** A file of copies as they stand on the plate. Their models have to be there. */
  exportFile(kind: 'stl' | 'stilts' | '3mf', parts: readonly PlatePart[], copies: readonly StandingCopy[], name: string): Uint8Array {
    const standing = copies.flatMap(({ part, shift }) => {
      const of = parts.find(p => p.id === part), plate = plateOf(shift)
      return of ? [{ model: (): Mesh => moveMesh(plateBodies.mesh(of), after(plate, of.stand)), support: moveMesh(joinMeshes(plan.solids(part)), plate) }] : []
    })
    const support = joinMeshes(standing.map(s => s.support)), named = (what: string, i: number): string => (standing.length > 1 ? `${what} ${i + 1}` : what)
    const bytes = kind === 'stilts' ? writeStl(support, name)
      : kind === 'stl' ? writeStl(joinMeshes([...standing.map(s => s.model()), support]), name)
        : write3mf(standing.flatMap((s, i) => [{ name: named('Model', i), mesh: s.model() }, ...(s.support.triangles.length ? [{ name: named('Stilts', i), mesh: s.support }] : [])]), name)
    return transfer(bytes, [bytes.buffer])
  },
}

/** Normals at the vertices, weighted by the areas of the triangles around them. */
function smoothNormals({ positions: p, triangles: t }: Mesh): Float32Array {
  const normals = new Float32Array(p.length)
  for (let i = 0; i < t.length; i += 3) {
    const a = 3 * t[i], b = 3 * t[i + 1], c = 3 * t[i + 2]
    const ux = p[b] - p[a], uy = p[b + 1] - p[a + 1], uz = p[b + 2] - p[a + 2]
    const vx = p[c] - p[a], vy = p[c + 1] - p[a + 1], vz = p[c + 2] - p[a + 2]
    const nx = uy * vz - uz * vy, ny = uz * vx - ux * vz, nz = ux * vy - uy * vx
    for (const v of [a, b, c]) {
      normals[v] += nx
      normals[v + 1] += ny
      normals[v + 2] += nz
    }
  }
  for (let i = 0; i < normals.length; i += 3) {
    const l = Math.hypot(normals[i], normals[i + 1], normals[i + 2]) || 1
    normals[i] /= l
    normals[i + 1] /= l
    normals[i + 2] /= l
  }
  return normals
}

export type SurfaceWorker = typeof surfaceWorker
expose(surfaceWorker)
holdLife()
