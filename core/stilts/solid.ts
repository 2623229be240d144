import { isWay, type PlanBeam, type PlanNode } from '../contract'
import { add, cross, distance, dot, joinMeshes, scale, sub, unit, type Mesh, type Vec3 } from '../mesh'
import type { PlanIndex, Structure } from './plan-index'
import { axisTo } from './axis'
import { NECK_AT } from './contact'
import { diametersOf, legsOf, type Stilt, type StiltShape, type StiltSizes } from './stilt'

/** Sides of every ring. Inscribed, so a stilt is never thicker than its sizes say. */
const SIDES = 16

/** A foot on the model narrows to this share inside it, so that it does not break out again beside an edge. */
const FOOT_END_SHARE = 0.4
/** Levels of a ball, both poles counted. */
const BALL_RINGS = 8
/** Rings of a ball tip, the first one next to its pole. */
const BALL_TIP_RINGS = 7
/** Rings of a round end of a tube. */
const ROUND_RINGS = 4
/** A tube that turns by less than this cosine, and is as wide as this from what is between its neighbours, mm, has no ring there. */
const STRAIGHT = 0.99999, SAME_MM = 0.005
const NECK_SHARE_OF_SINE = Math.sqrt(1 - NECK_AT ** 2)

const EMPTY: Mesh = { positions: new Float32Array(0), triangles: new Uint32Array(0) }

interface Ring {
  readonly center: Vec3
  /** Direction of travel, from tip to foot. */
  readonly along: Vec3
  readonly radius: number
  /** At a joint, halfway between what comes and what goes. */
  readonly bends?: true
}

/** One stilt as a closed, outward-facing solid: a tube swept from the end of its tip, inside the part, to the plate, and one for each leg of a foot that is spread. Empty where it lost its foot. */
export function solidOfStilt(stilt: StiltShape): Mesh {
  if (stilt.foot === 'lost') return EMPTY
  const { path, sizes } = stilt, diameters = diametersOf(stilt).map(([from]) => from)
  const tube = swept({ path, diameters, tip: sizes, foot: { ...sizes, on: stilt.foot } }), joint = path[path.length - 2], legs = legsOf(stilt)
  return legs.length === 0 ? tube : joinMeshes([tube, ...legs.map(({ at }) => sweep([{ center: joint, along: unit(sub(at, joint)), radius: sizes.shaftFootDiameterMm / 2 }, ...footRings(at, unit(sub(at, joint)), { ...sizes, on: 'model' })]))])
}

/** Stilts that reach the ground, as one mesh of closed solids. */
export function solidOfStilts(stilts: readonly StiltShape[]): Mesh {
  return joinMeshes(stilts.map(solidOfStilt))
}

/** A structure as one mesh of its solids. */
export function solidOfStructure(index: PlanIndex, structure: Structure): Mesh {
  return joinMeshes(solidsOfStructure(index, structure))
}

/**
 * A structure as closed, outward-facing solids that overlap where they meet: a tube for every tip down to what another tube has
 * already, a ball where several meet, a tube for every brace. What leads to no foot is left out.
 */
export function solidsOfStructure(index: PlanIndex, structure: Structure): Mesh[] {
  const solids: Mesh[] = [], covered = new Set<string>(), widest = new Map<string, number>()
  const meet = (node: string, diameter: number): void => void widest.set(node, Math.max(widest.get(node) ?? 0, diameter))
  // what carries comes before what hangs on it
  const stilts = [...structure.nodes].sort().flatMap(id => (index.nodes.get(id)?.kind === 'tip' ? (index.stilt(id) ?? []) : [])).filter(s => s.foot !== 'lost')
  const whole = (s: Stilt): boolean => s.alone === s.nodes.length
  for (const stilt of [...stilts.filter(whole), ...stilts.filter(s => !whole(s))]) {
    const stop = stilt.nodes.findIndex(n => covered.has(n)), length = stop < 0 ? stilt.nodes.length : stop + 1
    const beams = stilt.beams.map(b => index.beams.get(b) as PlanBeam)
    const diameters = stilt.path.map((_, i) => (i < beams.length ? beams[i].fromDiameterMm : 0))
    if (stop >= 0) {
      diameters[stop] = beams[stop - 1].toDiameterMm
      meet(stilt.nodes[stop], diameters[stop])
      const below = beams[stop]
      if (below) meet(stilt.nodes[stop], below.fromDiameterMm)
    }
    solids.push(swept({ path: stilt.path.slice(0, length), diameters, tip: stilt.sizes, foot: stop < 0 ? { ...stilt.sizes, on: stilt.foot === 'model' ? 'model' : 'plate' } : null }))
    for (const n of stilt.nodes) covered.add(n)
  }
  for (const id of structure.beams) {
    const beam = index.beams.get(id), end = index.nodes.get(beam?.to ?? '')
    if (!beam || isWay(beam) || !end || !covered.has(beam.from) || !(end.kind === 'foot' || covered.has(beam.to))) continue
    solids.push(sweep(braceRings(beam, (index.nodes.get(beam.from) as PlanNode).at, end)))
  }
  for (const [id, diameter] of widest) {
    const node = index.nodes.get(id) as PlanNode
    if (node.kind !== 'foot') solids.push(ball(node.at, diameter / 2))
  }
  return solids
}

