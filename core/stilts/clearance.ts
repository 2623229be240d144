import RBush from 'rbush'
import { between, distance, dot, sub, type Vec3 } from '../mesh'
import { isWay, type PlanBeam, type PlanNode } from '../contract'
import type { PlanIndex, Structure, TouchedStructures } from './plan-index'
import { diametersOf, type StiltShape } from './stilt'

/** A round beam that tapers from end to end. */
export interface Beam {
  readonly from: Vec3
  readonly to: Vec3
  readonly fromRadius: number
  readonly toRadius: number
}

/** Where two beams are nearest: the gap between their surfaces, negative where they run into each other, and the middle of it. */
export interface Nearness {
  readonly gapMm: number
  readonly at: Vec3
}

/** What is near to some beams: whose beam it is. */
export interface NearBeam extends Nearness {
  readonly owner: string
}

/** Two stilts, by the ids of their tips, where they are nearest. */
export interface NearStilts extends Nearness {
  readonly stilts: readonly [string, string]
}

/** Stilts that a new one has to keep clear of, and by how much: what is nearer webs together in the resin. */
export interface Others {
  readonly field: BeamField
  readonly limitMm: number
  /** Owners that are left out, such as the stilt itself, and rows of the plan. */
  readonly but?: ReadonlySet<string>
}

/** Steps by which the place on a beam is narrowed down: to a millionth of its length. */
const NARROWINGS = 30
/** The golden section leaves this share of a range. */
const GOLDEN = (Math.sqrt(5) - 1) / 2

/**
 * The gap between two beams: the least distance of a point of one axis from a point of the other, less both radii there. It is convex
 * in both places, so along one axis, with the best place of the other in closed form, it is narrowed down (golden-section search:
 * Kiefer 1953).
 */
export function gapOfBeams(a: Beam, b: Beam): Nearness {
  const [ux, uy, uz] = sub(a.to, a.from), [vx, vy, vz] = sub(b.to, b.from), [wx, wy, wz] = sub(a.from, b.from)
  const vv = vx * vx + vy * vy + vz * vz, growA = a.toRadius - a.fromRadius, growB = b.toRadius - b.fromRadius
  // a beam that gets wider by k a millimetre is nearest where the way to its axis leans by k
  const k = vv > 0 ? Math.max(-0.99, Math.min(0.99, growB / Math.sqrt(vv))) : 0, lean = vv > 0 ? k / Math.sqrt(vv * (1 - k * k)) : 0
  let t = 0
  const gapAt = (s: number): number => {
    const x = wx + ux * s, y = wy + uy * s, z = wz + uz * s, along = x * vx + y * vy + z * vz, square = x * x + y * y + z * z
    const foot = vv > 0 ? along / vv : 0, off = Math.sqrt(Math.max(0, square - foot * along))
    t = Math.max(0, Math.min(1, foot + lean * off))
    return Math.sqrt(Math.max(0, square - 2 * t * along + t * t * vv)) - a.fromRadius - growA * s - b.fromRadius - growB * t
  }
  let low = 0, high = 1, p = 1 - GOLDEN, q = GOLDEN, atP = gapAt(p), atQ = gapAt(q)
  for (let n = 0; n < NARROWINGS; n++) {
    if (atP <= atQ) {
      high = q
      q = p
      atQ = atP
      p = high - GOLDEN * (high - low)
      atP = gapAt(p)
    } else {
      low = p
      p = q
      atP = atQ
      q = low + GOLDEN * (high - low)
      atQ = gapAt(q)
    }
  }
  // the least may lie at an end, which narrowing only comes near to
  let s = (low + high) / 2
  for (const end of [0, 1]) if (gapAt(end) < gapAt(s)) s = end
  const gapMm = gapAt(s)
  return { gapMm, at: between(between(a.from, a.to, s), between(b.from, b.to, t), 0.5) }
}

/** A gap that two beams have at least: that of their axes, less the largest radii. */
function leastGap(a: Beam, b: Beam): number {
  const p = between(a.from, a.to, closestShare(a, b)), along = sub(b.to, b.from), length2 = dot(along, along)
  const t = length2 > 0 ? Math.max(0, Math.min(1, dot(sub(p, b.from), along) / length2)) : 0
  return distance(p, between(b.from, b.to, t)) - Math.max(a.fromRadius, a.toRadius) - Math.max(b.fromRadius, b.toRadius)
}

/** How far along the first of two axes the second is nearest (closest points of two segments: Ericson, Real-Time Collision Detection, 5.1.9). */
function closestShare(a: Beam, b: Beam): number {
  const u = sub(a.to, a.from), v = sub(b.to, b.from), w = sub(a.from, b.from)
  const uu = dot(u, u), vv = dot(v, v), uv = dot(u, v), uw = dot(u, w), vw = dot(v, w)
  if (uu === 0) return 0
  const clamp = (x: number): number => Math.max(0, Math.min(1, x))
  if (vv === 0) return clamp(-uw / uu)
  const det = uu * vv - uv * uv
  const s = det > 1e-12 * uu * vv ? clamp((uv * vw - uw * vv) / det) : 0.5
  const t = (uv * s + vw) / vv
  return t < 0 ? clamp(-uw / uu) : t > 1 ? clamp((uv - uw) / uu) : s
}

