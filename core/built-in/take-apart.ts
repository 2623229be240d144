import { add, boundsOf, cross, distance, dot, scale, sub, unit, type Mesh, type Vec3 } from '../mesh'
import { sectionsOf, type Section } from './sections'

/** Faces meet in a crease where they turn toward each other by more than this: where one solid was grown into another. */
const CREASE_DEG = 18
/** Faces turn away from each other where the turn is about their edge by this much, as a cosine. */
const AWAY = 0.3
/** Nothing leads over an edge that is shorter: what a cut leaves there may be folded, mm. */
const CRUMB_MM = 0.01
/** A face that is less high than this has no direction that could be trusted, mm. */
const SLIVER_MM = 0.002
/** What ends this near to the plate stands on it; what is no higher than that can be a foot or a raft; and what is that low beside one is part of it, mm. */
const ON_PLATE_MM = 0.06, FLAT_MM = 4, LOW_MM = 2.5
/** Pieces are slender up to this girth, as their skin by their length says it, mm; and small up to that length. */
const GIRTH_MM = 6, SMALL_MM = 3.5
/** Pieces of more faces than that are no supports. */
const MOST_FACES = 20000
/** Beyond a seam a support is looked at by sections so far from it, mm; one that is wider by this factor belongs to the model. */
const BEYOND_MM = [0.12, 0.3, 0.6, 1], WIDER = 1.4
/** Two pieces go on into each other where so close to their seam both are not much wider than it, and no farther off its middle than this by its width. */
const CLOSE_MM = [0.08, 0.2], GOES_ON = 5, ASIDE = 0.15
/** The ball of a tip reaches no farther than this, by the width of its neck. */
const BALL = 1.6
/** Skin between creases that is no larger and that no crease goes around belongs to what is beside it, mm²; looked for so many times. */
const BIT_MM2 = 0.02, ROUNDS = 4, SHARED = 0.3
/** Supports are followed so many pieces up from the plate. */
const MOST_STEPS = 40

/** A piece of skin that is bounded by creases. */
interface Patch {
  readonly faces: number[]
  low: [number, number, number]
  high: [number, number, number]
  areaMm2: number
  sliver: boolean
}

/** Where two patches meet: a run of edges. */
interface Seam {
  readonly a: number
  readonly b: number
  readonly edges: number[]
}

/** The middle of a seam, the area that it goes around, and how that faces: from its first patch to its second. */
interface SeamShape {
  readonly middle: Vec3
  readonly normal: Vec3
  readonly areaMm2: number
}

/** A mesh that was taken apart. */
export interface Apart {
  readonly mesh: Mesh
  /** Takes it apart anew, so that all stays in one surface that is named by these triangles; gives which ones it has then. */
  without(model: Uint32Array): { readonly mesh: Mesh; readonly model: Uint32Array }
}

/**
 * A mesh in which supports that are fused with the model into one surface are pieces of their own: the skin is cut along the creases where
 * they grew into the model, into each other and into their raft, and both sides are closed with flat caps, so that the model is whole
 * where they stood. Null where nothing rises from the plate that could be a support.
 *
 * A support is followed up from the plate over creases to what is slender or small, as long as it does not widen beyond the crease; there
 * the model begins. Creases have to be closed, as a union of solids leaves them: what runs out flush into the skin on one side, and what was
 * wrapped or smoothed over, stays with the model.
 */
