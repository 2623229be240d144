import Flatbush from 'flatbush'
import type { TipShape } from '../contract'
import { add, between, boundsOf, cross, distance, dot, scale, sub, unit, type Mesh, type Vec3 } from '../mesh'
import { Surface } from '../stilts'
import { rodOf, type Rod, type Run } from './rods'
import { sectionsOf } from './sections'
import { takeApart } from './take-apart'
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
/** Of a rod that was cut out of a surface so many levels show that it is one: its ends are cut aslant. */
const MOST_OF_CUT = 0.6
/** A foot flares by more than this to each side for a mm of height; and off a straight line by less than that a bend is none, mm. */
const FLARE = 0.35, STRAIGHT_MM = 0.08
/** A face is level where it is by this much, as a cosine. */
const LEVEL = 0.99
/** A stick is no thicker than this, mm. */
const STICK_MM = 3
/** Where a ball ends and a cone begins is looked for this far below the skin, in steps of that, mm. */
const PROFILE_MM = 2, PROFILE_STEP_MM = 0.05
/** A ball narrows to less than this before its cone. */
const NECK = 0.93
/** A tip that was cut from the skin has no corners farther inside than that, mm; its ball narrows by more than this within that length; its cone is that long at least. */
const INSIDE_MM = 0.03, NARROWS = 1.05, BALL_MM = 1.2, CONE_MM = 0.6
/** Corners nearer to the axis than this share of the widest are none of its skin. */
const MIDDLE = 0.35
/** Its axis is told by so many sections over that length at the most, mm. */
const AXIS_SECTIONS = 9, AXIS_MM = 2

/**
 * Finds the supports that a mesh arrives with, be they pieces of their own or fused with the model into one surface. Gives them with the
 * mesh that they were found in, in which they are pieces of their own. Where they are fused with the model, some may be left in it: those
 * that run out into its skin without an edge, or whose feet are one dense forest.
 */
export function findSupports(mesh: Mesh): { readonly mesh: Mesh; readonly found: BuiltIn; readonly fused: boolean } {
  const found = recognise(mesh), apart = found.supports.length > 0 ? null : takeApart(mesh), cut = apart && recognise(apart.mesh, MOST_OF_CUT)
  if (!apart || !cut || cut.supports.length === 0) return { mesh, found, fused: false }
  const whole = apart.without(cut.model)
  return { mesh: whole.mesh, found: { ...cut, model: whole.model }, fused: true }
}

/**
 * Finds the supports that a mesh arrives with, where they are pieces of their own: rods that rise from the plate, from a raft or from each
 * other and end in the model in a tip that is narrower than what carries it; rods between them; thin rods from the model to the model that
 * narrow at both ends. Supports that are fused with the model into one surface are not found.
 * @param most share of the levels of a rod that must show that it is one
 */
export function recognise(mesh: Mesh, most?: number): BuiltIn {
  const plateMm = boundsOf(mesh.positions).min[2], pieces = piecesOf(mesh)
  const flat = pieces.filter(p => p.low[2] - plateMm <= ON_PLATE_MM && p.high[2] - plateMm <= RAFT_MM)
  const rods = pieces.flatMap(p => (flat.includes(p) || p.triangles.length > MOST_TRIANGLES ? [] : (rodOf(mesh, p, plateMm, most) ?? [])))
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
  const feet = new Map(rafts.filter(p => !isLevel(mesh, p)).flatMap(p => [...rimsOf(mesh, p, rods.filter(r => standsOn(p, r)), plateMm)]))
  for (const [r, tip] of tips) if (stands(r)) take(r, onPlate(r, tip, plateMm, feet.get(r)))
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
  const below = rafts.filter(p => [...placeOf.keys()].some(r => standsOn(p, r))), under = below.filter(p => isLevel(mesh, p))
  for (const p of below) taken.add(p)
  const gone = new Set([...taken].flatMap(p => p.triangles))
  return {
    supports, braces, plateMm, model: Uint32Array.from({ length: mesh.triangles.length / 3 }, (_, i) => i).filter(i => !gone.has(i)),
    raft: under.length > 0 ? { thicknessMm: Math.max(...under.map(p => p.high[2] - plateMm)), whole: under.length === 1 } : null,
  }
}