/** The beams of a stilt: cone and shafts down to the top of its foot, of a branch to where it joins. Feet on the plate are left out: they may grow together. Empty where it lost its foot. */
export function beamsOfShape(shape: Pick<StiltShape, 'path' | 'sizes' | 'foot' | 'shared'> & { readonly legs?: readonly { readonly at: Vec3 }[] }): Beam[] {
  const { path, sizes, foot, shared } = shape, last = path.length - 1
  if (foot === 'lost') return []
  const legs = foot === 'model' && !shared ? (shape.legs ?? []).map((leg): Beam => ({ from: path[last - 1], to: leg.at, fromRadius: sizes.shaftFootDiameterMm / 2, toRadius: sizes.footDiameterMm / 2 })) : []
  const way = diametersOf(shape).slice(0, shared?.from).map(([from, to], i): Beam => ({
    from: path[i], to: i + 1 === last && foot === 'plate' ? onFoot(path[last], sizes.footHeightMm) : path[i + 1], fromRadius: from / 2, toRadius: to / 2,
  }))
  return [...way, ...legs]
}

function onFoot([x, y]: Vec3, heightMm: number): Vec3 {
  return [x, y, heightMm]
}

/** The beams of a structure, each with the tip whose stilt it belongs to. What leads to no foot is not printed and left out. */
function beamsOfStructure(index: PlanIndex, structure: Structure): OwnedBeam[] {
  const out: OwnedBeam[] = [], taken = new Set<string>()
  const take = (owner: string, row: PlanBeam): void => {
    if (taken.has(row.id)) return
    taken.add(row.id)
    const from = index.nodes.get(row.from) as PlanNode, to = index.nodes.get(row.to) as PlanNode
    const end = to.kind === 'foot' && to.on.kind === 'plate' ? onFoot(to.at, to.fitted.footHeightMm) : to.at
    out.push({ owner, beam: { from: from.at, to: end, fromRadius: row.fromDiameterMm / 2, toRadius: row.toDiameterMm / 2 }, row: row.id })
  }
  let first = ''
  for (const id of [...structure.nodes].sort()) {
    const stilt = index.nodes.get(id)?.kind === 'tip' ? index.stilt(id) : null
    if (!stilt || stilt.foot === 'lost') continue
    first ||= id
    for (const b of stilt.beams) take(id, index.beams.get(b) as PlanBeam)
  }
  if (first) for (const id of structure.beams) if (!isWay(index.beams.get(id) as PlanBeam)) take(first, index.beams.get(id) as PlanBeam)
  return out
}

/** A beam and whose it is; and its row in the plan where it has one. */
export interface OwnedBeam {
  readonly owner: string
  readonly beam: Beam
  readonly row?: string
}

interface Item {
  readonly minX: number
  readonly minY: number
  readonly maxX: number
  readonly maxY: number
  readonly lowZ: number
  readonly highZ: number
  readonly key: string
  readonly owner: string
  readonly beam: Beam
  readonly row?: string
}

function itemOf(key: string, owner: string, beam: Beam, row?: string): Item {
  const { from: a, to: b, fromRadius: r, toRadius: s } = beam
  const low = (i: 0 | 1 | 2): number => Math.min(a[i] - r, b[i] - s), high = (i: 0 | 1 | 2): number => Math.max(a[i] + r, b[i] + s)
  return { minX: low(0), minY: low(1), lowZ: low(2), maxX: high(0), maxY: high(1), highZ: high(2), key, owner, beam, row }
}

/** Beams in space, put and dropped by key, and asked what is near. Seen from above they are kept in an R-tree. */
export class BeamField {
  readonly #tree = new RBush<Item>()
  readonly #items = new Map<string, readonly Item[]>()

  put(key: string, beams: readonly OwnedBeam[]): void {
    this.drop(key)
    const items = beams.map(({ owner, beam, row }) => itemOf(key, owner, beam, row))
    this.#items.set(key, items)
    for (const item of items) this.#tree.insert(item)
  }

