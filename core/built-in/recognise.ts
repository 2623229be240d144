import Flatbush from 'flatbush'
import type { TipShape } from '../contract'
import { add, between, boundsOf, distance, dot, scale, sub, type Mesh, type Vec3 } from '../mesh'
import { Surface } from '../stilts'
import { rodOf, type Rod, type Run } from './rods'
import { sectionsOf } from './sections'
import { piecesOf, type ShellPiece } from './shells'

/** A tip that was found, in the coordinates of the file. */
export interface BuiltInTip {
  readonly at: Vec3
  /** Outward, of the skin that it touches. */
  readonly normal: Vec3
  readonly shape: TipShape
  /** Measured where it enters the surface, square to its axis, mm. */
  readonly diameterMm: number
  readonly depthMm: number
  /** Above the lowest point of the file. */
  readonly heightMm: number
}

/** A support that was found: a tip, and its way down. */
export interface BuiltInSupport {
  readonly tip: BuiltInTip
  /** Tip, knee, bends, and where it ends. */
  readonly path: readonly Vec3[]
  readonly kneeDiameterMm: number
  readonly endDiameterMm: number
  readonly end:
    | { readonly on: 'plate'; readonly footDiameterMm: number; readonly footHeightMm: number }
    | { readonly on: 'model'; readonly normal: Vec3; readonly diameterMm: number; readonly depthMm: number; readonly coneMm: number }
    /** It ends in another support, by its place in the list. */
    | { readonly on: 'support'; readonly host: number }
}

/** A rod between supports, or from one down to the plate. */
export interface BuiltInBrace {
  readonly from: { readonly support: number; readonly at: Vec3 }
  readonly to: { readonly support: number; readonly at: Vec3 } | { readonly foot: Vec3; readonly footDiameterMm: number; readonly footHeightMm: number }
  readonly diameterMm: number
}

/** What a mesh holds besides its model. */
export interface BuiltIn {
  readonly supports: readonly BuiltInSupport[]
  readonly braces: readonly BuiltInBrace[]
  /** What they stand on, where there is a raft: its thickness, and whether it is one plate. */
  readonly raft: { readonly thicknessMm: number; readonly whole: boolean } | null
  /** Triangles of the model alone, ascending. */
  readonly model: Uint32Array
  /** The lowest point of the file, mm. */
  readonly plateMm: number
}

/** Pieces of more triangles than that are no supports. */
const MOST_TRIANGLES = 20000
/** A tip goes in by this much at the most, is so thick at the most, and narrower than what carries it by this share, mm. */
const DEEPEST_MM = 1.5, THICKEST_TIP_MM = 2.4, NARROWER = 0.8
/** What ends this near to the plate stands on it; what is no higher than that and lies on the plate can be a raft, mm. */
const ON_PLATE_MM = 0.06, RAFT_MM = 4
/** A tip that only touches is this near to the skin, mm. */
const TOUCHES_MM = 0.06
/** A support ends in another one where its end is this near to the other's side, mm. */
const WITHIN_MM = 0.08
/** A foot flares by more than this to each side for a mm of height; and off a straight line by less than that a bend is none, mm. */
const FLARE = 0.35, STRAIGHT_MM = 0.08
/** A stick is no thicker than this, mm. */
const STICK_MM = 3
/** Where a ball ends and a cone begins is looked for this far below the skin, in steps of that, mm. */
const PROFILE_MM = 2, PROFILE_STEP_MM = 0.05
/** A ball narrows to less than this before its cone. */
const NECK = 0.93

/**
 * Finds the supports that a mesh arrives with, where they are pieces of their own: rods that rise from the plate, from a raft or from each
 * other and end in the model in a tip that is narrower than what carries it; rods between them; thin rods from the model to the model that
 * narrow at both ends. Supports that are fused with the model into one surface are not found.
 */