/** Whether a rod stands on a piece that lies on the plate: its end is within it, and no narrower than what is above. */
function standsOn(p: ShellPiece, r: Rod): boolean {
  const [x, y, z] = r.bottom, long = r.runs.filter(run => distance(run.from, run.to) > CONE_MM), runs = long.length > 0 ? long : r.runs, last = runs[runs.length - 1], thick = runs.reduce((m, run) => Math.max(m, run.fromRadius), 0)
  return z <= p.high[2] + ON_PLATE_MM && x >= p.low[0] && x <= p.high[0] && y >= p.low[1] && y <= p.high[1] && last.toRadius > NARROWER * thick
}

/** Whether what lies on the plate is level above, as rafts are; feet that grew into each other slope from their shafts. */
function isLevel({ positions: p, triangles: t }: Mesh, piece: ShellPiece): boolean {
  let level = 0, up = 0
  for (const f of piece.triangles) {
    const [a, b, c] = [0, 1, 2].map((k): Vec3 => [p[3 * t[3 * f + k]], p[3 * t[3 * f + k] + 1], p[3 * t[3 * f + k] + 2]]), n = cross(sub(b, a), sub(c, a)), area = Math.hypot(...n)
    if (n[2] <= 0.05 * area) continue
    up += area
    if (n[2] > LEVEL * area) level += area
  }
  return level > up / 2
}