  drop(key: string): void {
    for (const item of this.#items.get(key) ?? []) this.#tree.remove(item)
    this.#items.delete(key)
  }

  /** The beam that is nearest to some, where one is nearer than a limit; null for none. @param but owners, and rows of the plan, that are left out */
  nearest(beams: readonly Beam[], limitMm: number, but?: ReadonlySet<string>): NearBeam | null {
    let best: NearBeam | null = null
    for (const beam of beams) {
      for (const { item, near } of this.#near(itemOf('', '', beam), limitMm, but)) if (!best || near.gapMm < best.gapMm) best = { ...near, owner: item.owner }
    }
    return best
  }

  /** Whether any beam is nearer to some than a limit. @param but owners, and rows of the plan, that are left out */
  isNear(beams: readonly Beam[], limitMm: number, but?: ReadonlySet<string>): boolean {
    for (const beam of beams) if (!this.#near(itemOf('', '', beam), limitMm, but).next().done) return true
    return false
  }

  /** For every other key that comes nearer to the beams of one than a limit, where both are nearest. */
  around(key: string, limitMm: number): ReadonlyMap<string, Nearness & { readonly owners: readonly [string, string] }> {
    const out = new Map<string, Nearness & { owners: readonly [string, string] }>()
    for (const own of this.#items.get(key) ?? []) {
      for (const { item, near } of this.#near(own, limitMm)) {
        if (item.key !== key && near.gapMm < (out.get(item.key)?.gapMm ?? Infinity)) out.set(item.key, { ...near, owners: [own.owner, item.owner] })
      }
    }
    return out
  }

  *#near(to: Item, limitMm: number, but?: ReadonlySet<string>): Generator<{ item: Item; near: Nearness }, void, void> {
    const box = { minX: to.minX - limitMm, minY: to.minY - limitMm, maxX: to.maxX + limitMm, maxY: to.maxY + limitMm }
    for (const item of this.#tree.search(box)) {
      if (item.lowZ > to.highZ + limitMm || item.highZ < to.lowZ - limitMm) continue
      if (but?.has(item.owner) || (item.row !== undefined && but?.has(item.row)) || leastGap(to.beam, item.beam) >= limitMm) continue
      const near = gapOfBeams(to.beam, item.beam)
      if (near.gapMm < limitMm) yield { item, near }
    }
  }
}

/** Which stilts of a plan come near to each other, kept up to date with its graph. What hangs together with itself is not looked at. */
export class Clearance {
  readonly #index: PlanIndex
  readonly #fields = new Map<string, BeamField>()
  readonly #partOf = new Map<string, string>()
  readonly #near = new Map<string, Map<string, NearStilts>>()
  readonly #due = new Set<string>()
  #limitMm = 0

  constructor(index: PlanIndex) {
    this.#index = index
    for (const id of index.structures().keys()) this.#due.add(id)
  }

  /** Takes over what an edit touched. */
  touch({ changed, gone }: TouchedStructures): void {
    for (const id of changed) this.#due.add(id)
    for (const id of gone) this.#due.add(id)
  }

  /** The beams of all stilts of a part. */
  field(part: string): BeamField {
    this.#catchUp()
    return this.#fieldOf(part)
  }

  /** Pairs of a part's stilts that are nearer to each other than a limit, nearest first. */
  nearer(part: string, limitMm: number): NearStilts[] {
    if (limitMm > this.#limitMm) {
      this.#limitMm = limitMm
      this.#near.clear()
      for (const id of this.#index.structures().keys()) this.#due.add(id)
    }
    this.#catchUp()
    const out: NearStilts[] = []
    for (const [id, others] of this.#near) {
      if (this.#partOf.get(id) !== part) continue
      for (const [other, near] of others) if (id < other && near.gapMm < limitMm) out.push(near)
    }
    return out.sort((a, b) => a.gapMm - b.gapMm || (a.stilts[0] < b.stilts[0] ? -1 : 1))
  }

  #fieldOf(part: string): BeamField {
    let field = this.#fields.get(part)
    if (!field) this.#fields.set(part, (field = new BeamField()))
    return field
  }

  #catchUp(): void {
    if (this.#due.size === 0) return
    const now = this.#index.structures()
    for (const id of this.#due) {
      const part = this.#partOf.get(id), structure = now.get(id)
      if (part !== undefined) {
        this.#fieldOf(part).drop(id)
        this.#partOf.delete(id)
      }
      for (const other of this.#near.get(id)?.keys() ?? []) this.#near.get(other)?.delete(id)
      this.#near.delete(id)
      if (!structure) continue
      this.#partOf.set(id, structure.part)
      this.#fieldOf(structure.part).put(id, beamsOfStructure(this.#index, structure))
    }
    if (this.#limitMm > 0) for (const id of this.#due) this.#measure(id)
    this.#due.clear()
  }

  #measure(id: string): void {
    const part = this.#partOf.get(id)
    if (part === undefined) return
    for (const [other, { gapMm, at, owners }] of this.#fieldOf(part).around(id, this.#limitMm)) {
      const near: NearStilts = { gapMm, at, stilts: owners[0] < owners[1] ? owners : [owners[1], owners[0]] }
      for (const [a, b] of [[id, other], [other, id]]) {
        const list = this.#near.get(a)
        if (list) list.set(b, near)
        else this.#near.set(a, new Map([[b, near]]))
      }
    }
  }
}