export function recognise(mesh: Mesh): BuiltIn {
  const plateMm = boundsOf(mesh.positions).min[2], pieces = piecesOf(mesh)
  const flat = pieces.filter(p => p.low[2] - plateMm <= ON_PLATE_MM && p.high[2] - plateMm <= RAFT_MM)
  const rods = pieces.flatMap(p => (flat.includes(p) || p.triangles.length > MOST_TRIANGLES ? [] : (rodOf(mesh, p) ?? [])))
  const nothing: BuiltIn = { supports: [], braces: [], raft: null, model: Uint32Array.from({ length: mesh.triangles.length / 3 }, (_, i) => i), plateMm }
  // what lies on the plate is a raft where rods stand on it that do not narrow there; else it belongs to the model
  const rafts = flat.filter(p => rods.some(r => standsOn(p, r))), isRod = new Set(rods.map(r => r.piece)), rest = pieces.filter(p => !isRod.has(p) && !rafts.includes(p))
  if (rods.length === 0 || rest.length === 0) return nothing
  const body = new Surface(joined(mesh, rest))
  const stands = (r: Rod): boolean => r.bottom[2] - plateMm <= ON_PLATE_MM || rafts.some(p => standsOn(p, r))
  const near = new Near(rods)

  // what touches the model with a tip, and ends on the plate, on the model or in another rod that is one of these
  const tips = new Map(rods.flatMap(r => {
    const tip = tipOf(mesh, body, r, plateMm)
    return tip ? [[r, tip] as const] : []
  }))
  const supports: BuiltInSupport[] = [], placeOf = new Map<Rod, number>()
  const take = (r: Rod, support: BuiltInSupport | null): void => {
    if (!support) return
    placeOf.set(r, supports.length)
    supports.push(support)
  }
  for (const [r, tip] of tips) if (stands(r)) take(r, onPlate(r, tip, plateMm))
  for (let before = -1; before !== supports.length; ) {
    before = supports.length
    for (const [r, tip] of tips) {
      const host = placeOf.has(r) || stands(r) ? undefined : near.at(r.bottom, r).find(o => placeOf.has(o))
      if (host) take(r, inAnother(r, tip, placeOf.get(host) as number))
    }
  }
  for (const [r, tip] of tips) if (!placeOf.has(r) && !stands(r)) take(r, onModel(mesh, body, r, tip))
  if (supports.length === 0) return nothing

  const taken = new Set<ShellPiece>([...placeOf.keys()].map(r => r.piece)), braces: BuiltInBrace[] = []
  for (const r of rods) {
    if (taken.has(r.piece)) continue
    const upper = near.at(r.top, r).find(o => placeOf.has(o)), lower = near.at(r.bottom, r).find(o => placeOf.has(o) && o !== upper)
    if (!upper || (!lower && !stands(r))) continue
    taken.add(r.piece)
    const from = { support: placeOf.get(upper) as number, at: r.top }, foot = footOf(r, plateMm)
    braces.push({ from, to: lower ? { support: placeOf.get(lower) as number, at: r.bottom } : { foot: [r.bottom[0], r.bottom[1], plateMm], ...foot }, diameterMm: 2 * r.runs[0].fromRadius })
  }
  // balls at joints, and whatever else lies within supports
  for (const p of pieces) if (!taken.has(p) && !rafts.includes(p) && isWithin(p, [...placeOf.keys()])) taken.add(p)
  const under = rafts.filter(p => [...placeOf.keys()].some(r => standsOn(p, r)))
  for (const p of under) taken.add(p)
  const gone = new Set([...taken].flatMap(p => p.triangles))
  return {
    supports, braces, plateMm, model: Uint32Array.from({ length: mesh.triangles.length / 3 }, (_, i) => i).filter(i => !gone.has(i)),
    raft: under.length > 0 ? { thicknessMm: Math.max(...under.map(p => p.high[2] - plateMm)), whole: under.length === 1 } : null,
  }
}

/** Whether a rod stands on a piece that lies on the plate: its end is within it, and no narrower than what is above. */
function standsOn(p: ShellPiece, r: Rod): boolean {
  const [x, y, z] = r.bottom, last = r.runs[r.runs.length - 1], thick = r.runs.reduce((m, run) => Math.max(m, run.fromRadius), 0)
  return z <= p.high[2] + ON_PLATE_MM && x >= p.low[0] && x <= p.high[0] && y >= p.low[1] && y <= p.high[1] && last.toRadius > NARROWER * thick
}

/** Some pieces of a mesh as one of their own. */
function joined({ positions, triangles }: Mesh, pieces: readonly ShellPiece[]): Mesh {
  const out = new Uint32Array(pieces.reduce((n, p) => n + 3 * p.triangles.length, 0))
  let i = 0
  for (const p of pieces) for (const t of p.triangles) for (let c = 0; c < 3; c++) out[i++] = triangles[3 * t + c]
  return { positions, triangles: out }
}

/** The tip of a rod, where its upper end is just inside the model and narrower than the rod below. */
function tipOf(mesh: Mesh, body: Surface, r: Rod, plateMm: number): BuiltInTip | null {
  const { down } = r, entry = entryOf(body, r.top, down)
  if (!entry) return null
  const widest = Math.max(...r.runs.map(x => Math.max(x.fromRadius, x.toRadius)))
  const { radiusMm, shape } = profileOf(mesh, r, entry.at, down)
  if (radiusMm * 2 > THICKEST_TIP_MM || radiusMm > NARROWER * widest) return null
  return { at: entry.at, normal: entry.normal, shape, diameterMm: 2 * radiusMm, depthMm: entry.depthMm, heightMm: entry.at[2] - plateMm }
}