/** The foot that a brace ends at; null for a joint. */
function ownFoot(end: PlanNode): Tube['foot'] {
  if (end.kind !== 'foot' || end.on.kind === 'lost') return null
  return { ...end.fitted, on: end.on.kind }
}

/** The rings of a brace: from joint to joint, or down to a foot of its own. */
function braceRings(beam: PlanBeam, from: Vec3, end: PlanNode): Ring[] {
  const own = ownFoot(end), axis = axisTo([from, end.at], own), along = unit(sub(axis[1], from))
  const head = { center: from, along, radius: beam.fromDiameterMm / 2 }
  return own ? [head, ...footRings(axis[1], along, own)] : [head, { center: end.at, along, radius: beam.toDiameterMm / 2 }]
}

/** What a tube is swept along: its nodes, the diameter at each of those between tip and foot, and its ends. */
interface Tube {
  readonly path: readonly Vec3[]
  readonly diameters: readonly number[]
  readonly tip: Pick<StiltSizes, 'tipShape' | 'tipDiameterMm' | 'penetrationMm'>
  /** Null where it ends at a joint. */
  readonly foot: (Pick<StiltSizes, 'shaftFootDiameterMm' | 'footDiameterMm' | 'footHeightMm' | 'footPenetrationMm'> & { readonly on: 'plate' | 'model' }) | null
}

function ringsOf({ path, diameters, tip: { tipShape, tipDiameterMm, penetrationMm }, foot: at }: Tube): Ring[] {
  const axis = axisTo(path, at)
  const last = axis.length - 1
  const directions = axis.slice(0, -1).map((p, i) => unit(sub(axis[i + 1], p)))
  const rings: Ring[] = []
  const tip = axis[0], first = directions[0]
  const tipRadius = tipDiameterMm / 2
  if (tipShape === 'ball') for (const [at, radius] of ballProfile(tipRadius, penetrationMm)) rings.push({ center: add(tip, scale(first, at)), along: first, radius })
  else {
    if (penetrationMm > 0) rings.push({ center: sub(tip, scale(first, penetrationMm)), along: first, radius: tipRadius })
    rings.push({ center: tip, along: first, radius: tipRadius })
  }
  for (let i = 1, before = 0; i < last; i++) {
    // a joint where nothing turns or tapers anew is not seen: next to a bend its ring would cross that of the bend
    const share = distance(axis[before], axis[i]) / (distance(axis[before], axis[i]) + distance(axis[i], axis[i + 1]))
    if (i > 1 && dot(directions[i - 1], directions[i]) > STRAIGHT && Math.abs(diameters[before] + share * ((i + 1 < last ? diameters[i + 1] : endDiameter(at, diameters[last])) - diameters[before]) - diameters[i]) < SAME_MM) continue
    rings.push({ center: axis[i], along: unit(add(directions[i - 1], directions[i])), radius: diameters[i] / 2, bends: true })
    before = i
  }
  const foot = axis[last]
  if (!at) {
    rings.push({ center: foot, along: directions[last - 1], radius: diameters[last] / 2 })
    return rings
  }
  rings.push(...footRings(foot, directions[last - 1], at))
  return rings
}

/**
 * A tube as a solid. Where a bend is too sharp for how short its pieces are, the rings of two bends would cross and fold the tube over:
 * there it ends round, and what goes on starts in the middle of that.
 */
function swept(tube: Tube): Mesh {
  const rings = ringsOf(tube), cuts = new Set<number>()
  const toward = (i: number, way: 1 | -1): Vec3 => unit(scale(sub(rings[i + way].center, rings[i].center), way))
  // what is cut stands square to the piece it belongs to
  const ring = (i: number, way: 1 | -1): Ring => (cuts.has(i) ? { ...rings[i], along: toward(i, way) } : rings[i])
  const reach = (i: number): number => rings[i].radius / dot(rings[i].along, toward(i, 1))
  for (let i = 1; i < rings.length; i++) {
    if (isBefore(ring(i - 1, 1), ring(i, -1))) continue
    const [sharper] = [i - 1, i].filter(k => rings[k].bends && !cuts.has(k)).sort((a, b) => reach(b) - reach(a))
    if (sharper === undefined) continue
    cuts.add(sharper)
    i = sharper - 1
  }
  if (cuts.size === 0) return sweep(rings)
  const at = [...cuts].sort((a, b) => a - b)
  return joinMeshes([0, ...at].map((from, k) => {
    const to = at[k] ?? rings.length - 1, middle = rings.slice(from + 1, to)
    return sweep([ring(from, 1), ...middle, ...(cuts.has(to) ? roundEnd(ring(to, -1)) : [rings[to]])])
  }))
}