/** How wide feet are that grew into each other: of every rod that stands there how far the rim reaches that is nearer to it than to others. */
function rimsOf({ positions: p, triangles: t }: Mesh, piece: ShellPiece, rods: readonly Rod[], plateMm: number): Map<Rod, { readonly footDiameterMm: number; readonly footHeightMm: number }> {
  const reach = new Map<Rod, number[]>()
  for (const v of new Set(piece.triangles.flatMap(f => [t[3 * f], t[3 * f + 1], t[3 * f + 2]]))) {
    if (p[3 * v + 2] - plateMm > ON_PLATE_MM) continue
    const off = (r: Rod): number => Math.hypot(p[3 * v] - r.bottom[0], p[3 * v + 1] - r.bottom[1])
    const nearest = rods.reduce<Rod | null>((a, b) => (!a || off(b) < off(a) ? b : a), null)
    if (nearest) reach.set(nearest, [...(reach.get(nearest) ?? []), off(nearest)])
  }
  // where two rims meet they are nearer than they reach
  return new Map([...reach].map(([r, mm]) => [r, { footDiameterMm: 2 * mm.sort((a, b) => a - b)[Math.floor(0.8 * (mm.length - 1))], footHeightMm: Math.max(0.2, r.bottom[2] - plateMm) }]))
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
  const cut = cutProfileOf(mesh, body, r, entry.at, down), { radiusMm, shape } = cut ?? profileOf(mesh, r, entry.at, down)
  if (radiusMm * 2 > THICKEST_TIP_MM || radiusMm > NARROWER * widest) return null
  return { at: cut?.at ?? entry.at, normal: entry.normal, shape, diameterMm: 2 * radiusMm, depthMm: cut?.depthMm ?? entry.depthMm, heightMm: entry.at[2] - plateMm }
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

/**
 * The same of a tip that ends at the skin, as where it was cut from it: by its corners, which lie on it however it was cut; a cone by the
 * straight line through them, a ball by the circle. Null where it goes in.
 */
function cutProfileOf(mesh: Mesh, body: Surface, r: Rod, entry: Vec3, down: Vec3): { readonly radiusMm: number; readonly shape: TipShape; readonly depthMm: number; readonly at: Vec3 } | null {
  const axis = coneAxis(mesh, r, entry, down), at = axis.at
  const near = cornersNear(mesh, r, at, axis.down), widest = near.reduce((m, c) => (c.along < CONE_MM ? Math.max(m, c.off) : m), 0)
  // the middle of its cap is no corner of the tip
  const corners = near.filter(c => c.off > MIDDLE * widest)
  if (corners.some(c => c.along < -INSIDE_MM && body.distance(c.at, 2 * INSIDE_MM) > INSIDE_MM)) return null
  const line = corners.map(c => [c.along, c.off] as const).sort((a, b) => a[0] - b[0]), low = line.findLastIndex(([s, x], i) => line.slice(0, i).some(o => s - o[0] < BALL_MM && o[1] > x * NARROWS))
  if (low > 0) {
    // what comes before its neck is the ball
    const upper = line.filter(([s]) => s <= line[low][0] + INSIDE_MM), neck = upper.reduce((m, c) => (c[1] < m[1] && upper.some(o => o[0] < c[0] && o[1] > c[1] * NARROWS) ? c : m), line[low])
    const ball = lineOf(line.filter(([s]) => s <= neck[0] + 1e-3).map(([s, x]) => [s, x * x + s * s] as const)), center = ball.slope / 2, radiusMm = Math.sqrt(Math.max(0, ball.at + center * center))
    if (radiusMm > neck[1] && radiusMm < 2 * neck[1]) return { radiusMm, shape: 'ball', depthMm: Math.max(0, radiusMm - center), at }
  }
  const knee = line.findIndex(([s], i) => i > 2 && s > CONE_MM), cone = lineOf(line.slice(0, knee < 0 ? line.length : knee))
  return cone.at > 0 ? { radiusMm: cone.at, shape: 'cone', depthMm: 0, at } : null
}
/** The axis of a tip's cone, through the middles of its sections, and where that is beside the point where it enters the skin. */
function coneAxis(mesh: Mesh, r: Rod, entry: Vec3, down: Vec3): { readonly at: Vec3; readonly down: Vec3 } {
  const cone = r.runs.find(x => distance(x.from, x.to) > CONE_MM) ?? r.runs[0], length = Math.min(AXIS_MM, Math.abs(dot(sub(cone.to, entry), down)))
  const middles = Array.from({ length: AXIS_SECTIONS }, (_, i) => (0.3 + (0.6 * i) / (AXIS_SECTIONS - 1)) * length).flatMap(s => {
    const at = add(entry, scale(down, s)), [one] = sectionsOf(mesh, r.piece.triangles, at, down).sort((a, b) => distance(a.center, at) - distance(b.center, at)) as (ReturnType<typeof sectionsOf>[number] | undefined)[]
    return one && distance(one.center, at) < 0.3 ? [{ s, at: one.center }] : []
  })
  if (middles.length < 3) return { at: entry, down }
  const lines = [0, 1, 2].map(k => lineOf(middles.map(m => [m.s, m.at[k]] as const)))
  return { at: [lines[0].at, lines[1].at, lines[2].at], down: unit([lines[0].slope, lines[1].slope, lines[2].slope]) }
}
/** Corners of a rod near its tip: how far down its axis they are from where it touches, and how far off it. */
function cornersNear({ positions: p, triangles: t }: Mesh, r: Rod, from: Vec3, down: Vec3): { readonly at: Vec3; readonly along: number; readonly off: number }[] {
  const seen = new Set<number>()
  for (const f of r.piece.triangles) for (let c = 0; c < 3; c++) seen.add(t[3 * f + c])
  return [...seen].flatMap(v => {
    const at: Vec3 = [p[3 * v], p[3 * v + 1], p[3 * v + 2]], q = sub(at, from), along = dot(q, down), off = Math.sqrt(Math.max(0, dot(q, q) - along * along))
    return along < PROFILE_MM && along > -DEEPEST_MM && off < THICKEST_TIP_MM ? [{ at, along, off }] : []
  })
}
/** The straight line through some points, by least squares: its value at 0, and its slope. */
function lineOf(points: readonly (readonly [number, number])[]): { readonly at: number; readonly slope: number } {
  const n = points.length || 1, x = points.reduce((s, p) => s + p[0], 0) / n, y = points.reduce((s, p) => s + p[1], 0) / n, square = points.reduce((s, p) => s + (p[0] - x) ** 2, 0)
  const slope = square > 0 ? points.reduce((s, p) => s + (p[0] - x) * (p[1] - y), 0) / square : 0
  return { at: y - slope * x, slope }
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

function onPlate(r: Rod, tip: BuiltInTip, plateMm: number, foot?: Pick<ReturnType<typeof footOf>, 'footDiameterMm' | 'footHeightMm'>): BuiltInSupport | null {
  const { footDiameterMm, footHeightMm, shaft } = { ...footOf(r, plateMm), ...foot }, { knee, radius, below } = kneeOf({ ...r, runs: shaft }, tip.at)
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
