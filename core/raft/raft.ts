import earcut from 'earcut'
import { NO_RAFT, type Part, type PlanNode, type PlanOptions, type Raft } from '../contract'
import { joinMeshes, neighbourPairs, radians, type Mesh } from '../mesh'
import { solidOfStructure, solidsOfStructure, type PlanIndex } from '../stilts'

/** A foot on the plate: its middle, and the radius of its rim, mm. */
export interface RaftFoot {
  readonly x: number
  readonly y: number
  readonly radiusMm: number
}

/** Sides of what is round; of a vent. */
const SIDES = 48, VENT_SIDES = 16
/** A vent leaves so much of the plate around it and beside feet, mm. */
const AROUND_VENT_MM = 0.8
/** The lower side of a pad is at least so wide, mm. */
const LEAST_RADIUS_MM = 0.2

type Point = readonly [number, number]

/** The raft of a part as it counts: none where the part itself stands on the plate. */
export function raftOf({ raft, pose }: Pick<Part, 'raft' | 'pose'>): Raft {
  return pose.liftMm <= 0 ? NO_RAFT : raft
}

/** What the stilts of a part stand on once it is planned. */
export function raftAsked({ raft: kind }: Pick<PlanOptions, 'raft'>, part: Pick<Part, 'raft' | 'pose'>): Raft {
  return raftOf(kind === null ? part : { ...part, raft: { ...part.raft, kind } })
}

/** The feet of a part's stilts on the plate; of props as well. */
export function feetOf(nodes: Iterable<PlanNode>, part: string): RaftFoot[] {
  const feet: RaftFoot[] = []
  for (const n of nodes) if (n.part === part && n.kind === 'foot' && n.on.kind === 'plate') feet.push({ x: n.at[0], y: n.at[1], radiusMm: Math.max(n.fitted.footDiameterMm, n.fitted.shaftFootDiameterMm) / 2 })
  return feet
}

/** The stilts of a part, one solid for each structure of them. */
export function stiltSolids(index: PlanIndex, part: string): Mesh[] {
  return [...index.structures().values()].filter(s => s.part === part).map(s => solidOfStructure(index, s))
}

/** All solids under a part, each simple, which overlap where they meet: the tubes, balls and braces of its stilts, and its raft where it has one. */
export function solidsOfPart(index: PlanIndex, part: string, raft: Raft): Mesh[] {
  const stilts = [...index.structures().values()].filter(s => s.part === part).flatMap(s => solidsOfStructure(index, s)), under = raftSolid(raft, feetOf(index.nodes.values(), part))
  return under ? [...stilts, under] : stilts
}

/** A raft as closed, outward-facing solids that overlap where they meet, from the plate up; null where there is none. */
export function raftSolid(raft: Raft, feet: readonly RaftFoot[]): Mesh | null {
  if (raft.kind === 'none' || feet.length === 0) return null
  if (raft.kind === 'plate') return wholePlate(raft, feet)
  const pads = feet.map(f => prism(circle(f, topRadius(raft, f)), circle(f, bottomRadius(raft, f)), raft.thicknessMm))
  return joinMeshes(raft.kind === 'joined' ? [...pads, ...neighbourPairs(feet.map(f => [f.x, f.y] as const), raft.reachMm).map(([a, b]) => bar(raft, feet[a], feet[b]))] : pads)
}

/** How much narrower a raft is at the plate than at its top, to each side, mm. */
function inset({ thicknessMm, lipDeg }: Raft): number {
  return lipDeg >= 90 ? 0 : thicknessMm / Math.tan(radians(lipDeg))
}
function topRadius({ marginMm }: Raft, { radiusMm }: RaftFoot): number {
  return radiusMm + marginMm
}
function bottomRadius(raft: Raft, foot: RaftFoot): number {
  return Math.max(LEAST_RADIUS_MM, topRadius(raft, foot) - inset(raft))
}

function circle({ x, y }: Pick<RaftFoot, 'x' | 'y'>, radius: number, sides = SIDES): Point[] {
  return Array.from({ length: sides }, (_, i) => [x + radius * Math.cos((2 * Math.PI * i) / sides), y + radius * Math.sin((2 * Math.PI * i) / sides)])
}

/** A bar from under one foot to under another, with the same lip; it ends a little before the middle of a pad, where no other one ends. */
function bar(raft: Raft, a: RaftFoot, b: RaftFoot): Mesh {
  const length = Math.hypot(b.x - a.x, b.y - a.y), ux = (b.x - a.x) / length, uy = (b.y - a.y) / length
  const ends = [[a, 1], [b, -1]].map(([f, way]) => {
    const foot = f as RaftFoot, short = Math.min(foot.radiusMm * 0.3, length * 0.2) * (way as number)
    return [foot.x + ux * short, foot.y + uy * short] as const
  })
  const ring = (half: number): Point[] => [[ends[0][0] + uy * half, ends[0][1] - ux * half], [ends[1][0] + uy * half, ends[1][1] - ux * half], [ends[1][0] - uy * half, ends[1][1] + ux * half], [ends[0][0] - uy * half, ends[0][1] + ux * half]]
  return prism(ring(raft.barMm / 2), ring(Math.max(LEAST_RADIUS_MM, raft.barMm / 2 - inset(raft))), raft.thicknessMm)
}