export function takeApart(mesh: Mesh): Apart | null {
  const edges = new Edges(mesh)
  edges.contract()
  const patches = edges.patches(), seams = edges.seams()
  if (patches.length < 2) return null
  const plateMm = boundsOf(mesh.positions).min[2]
  const around = new Map<number, Seam[]>()
  for (const s of seams) {
    for (const p of [s.a, s.b]) {
      const list = around.get(p)
      if (list) list.push(s)
      else around.set(p, [s])
    }
  }
  const length = ({ low, high }: Patch): number => distance(low, high)
  const couldBe = (p: Patch): boolean => !p.sliver && p.faces.length <= MOST_FACES && (length(p) <= SMALL_MM || p.areaMm2 / (Math.PI * length(p)) <= GIRTH_MM)
  const isFlat = (p: Patch): boolean => p.low[2] - plateMm <= ON_PLATE_MM && p.high[2] - plateMm <= FLAT_MM
  const shapes = new Map<Seam, SeamShape | null>()
  /** Most seams are the model's own and are never asked for. */
  const shapeOf = (s: Seam): SeamShape | null => {
    if (!shapes.has(s)) shapes.set(s, edges.shapeOf(s))
    return shapes.get(s) ?? null
  }

  /** Whether a patch beyond a seam is the ball of a tip: small, between two seams. */
  const isBall = (s: Seam, to: number): boolean => {
    const shape = shapeOf(s), wide = shape ? 2 * Math.sqrt(shape.areaMm2 / Math.PI) : 0
    return !patches[to].sliver && length(patches[to]) <= BALL * wide * Math.sqrt(3) && (around.get(to) ?? []).filter(o => !patches[o.a].sliver && !patches[o.b].sliver).length === 2
  }
  /** Whether a patch beyond a seam is a support that goes on there, and not the model that it ends in. */
  const goesOn = (s: Seam, to: number): boolean => {
    const shape = shapeOf(s), p = patches[to]
    if (!shape || !couldBe(p)) return false
    const { middle, areaMm2 } = shape, inward = to === s.b ? shape.normal : scale(shape.normal, -1)
    if (isBall(s, to)) return true
    let seen = 0
    for (const mm of BEYOND_MM) {
      const section = nearestSection(mesh, p.faces, add(middle, scale(inward, mm)), inward)
      if (section === null) continue
      seen++
      if (section.areaMm2 > WIDER * areaMm2) return false
    }
    return seen > 0
  }

  const held = new Set<number>(), rafts = new Set<number>()
  let wave = patches.flatMap((p, i) => (!p.sliver && p.low[2] - plateMm <= ON_PLATE_MM && (isFlat(p) || couldBe(p)) ? [i] : []))
  for (const i of wave) {
    held.add(i)
    if (isFlat(patches[i])) rafts.add(i)
  }
  for (let step = 0; wave.length > 0 && step < MOST_STEPS; step++) {
    const next: number[] = []
    for (const i of wave) {
      for (const s of around.get(i) ?? []) {
        const to = s.a === i ? s.b : s.a
        // feet that grew into each other are many pieces
        const alsoFlat = rafts.has(i) && patches[to].high[2] - plateMm <= LOW_MM
        if (held.has(to) || (!alsoFlat && !goesOn(s, to))) continue
        held.add(to)
        if (alsoFlat) rafts.add(to)
        next.push(to)
      }
    }
    wave = next
  }
  // what lies on the plate with nothing on it is no raft, and a model that stands there itself is none
  if ([...held].every(i => rafts.has(i))) return null

  // pieces that go on into each other are one
  const parent = new Map([...held].map(i => [i, i]))
  const find = (i: number): number => {
    const up = parent.get(i) as number
    if (up === i) return i
    const root = find(up)
    parent.set(i, root)
    return root
  }
  for (const s of seams) {
    if (!held.has(s.a) || !held.has(s.b)) continue
    const shape = shapeOf(s)
    if (!shape) continue
    const flat = [s.a, s.b].filter(i => rafts.has(i))
    if (flat.length === 2) continue
    // a foot carries one shaft; feet that grew into each other stay feet
    const isFoot = flat.length === 1 && (around.get(flat[0]) ?? []).filter(o => held.has(o.a === flat[0] ? o.b : o.a) && !rafts.has(o.a === flat[0] ? o.b : o.a)).length === 1
    if (flat.length === 1) {
      if (isFoot) parent.set(find(s.a), find(s.b))
      continue
    }
    const wide = 2 * Math.sqrt(shape.areaMm2 / Math.PI)
    const straight = ([[s.a, -1], [s.b, 1]] as const).every(([p, side]) => CLOSE_MM.every((mm, i) => {
      const at = add(shape.middle, scale(shape.normal, side * mm)), section = nearestSection(mesh, patches[p].faces, at, shape.normal)
      return section ? section.areaMm2 < GOES_ON * shape.areaMm2 && distance(section.center, at) < ASIDE * wide : i > 0
    }))
    if (straight || isBall(s, s.a) || isBall(s, s.b)) parent.set(find(s.a), find(s.b))
  }
  const pieceOf = new Int32Array(mesh.triangles.length / 3).fill(-1)
  for (const i of held) for (const f of patches[i].faces) pieceOf[f] = find(i)
  const cut = cutAndCapped(mesh, pieceOf)
  return {
    mesh: cut.mesh,
    without: model => {
      const stays = new Set<number>()
      for (const n of model) if (cut.from[n] >= 0) stays.add(cut.from[n])
      // what hangs on supports alone goes with them
      const again = cutAndCapped(mesh, withModel(mesh, pieceOf, stays))
      return { mesh: again.mesh, model: Uint32Array.from(again.pieces.keys()).filter(n => again.pieces[n] === -1) }
    },
  }
}