/** Whether no corner of a ring lies behind the plane of the one before it, nor the other way round. */
function isBefore(a: Ring, b: Ring): boolean {
  const way = sub(b.center, a.center), turn = distance(cross(a.along, b.along), [0, 0, 0])
  return dot(way, a.along) >= b.radius * turn - SAME_MM && dot(way, b.along) >= a.radius * turn - SAME_MM
}

/** A round end of a tube, inscribed: what leans into another piece has its lowest place in that, and no edge that hangs beside it. */
function roundEnd({ center, along, radius }: Ring): Ring[] {
  return Array.from({ length: ROUND_RINGS }, (_, i) => {
    const a = (Math.PI / 2) * (i / ROUND_RINGS)
    return { center: add(center, scale(along, Math.sin(a) * radius)), along, radius: Math.cos(a) * radius }
  })
}

/** How wide a tube is where it ends, mm. */
function endDiameter(at: Tube['foot'], jointMm: number): number {
  return !at ? jointMm : at.on === 'model' ? at.footDiameterMm : at.shaftFootDiameterMm
}

/** The rings of a foot where its shaft comes down along a direction. */
function footRings(foot: Vec3, along: Vec3, at: NonNullable<Tube['foot']>): Ring[] {
  if (at.on === 'model') {
    const deep = at.footPenetrationMm, touch = { center: foot, along, radius: at.footDiameterMm / 2 }
    return deep > 0 ? [touch, { center: [foot[0] + along[0] * deep, foot[1] + along[1] * deep, foot[2] + along[2] * deep], along, radius: at.footDiameterMm / 2 * FOOT_END_SHARE }] : [touch]
  }
  const down: Vec3 = [0, 0, -1], rim = Math.max(at.footDiameterMm, at.shaftFootDiameterMm) / 2
  return [
    { center: foot, along: down, radius: at.shaftFootDiameterMm / 2 },
    { center: [foot[0], foot[1], at.footHeightMm * 0.4], along: down, radius: rim },
    { center: [foot[0], foot[1], 0], along: down, radius: rim },
  ]
}

/** How a ball tip widens and narrows from its end inside the part to its neck: places along its axis from where it touches, and radii, mm. Inscribed. */
export function ballProfile(radius: number, penetrationMm: number): [number, number][] {
  const neck = Math.PI - Math.asin(NECK_SHARE_OF_SINE)
  return Array.from({ length: BALL_TIP_RINGS }, (_, i) => {
    const a = (neck * (i + 1)) / BALL_TIP_RINGS
    return [radius - penetrationMm - Math.cos(a) * radius, Math.sin(a) * radius]
  })
}

/** A ball, inscribed as the tubes are. */
function ball(center: Vec3, radius: number): Mesh {
  const rings: Ring[] = []
  for (let i = 1; i < BALL_RINGS; i++) {
    const a = (Math.PI * i) / BALL_RINGS
    rings.push({ center: [center[0], center[1], center[2] + Math.cos(a) * radius], along: [0, 0, -1], radius: Math.sin(a) * radius })
  }
  return sweep(rings, [[center[0], center[1], center[2] + radius], [center[0], center[1], center[2] - radius]])
}

/** @param ends the middles of both caps; in the planes of the first and the last ring where left out */
function sweep(rings: readonly Ring[], ends?: readonly [Vec3, Vec3]): Mesh {
  const n = rings.length
  const positions = new Float32Array((n * SIDES + 2) * 3)
  const triangles = new Uint32Array((2 * SIDES * (n - 1) + 2 * SIDES) * 3)
  let side = perpendicular(rings[0].along)
  rings.forEach((ring, i) => {
    // carry the frame along without twist
    side = unit(sub(side, scale(ring.along, dot(side, ring.along))))
    const up = cross(ring.along, side)
    for (let s = 0; s < SIDES; s++) {
      const a = (2 * Math.PI * s) / SIDES, c = Math.cos(a) * ring.radius, d = Math.sin(a) * ring.radius
      for (let x = 0; x < 3; x++) positions[3 * (i * SIDES + s) + x] = ring.center[x] + c * side[x] + d * up[x]
    }
  })
  const top = n * SIDES, bottom = top + 1
  positions.set(ends ? ends[0] : rings[0].center, 3 * top)
  positions.set(ends ? ends[1] : rings[n - 1].center, 3 * bottom)
  let t = 0
  const put = (a: number, b: number, c: number): void => {
    triangles[t++] = a
    triangles[t++] = b
    triangles[t++] = c
  }
  for (let s = 0; s < SIDES; s++) {
    const u = (s + 1) % SIDES
    put(top, u, s)
    for (let i = 0; i + 1 < n; i++) {
      const a = i * SIDES + s, b = i * SIDES + u, c = a + SIDES, d = b + SIDES
      put(a, b, d)
      put(a, d, c)
    }
    put(bottom, (n - 1) * SIDES + s, (n - 1) * SIDES + u)
  }
  return { positions, triangles }
}

function perpendicular(v: Vec3): Vec3 {
  return unit(cross(v, Math.abs(v[0]) < 0.8 ? [1, 0, 0] : [0, 1, 0]))
}