/** Where an end that is just inside the model comes out of it along a direction. */
function entryOf(body: Surface, end: Vec3, out: Vec3): { readonly at: Vec3; readonly normal: Vec3; readonly depthMm: number } | null {
  const hit = body.cast(end, out, DEEPEST_MM)
  if (hit && dot(hit.normal, out) > 0) return { at: hit.point, normal: hit.normal, depthMm: hit.distanceMm }
  const touched = body.nearest(end, TOUCHES_MM)
  return touched && dot(touched.normal, out) > 0 ? { at: touched.point, normal: touched.normal, depthMm: 0 } : null
}

/** How thick a tip is where it enters the surface; of a ball how thick the ball is. */
function profileOf(mesh: Mesh, r: Rod, at: Vec3, down: Vec3): { readonly radiusMm: number; readonly shape: TipShape } {
  // from inside the skin down
  const radii = Array.from({ length: Math.floor(PROFILE_MM / PROFILE_STEP_MM) }, (_, i) => radiusAt(mesh, r, add(at, scale(down, (i - 1) * PROFILE_STEP_MM)), down) ?? 0)
  const reach = Math.ceil(radii[1] / PROFILE_STEP_MM) + 3, bulge = radii.slice(0, reach).reduce((m, x, i) => (x > radii[m] ? i : m), 0)
  // a ball narrows again before its cone begins
  const neck = radii.findIndex((x, i) => i > bulge && x > 0 && x < radii[bulge] * NECK)
  if (neck > 0 && (neck - bulge) * PROFILE_STEP_MM <= 1.2 * radii[bulge] && bulge > 0) return { radiusMm: radii[bulge], shape: 'ball' }
  return { radiusMm: radii[1] || radii[0], shape: 'cone' }
}

/** How thick a rod is square to a direction at a place on its axis; its corners count, since circles are drawn within their size. */
function radiusAt(mesh: Mesh, r: Rod, at: Vec3, along: Vec3): number | null {
  const section = sectionsOf(mesh, r.piece.triangles, at, along).sort((a, b) => distance(a.center, at) - distance(b.center, at))[0] as ReturnType<typeof sectionsOf>[number] | undefined
  if (!section || distance(section.center, at) > section.reachMm + 0.3) return null
  return section.reachMm < section.radiusMm * 1.1 ? section.reachMm : section.radiusMm
}

/** The runs of a rod below its cone, and where that ends: at the first bend far enough from the tip up to which it widens. */
function kneeOf(r: Rod, tip: Vec3): { readonly knee: Vec3; readonly radius: number; readonly below: readonly Run[] } {
  const far = (p: Vec3): number => distance(p, tip)
  const at = r.runs.findIndex((run, i) => i + 1 === r.runs.length || (far(run.to) > 0.5 && run.toRadius > run.fromRadius * 1.03 && tip[2] > run.to[2]))
  const cone = r.runs[at]
  // a rod that is one cone all along has its knee where half of it is gone
  if (at + 1 === r.runs.length) return { knee: between(tip, cone.to, 0.5), radius: (cone.fromRadius + cone.toRadius) / 2, below: [{ ...cone, from: between(tip, cone.to, 0.5) }] }
  return { knee: cone.to, radius: cone.toRadius, below: r.runs.slice(at + 1) }
}

/** The foot of a rod on the plate: what of it flares near its lower end. */
function footOf(r: Rod, plateMm: number): { readonly footDiameterMm: number; readonly footHeightMm: number; readonly shaft: readonly Run[] } {
  const { runs } = r
  const flares = ({ from, to, fromRadius, toRadius }: Run): boolean => from[2] - plateMm < RAFT_MM && (toRadius - fromRadius) / Math.max(0.01, from[2] - to[2]) > FLARE
  const at = runs.findIndex((run, i) => i > 0 && flares(run)), shaft = at < 0 ? runs : runs.slice(0, at)
  const widest = runs.slice(shaft.length).reduce((m, x) => Math.max(m, x.fromRadius, x.toRadius), shaft[shaft.length - 1].toRadius)
  return { footDiameterMm: 2 * widest, footHeightMm: at < 0 ? 0.2 : Math.max(0.2, runs[at].from[2] - plateMm), shaft }
}

/** A way without the bends that lie in the middle of a straight shaft. */
function straightened(path: readonly Vec3[]): Vec3[] {
  const out = [...path]
  for (let i = out.length - 2; i >= 2; i--) {
    const a = out[i - 1], u = sub(out[i + 1], a), l = dot(u, u)
    if (l > 0 && distance(out[i], add(a, scale(u, dot(sub(out[i], a), u) / l))) < STRAIGHT_MM) out.splice(i, 1)
  }
  return out
}