/** The section of some faces that is nearest to a place; null where there is none. */
function nearestSection(mesh: Mesh, faces: readonly number[], at: Vec3, normal: Vec3): Section | null {
  let best: { readonly mm: number; readonly section: Section } | null = null
  for (const section of sectionsOf(mesh, faces, at, normal)) {
    const mm = distance(section.center, at) - section.reachMm
    if (!best || mm < best.mm) best = { mm, section }
  }
  return best && best.mm < 0.3 ? best.section : null
}

/** Faces and edges of a mesh, the creases among them, and what they bound. */
class Edges {
  readonly #mesh: Mesh
  /** Both faces of every edge that has two, and its ends; by edge. */
  readonly #pairs: Int32Array
  readonly #count: number
  readonly #normals: Float32Array
  readonly #sliver: Uint8Array
  readonly #crease: Uint8Array
  #patchOf = new Int32Array(0)

  constructor(mesh: Mesh) {
    this.#mesh = mesh
    const { positions: p, triangles: t } = mesh, faces = t.length / 3, vertices = p.length / 3
    this.#normals = new Float32Array(t.length)
    this.#sliver = new Uint8Array(faces)
    for (let f = 0; f < faces; f++) {
      const [a, b, c] = [this.#corner(f, 0), this.#corner(f, 1), this.#corner(f, 2)], n = cross(sub(b, a), sub(c, a)), l = Math.hypot(...n)
      this.#normals.set(l > 0 ? [n[0] / l, n[1] / l, n[2] / l] : [0, 0, 0], 3 * f)
      if (l < SLIVER_MM * Math.max(distance(a, b), distance(b, c), distance(c, a))) this.#sliver[f] = 1
    }
    const first = new Map<number, number>(), pairs: number[] = []
    for (let f = 0; f < faces; f++) {
      for (let c = 0; c < 3; c++) {
        const a = t[3 * f + c], b = t[3 * f + ((c + 1) % 3)], key = Math.min(a, b) * vertices + Math.max(a, b), other = first.get(key)
        if (other === undefined) first.set(key, f)
        else pairs.push(other, f, a, b)
      }
    }
    this.#pairs = Int32Array.from(pairs)
    this.#count = pairs.length / 4
    this.#lendNormals()
    this.#crease = Uint8Array.from({ length: this.#count }, (_, e) => (this.#isCrease(e) ? 1 : 0))
  }

  /** Slivers look as what lies beyond their longest edge does. */
  #lendNormals(): void {
    const best = new Map<number, { readonly from: number; readonly mm: number }>()
    for (let round = 0; round < ROUNDS; round++) {
      best.clear()
      for (let e = 0; e < this.#count; e++) {
        const [f, g] = [this.#pairs[4 * e], this.#pairs[4 * e + 1]], mm = this.#lengthOf(e)
        for (const [to, from] of [[f, g], [g, f]]) if (this.#sliver[to] === 1 && this.#sliver[from] !== 1 && mm > (best.get(to)?.mm ?? 0)) best.set(to, { from, mm })
      }
      if (best.size === 0) return
      for (const [to, { from }] of best) {
        this.#normals.copyWithin(3 * to, 3 * from, 3 * from + 3)
        this.#sliver[to] = 2
      }
    }
  }

  #corner(f: number, c: number): Vec3 {
    const { positions: p, triangles: t } = this.#mesh, v = t[3 * f + c]
    return [p[3 * v], p[3 * v + 1], p[3 * v + 2]]
  }
  #normal(f: number): Vec3 {
    return [this.#normals[3 * f], this.#normals[3 * f + 1], this.#normals[3 * f + 2]]
  }

  #isCrease(e: number): boolean {
    const f = this.#pairs[4 * e], g = this.#pairs[4 * e + 1]
    if (this.#lengthOf(e) < CRUMB_MM) return true
    const n = this.#normal(f), m = this.#normal(g), turn = Math.acos(Math.max(-1, Math.min(1, dot(n, m))))
    if (turn < (CREASE_DEG * Math.PI) / 180) return false
    // toward each other where that turns against the edge as the first of them goes along it
    const { positions: p, triangles: t } = this.#mesh, ends = [this.#pairs[4 * e + 2], this.#pairs[4 * e + 3]], c = [0, 1, 2].find(k => ends.includes(t[3 * f + k]) && ends.includes(t[3 * f + ((k + 1) % 3)])) ?? 0
    const [a, b] = [3 * t[3 * f + c], 3 * t[3 * f + ((c + 1) % 3)]], along: Vec3 = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]]
    // beside slivers the edge says little: only what clearly turns away is none
    const about = cross(n, m)
    return dot(about, along) < AWAY * Math.hypot(...about) * Math.hypot(...along)
  }

  /** Lets slivers, and bits between creases that close around nothing, be part of what they have the longest border with. */
  contract(): void {
    for (let round = 0; round < ROUNDS; round++) {
      const patches = this.patches(), bits = new Map<number, Map<number, number>>()
      const seams = this.seams(), isOpen = new Set<number>()
      for (const s of seams) if (!this.#isClosed(s)) for (const p of [s.a, s.b]) isOpen.add(p)
      const isBit = (i: number): boolean => patches[i].sliver || (isOpen.has(i) && patches[i].areaMm2 <= BIT_MM2)
      for (const s of seams) {
        const long = s.edges.reduce((mm, e) => mm + this.#lengthOf(e), 0)
        for (const [bit, other] of [[s.a, s.b], [s.b, s.a]]) {
          if (!isBit(bit) || (isBit(other) && patches[other].areaMm2 <= patches[bit].areaMm2)) continue
          const shared = bits.get(bit) ?? new Map<number, number>()
          shared.set(other, (shared.get(other) ?? 0) + long)
          bits.set(bit, shared)
        }
      }
      if (bits.size === 0) return
      const into = new Map([...bits].map(([bit, shared]) => {
        // what is large is the model rather than a support, which stays what it is
        const most = [...shared.values()].reduce((a, b) => Math.max(a, b), 0), may = [...shared].filter(([, mm]) => mm >= SHARED * most)
        return [bit, may.reduce((a, b) => (patches[b[0]].areaMm2 > patches[a[0]].areaMm2 ? b : a))[0]]
      }))
      for (let e = 0; e < this.#count; e++) {
        const a = this.#patchOf[this.#pairs[4 * e]], b = this.#patchOf[this.#pairs[4 * e + 1]]
        if (a !== b && (into.get(a) === b || into.get(b) === a)) this.#crease[e] = 0
      }
    }
  }
  #lengthOf(e: number): number {
    const { positions: p } = this.#mesh, u = 3 * this.#pairs[4 * e + 2], v = 3 * this.#pairs[4 * e + 3]
    return Math.hypot(p[u] - p[v], p[u + 1] - p[v + 1], p[u + 2] - p[v + 2])
  }
  /** Whether a seam comes back to where it began. */
  #isClosed({ edges }: Seam): boolean {
    const degree = new Map<number, number>()
    for (const e of edges) for (const v of [this.#pairs[4 * e + 2], this.#pairs[4 * e + 3]]) degree.set(v, (degree.get(v) ?? 0) + 1)
    return [...degree.values()].every(n => n % 2 === 0)
  }

  patches(): Patch[] {
    const { triangles: t } = this.#mesh, faces = t.length / 3, parent = new Int32Array(faces).map((_, i) => i)
    const find = (n: number): number => {
      while (parent[n] !== n) n = parent[n] = parent[parent[n]]
      return n
    }
    for (let e = 0; e < this.#count; e++) if (!this.#crease[e]) parent[find(this.#pairs[4 * e])] = find(this.#pairs[4 * e + 1])
    const places = new Map<number, number>(), out: Patch[] = []
    this.#patchOf = new Int32Array(faces)
    for (let f = 0; f < faces; f++) {
      const root = find(f)
      let place = places.get(root)
      if (place === undefined) {
        places.set(root, (place = out.length))
        out.push({ faces: [], low: [Infinity, Infinity, Infinity], high: [-Infinity, -Infinity, -Infinity], areaMm2: 0, sliver: true })
      }
      const p = out[place], [a, b, c] = [this.#corner(f, 0), this.#corner(f, 1), this.#corner(f, 2)]
      this.#patchOf[f] = place
      p.faces.push(f)
      p.areaMm2 += Math.hypot(...cross(sub(b, a), sub(c, a))) / 2
      p.sliver &&= this.#sliver[f] !== 0
      for (const q of [a, b, c]) {
        for (const k of [0, 1, 2] as const) {
          if (q[k] < p.low[k]) p.low[k] = q[k]
          if (q[k] > p.high[k]) p.high[k] = q[k]
        }
      }
    }
    return out
  }

  /** Where patches meet; every closed run of edges by itself. */
  seams(): Seam[] {
    const between = new Map<string, number[]>()
    for (let e = 0; e < this.#count; e++) {
      const a = this.#patchOf[this.#pairs[4 * e]], b = this.#patchOf[this.#pairs[4 * e + 1]]
      if (a === b) continue
      const key = a < b ? `${a} ${b}` : `${b} ${a}`, list = between.get(key)
      if (list) list.push(e)
      else between.set(key, [e])
    }
    return [...between].flatMap(([key, edges]) => {
      const [a, b] = key.split(' ').map(Number)
      return this.#runs(edges).map((run): Seam => ({ a, b, edges: run }))
    })
  }

  /** Edges by what hangs together at their ends. */
  #runs(edges: readonly number[]): number[][] {
    const at = new Map<number, number[]>()
    for (const e of edges) for (const v of [this.#pairs[4 * e + 2], this.#pairs[4 * e + 3]]) at.set(v, [...(at.get(v) ?? []), e])
    const seen = new Set<number>(), out: number[][] = []
    for (const start of edges) {
      if (seen.has(start)) continue
      const run = [start]
      seen.add(start)
      for (const e of run) {
        for (const v of [this.#pairs[4 * e + 2], this.#pairs[4 * e + 3]]) {
          for (const o of at.get(v) ?? []) {
            if (seen.has(o)) continue
            seen.add(o)
            run.push(o)
          }
        }
      }
      out.push(run)
    }
    return out
  }

  /** Null where it is no loop. */
  shapeOf({ a, edges }: Seam): SeamShape | null {
    const { positions: p, triangles: t } = this.#mesh, vertex = (v: number): Vec3 => [p[3 * v], p[3 * v + 1], p[3 * v + 2]]
    let middle: Vec3 = [0, 0, 0], total = 0
    for (const e of edges) {
      const u = vertex(this.#pairs[4 * e + 2]), v = vertex(this.#pairs[4 * e + 3]), l = distance(u, v)
      middle = add(middle, scale(add(u, v), l / 2))
      total += l
    }
    if (total === 0) return null
    middle = scale(middle, 1 / total)
    let sum: Vec3 = [0, 0, 0]
    for (const e of edges) {
      const f = this.#patchOf[this.#pairs[4 * e]] === a ? this.#pairs[4 * e] : this.#pairs[4 * e + 1]
      // as the first patch goes along it
      const c = [0, 1, 2].find(k => {
        const [x, y] = [t[3 * f + k], t[3 * f + ((k + 1) % 3)]], ends = [this.#pairs[4 * e + 2], this.#pairs[4 * e + 3]]
        return ends.includes(x) && ends.includes(y)
      }) ?? 0
      sum = add(sum, cross(sub(this.#corner(f, c), middle), sub(this.#corner(f, (c + 1) % 3), middle)))
    }
    const l = Math.hypot(...sum)
    return l > 1e-9 ? { middle, normal: unit(scale(sum, -1)), areaMm2: l / 2 } : null
  }
}

/** Pieces, with those named faces in the model that hang together with it. */
function withModel({ positions, triangles: t }: Mesh, pieceOf: Int32Array, stays: ReadonlySet<number>): Int32Array {
  const vertices = positions.length / 3, owner = new Map<number, number>(), out = pieceOf.slice()
  for (let f = 0; f < pieceOf.length; f++) for (let c = 0; c < 3; c++) owner.set(t[3 * f + c] * vertices + t[3 * f + ((c + 1) % 3)], f)
  const queue = [...pieceOf.keys()].filter(f => pieceOf[f] === -1)
  for (const f of queue) {
    for (let c = 0; c < 3; c++) {
      const o = owner.get(t[3 * f + ((c + 1) % 3)] * vertices + t[3 * f + c])
      if (o === undefined || out[o] === -1 || !stays.has(o)) continue
      out[o] = -1
      queue.push(o)
    }
  }
  return out
}

/** The mesh with every piece for itself, closed where it was cut; of every triangle the face that it was, −1 for caps, and its piece. @param pieceOf −1 for what stays together as the model */
function cutAndCapped({ positions, triangles: t }: Mesh, pieceOf: Int32Array): { readonly mesh: Mesh; readonly from: Int32Array; readonly pieces: Int32Array } {
  const names = [...new Set(pieceOf)], vertices = positions.length / 3, points: number[] = [], out: number[] = [], from: number[] = [], pieces: number[] = []
  const facesOf = new Map<number, number[]>(names.map(n => [n, []]))
  pieceOf.forEach((name, f) => facesOf.get(name)?.push(f))
  const owner = new Map<number, number>()
  for (let f = 0; f < pieceOf.length; f++) {
    for (let c = 0; c < 3; c++) owner.set(t[3 * f + c] * vertices + t[3 * f + ((c + 1) % 3)], pieceOf[f])
  }
  for (const name of names) {
    const at = new Map<number, number>(), next = new Map<number, number[]>()
    const vertex = (v: number): number => {
      let n = at.get(v)
      if (n === undefined) {
        at.set(v, (n = points.length / 3))
        points.push(positions[3 * v], positions[3 * v + 1], positions[3 * v + 2])
      }
      return n
    }
    for (const f of facesOf.get(name) ?? []) {
      from.push(f)
      pieces.push(name)
      for (let c = 0; c < 3; c++) {
        const a = t[3 * f + c], b = t[3 * f + ((c + 1) % 3)], other = owner.get(b * vertices + a)
        out.push(vertex(a))
        // the cap goes the other way around
        if (other !== undefined && other !== name) next.set(b, [...(next.get(b) ?? []), a])
      }
    }
    for (const loop of loopsOf(next)) {
      // a fan about its middle: every edge of the border has its face, however they lie
      const middle = points.length / 3, center = [0, 1, 2].map(k => loop.reduce((sum, v) => sum + positions[3 * v + k], 0) / loop.length)
      points.push(...center)
      loop.forEach((v, i) => {
        out.push(vertex(v), vertex(loop[(i + 1) % loop.length]), middle)
        from.push(-1)
        pieces.push(name)
      })
    }
  }
  return { mesh: { positions: Float32Array.from(points), triangles: Uint32Array.from(out) }, from: Int32Array.from(from), pieces: Int32Array.from(pieces) }
}

/** Closed runs of directed edges; what comes to a corner twice is split there. */
function loopsOf(next: Map<number, number[]>): number[][] {
  const out: number[][] = []
  for (const start of next.keys()) {
    for (let first = next.get(start)?.pop(); first !== undefined; first = next.get(start)?.pop()) {
      const way = [start]
      for (let v: number | undefined = first; v !== undefined && v !== start; v = next.get(v)?.pop()) {
        const before = way.indexOf(v)
        if (before > 0) out.push(way.splice(before))
        way.push(v)
      }
      if (way.length >= 3) out.push(way)
    }
  }
  return out
}