/** One plate around all feet, bevelled, with vents on a hexagonal grid wherever they leave feet and rim alone. */
function wholePlate(raft: Raft, feet: readonly RaftFoot[]): Mesh {
  // every side looks to one direction, in which the outermost foot counts; so the lower outline has the corners of the upper one
  const corners = Array.from({ length: SIDES * 2 }, (_, k) => {
    const a = (Math.PI * k) / SIDES, ux = Math.cos(a), uy = Math.sin(a)
    const foot = feet.reduce((m, f) => (f.x * ux + f.y * uy + f.radiusMm > m.x * ux + m.y * uy + m.radiusMm ? f : m))
    return { top: [foot.x + ux * topRadius(raft, foot), foot.y + uy * topRadius(raft, foot)] as Point, bottom: [foot.x + ux * bottomRadius(raft, foot), foot.y + uy * bottomRadius(raft, foot)] as Point }
  })
  return prism(corners.map(c => c.top), corners.map(c => c.bottom), raft.thicknessMm, ventsIn(raft, corners.map(c => c.bottom), feet))
}

function ventsIn({ ventMm, ventEveryMm }: Raft, outline: readonly Point[], feet: readonly RaftFoot[]): Point[][] {
  if (ventMm <= 0) return []
  const every = Math.max(ventEveryMm, ventMm + 2 * AROUND_VENT_MM), radius = ventMm / 2, row = (every * Math.sqrt(3)) / 2, out: Point[][] = []
  const xs = outline.map(p => p[0]), ys = outline.map(p => p[1]), [left, right, low, high] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)]
  const rows = Math.floor((high - low) / row)
  for (let j = 0; j <= rows; j++) {
    const y = (low + high) / 2 + (j - rows / 2) * row, columns = Math.floor((right - left) / every)
    for (let i = 0; i <= columns; i++) {
      const x = (left + right) / 2 + (i - columns / 2 + (j % 2 ? 0.5 : 0)) * every
      const free = feet.every(f => Math.hypot(f.x - x, f.y - y) >= f.radiusMm + radius + AROUND_VENT_MM)
      if (free && depthIn(outline, x, y) >= radius + AROUND_VENT_MM) out.push(circle({ x, y }, radius, VENT_SIDES).reverse())
    }
  }
  return out
}

/** How far a point is inside a convex outline that goes round to the left, mm; negative outside. */
function depthIn(outline: readonly Point[], x: number, y: number): number {
  let depth = Infinity
  outline.forEach(([ax, ay], i) => {
    const [bx, by] = outline[(i + 1) % outline.length], dx = bx - ax, dy = by - ay, l = Math.hypot(dx, dy)
    if (l > 1e-9) depth = Math.min(depth, (dx * (y - ay) - dy * (x - ax)) / l)
  })
  return depth
}

/**
 * A closed solid between two outlines of as many corners, the lower one on the plate, with holes straight through both.
 * @param top goes round to the left, seen from above; so does the lower one, while holes go round to the right
 */
function prism(top: readonly Point[], bottom: readonly Point[], heightMm: number, holes: readonly (readonly Point[])[] = []): Mesh {
  const rings = [top, ...holes], lower = [bottom, ...holes], count = rings.reduce((n, r) => n + r.length, 0)
  const positions = new Float32Array(count * 6)
  rings.flat().forEach(([x, y], i) => positions.set([x, y, heightMm], 3 * i))
  lower.flat().forEach(([x, y], i) => positions.set([x, y, 0], 3 * (count + i)))
  const flat = (some: readonly (readonly Point[])[]): number[] => some.flat().flatMap(([x, y]) => [x, y])
  const starts = holes.map((_, h) => rings.slice(0, h + 1).reduce((n, r) => n + r.length, 0))
  const triangles: number[] = []
  const facing = (a: number, b: number, c: number, up: boolean, of: readonly Point[]): void => {
    const [p, q, r] = [of[a], of[b], of[c]], left = (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]) > 0, shift = up ? 0 : count
    triangles.push(a + shift, (left === up ? b : c) + shift, (left === up ? c : b) + shift)
  }
  for (const [some, up] of [[rings, true], [lower, false]] as const) {
    const ears = earcut(flat(some), starts.length > 0 ? starts : undefined), points = some.flat()
    for (let i = 0; i < ears.length; i += 3) facing(ears[i], ears[i + 1], ears[i + 2], up, points)
  }
  let start = 0
  for (const ring of rings) {
    ring.forEach((_, i) => {
      const a = start + i, b = start + ((i + 1) % ring.length)
      triangles.push(a + count, b + count, b, a + count, b, a)
    })
    start += ring.length
  }
  return { positions, triangles: Uint32Array.from(triangles) }
}