function onPlate(r: Rod, tip: BuiltInTip, plateMm: number): BuiltInSupport | null {
  const { footDiameterMm, footHeightMm, shaft } = footOf(r, plateMm), { knee, radius, below } = kneeOf({ ...r, runs: shaft }, tip.at)
  const last = below[below.length - 1]
  const path = straightened([tip.at, knee, ...below.slice(0, -1).map(b => b.to), [last.to[0], last.to[1], plateMm]])
  return descends(path) ? { tip, path, kneeDiameterMm: 2 * radius, endDiameterMm: 2 * last.toRadius, end: { on: 'plate', footDiameterMm: Math.max(footDiameterMm, 2 * last.toRadius), footHeightMm } } : null
}

function inAnother(r: Rod, tip: BuiltInTip, host: number): BuiltInSupport | null {
  const { knee, radius, below } = kneeOf(r, tip.at), path = straightened([tip.at, knee, ...below.slice(0, -1).map(b => b.to), r.bottom])
  return descends(path) ? { tip, path, kneeDiameterMm: 2 * radius, endDiameterMm: 2 * (below[below.length - 1]?.toRadius ?? radius), end: { on: 'support', host } } : null
}

/** A stick: in the model with both ends, narrow at both, and straight. */
function onModel(mesh: Mesh, body: Surface, r: Rod, tip: BuiltInTip): BuiltInSupport | null {
  const { up } = r, foot = entryOf(body, r.bottom, up), widest = 2 * Math.max(...r.runs.map(x => Math.max(x.fromRadius, x.toRadius)))
  if (!foot || widest > STICK_MM) return null
  const foreseen = radiusAt(mesh, r, foot.at, up)
  if (foreseen === null || foreseen * 2 > NARROWER * widest) return null
  const { knee, radius, below } = kneeOf(r, tip.at), lower = below.slice(0, -1).find(b => b.toRadius < b.fromRadius * 1.02)?.to ?? below[0].to, coneMm = Math.min(distance(lower, foot.at), distance(tip.at, foot.at) * 0.45)
  const end = add(foot.at, scale(up, coneMm)), path = [tip.at, knee, end, foot.at]
  if (!descends(path)) return null
  return { tip, path, kneeDiameterMm: 2 * radius, endDiameterMm: widest, end: { on: 'model', normal: foot.normal, diameterMm: 2 * foreseen, depthMm: foot.depthMm, coneMm } }
}

function descends(path: readonly Vec3[]): boolean {
  return path.every((p, i) => i === 0 || p[2] < path[i - 1][2] - 1e-6)
}

/** Whether a piece lies within some rods: its middle on their axes, and itself hardly wider. */
function isWithin(p: ShellPiece, rods: readonly Rod[]): boolean {
  const middle = between(p.low, p.high, 0.5), half = Math.max(p.high[0] - p.low[0], p.high[1] - p.low[1], p.high[2] - p.low[2]) / 2
  return half < 3 && rods.some(r => {
    const at = nearestOn(r, middle)
    return at.mm < WITHIN_MM && half <= at.radius * 1.3
  })
}

function nearestOn(r: Rod, p: Vec3): { readonly mm: number; readonly radius: number } {
  let best = { mm: Infinity, radius: 0 }
  for (const { from, to, fromRadius, toRadius } of r.runs) {
    const u = sub(to, from), l = dot(u, u), t = l > 0 ? Math.max(0, Math.min(1, dot(sub(p, from), u) / l)) : 0, mm = distance(p, between(from, to, t))
    if (mm < best.mm) best = { mm, radius: fromRadius + (toRadius - fromRadius) * t }
  }
  return best
}

/** Which rods a point lies within. */
class Near {
  readonly #tree: Flatbush
  readonly #rods: readonly Rod[]
  constructor(rods: readonly Rod[]) {
    this.#rods = rods
    this.#tree = new Flatbush(Math.max(1, rods.length))
    if (rods.length === 0) this.#tree.add(0, 0, 0, 0)
    for (const { piece } of rods) this.#tree.add(piece.low[0], piece.low[1], piece.high[0], piece.high[1])
    this.#tree.finish()
  }

  /** Those that a point lies within, nearest to their axes first. @param but the one whose point it is */
  at(p: Vec3, but: Rod): Rod[] {
    return this.#tree.search(p[0], p[1], p[0], p[1]).map(i => this.#rods[i]).filter(r => r !== but && p[2] >= r.piece.low[2] && p[2] <= r.piece.high[2])
      .map(r => ({ r, ...nearestOn(r, p) })).filter(n => n.mm <= n.radius + WITHIN_MM).sort((a, b) => a.mm - b.mm).map(n => n.r)
  }
}
