import { add, cross, distance, dot, scale, sub, unit, type Mesh, type Vec3 } from '../mesh'
import { sectionsOf, type Section } from './sections'
import type { ShellPiece } from './shells'

/** A level section of a rod. */
interface Station {
  readonly at: Vec3
  /** Square to the rod's axis, mm. */
  readonly radiusMm: number
}

/** A run of a rod that is straight and tapers evenly, from its upper end. */
export interface Run {
  readonly from: Vec3
  readonly to: Vec3
  readonly fromRadius: number
  readonly toRadius: number
}

/** A piece of a mesh that is one rod, upright or leaning: what a support can be. */
export interface Rod {
  readonly piece: ShellPiece
  /** From its upper end to its lower one. */
  readonly runs: readonly Run[]
  /** Ends of its axis; the middles of its caps; and the directions of its axis from there. */
  readonly top: Vec3
  readonly bottom: Vec3
  readonly down: Vec3
  readonly up: Vec3
}

/** Wider than this no support is but at its foot, mm; and shorter than that none is. */
const WIDEST_MM = 6, SHORTEST_MM = 0.6
/** It may be as wide as it likes up to this height above the plate, mm. */
const FOOT_MM = 2.5
/** Between its ends a rod is cut at so many levels; within so far of its ends as close as that, but no closer than the last, mm. */
const LEVELS = 72, END_MM = 5, CLOSE_MM = 0.12, CLOSEST_MM = 0.04
/** An outline that reaches this much farther than a circle of its area is no section of one rod: leaning by 60° it is √2 times. */
const ROUND_WITHIN = 1.75
/** Share of the levels that must show one round section. */
const MOST = 0.85
/** A run is straight where its stations are within this of it, mm; radii count three times as much. */
const STRAIGHT_MM = 0.03, RADIUS_WEIGHT = 2
/** A run of that length tells the direction of a rod's end, mm. */
const AXIS_MM = 0.7
/** A run of that length is none of a bend, mm; two such runs meet where they pass each other as closely as that, about where the bend is. */
const LONG_MM = 0.7, MEETS_MM = 0.12, SLACK_MM = 0.4

/** The rod that a piece is; null where it is none. @param most share of its levels that must show that; fewer do where its ends were cut aslant */
export function rodOf(mesh: Mesh, piece: ShellPiece, plateMm: number, most = MOST): Rod | null {
  const height = piece.high[2] - piece.low[2]
  if (height < SHORTEST_MM) return null
  const levels = levelsOf(piece.low[2], piece.high[2])
  const found: { readonly z: number; readonly section: Section }[] = []
  let wrong = 0
  for (const z of levels) {
    const sections = sectionsOf(mesh, piece.triangles, [0, 0, z], [0, 0, 1])
    const [one] = sections, wide = z - plateMm > FOOT_MM && one && one.radiusMm * 2 > WIDEST_MM
    if (sections.length !== 1 || wide || one.reachMm > ROUND_WITHIN * one.radiusMm) {
      if (++wrong > (1 - most) * levels.length) return null
      continue
    }
    found.push({ z, section: one })
  }
  if (found.length < 5) return null
  const round = roundnessOf(found.map(f => f.section))
  const stations = found.map(({ section }, i): Station => {
    const a = found[Math.max(0, i - 1)].section.center, b = found[Math.min(found.length - 1, i + 1)].section.center, along = unit(sub(a, b))
    return { at: section.center, radiusMm: section.radiusMm * round * Math.sqrt(Math.abs(along[2])) }
  })
  const runs = runsOf(stations), upper = endRun(runs), lower = endRun(runs.toReversed())
  return { piece, runs, top: endOf(mesh, piece, upper.to, upper.from), bottom: endOf(mesh, piece, lower.from, lower.to), down: unit(sub(upper.to, upper.from)), up: unit(sub(lower.from, lower.to)) }
}

/** Circles are drawn as polygons within them: how much longer their corners reach than the circle of their area, as the roundest sections of a rod show. */
function roundnessOf(sections: readonly Section[]): number {
  const ratios = sections.map(s => s.reachMm / s.radiusMm).sort((a, b) => a - b), least = ratios[Math.floor(ratios.length * 0.1)]
  return least < 1.1 ? Math.max(1, least) : 1
}

/** The run that tells where the axis goes at an end: the first that is long enough, since level sections through a slanting cap are no full ones. */
function endRun(runs: readonly Run[]): Run {
  const length = (r: Run): number => distance(r.from, r.to)
  return runs.find(r => length(r) >= AXIS_MM) ?? runs.reduce((best, r) => (length(r) > length(best) ? r : best))
}

/** Heights at which a rod is cut, from the top: close to each other near its ends, where cone, knee and foot are. */
function levelsOf(low: number, high: number): number[] {
  const height = high - low, ends = Math.min(END_MM, height / 2), close = Math.max(CLOSEST_MM, Math.min(CLOSE_MM, height / LEVELS)), far = Math.max(close, (height - 2 * ends) / LEVELS)
  const out: number[] = []
  for (let z = high - close / 2; z > low; z -= high - z < ends || z - low < ends ? close : far) out.push(z)
  return out
}

/** The end of a rod beyond the last station: as far as its corners go along its axis. */
function endOf({ positions: p, triangles: t }: Mesh, piece: ShellPiece, inner: Vec3, outer: Vec3): Vec3 {
  const along = unit(sub(outer, inner))
  let most = 0
  for (const n of piece.triangles) {
    for (let c = 0; c < 3; c++) {
      const v = t[3 * n + c], q: Vec3 = [p[3 * v] - outer[0], p[3 * v + 1] - outer[1], p[3 * v + 2] - outer[2]], s = dot(q, along)
      // what is beside the end belongs to another part of the rod
      if (s > most && Math.hypot(...cross(q, along)) < WIDEST_MM) most = s
    }
  }
  return add(outer, scale(along, most))
}

/** Stations as straight runs, by splitting where they are farthest off (Douglas and Peucker 1973); bends are where neighbouring runs meet. */
function runsOf(stations: readonly Station[]): Run[] {
  const bends: number[] = []
  const split = (a: number, b: number): void => {
    let far = 0, at = -1
    for (let i = a + 1; i < b; i++) {
      const off = offRun(stations[i], stations[a], stations[b])
      if (off > far) [far, at] = [off, i]
    }
    if (far <= STRAIGHT_MM) return
    split(a, at)
    bends.push(at)
    split(at, b)
  }
  split(0, stations.length - 1)
  const cuts = [0, ...bends, stations.length - 1], spans = cuts.slice(1).map((to, i) => ({ from: cuts[i], to }))
  const kept = withoutBends(stations, spans)
  const fits = kept.map(({ from, to }) => fitOf(stations.slice(from, to + 1)))
  const ends = fits.map((f, i) => (i + 1 < fits.length ? meeting(f, fits[i + 1], (stations[kept[i].to].at[2] + stations[kept[i + 1].from].at[2]) / 2) : stations[stations.length - 1].at[2]))
  const at = (f: Fit, z: number): Vec3 => [f.x + f.dx * z, f.y + f.dy * z, z]
  return fits.map((f, i): Run => {
    const high = i === 0 ? stations[0].at[2] : ends[i - 1], low = ends[i]
    return { from: at(f, high), to: at(f, low), fromRadius: f.r + f.dr * high, toRadius: f.r + f.dr * low }
  })
}

interface Span {
  readonly from: number
  readonly to: number
}
/**
 * Spans without the short ones between two long ones that meet there all the same: what level sections show of a bend is no run of its
 * own. Nor is what they show of the cap of a leaning end.
 */
function withoutBends(stations: readonly Station[], spans: readonly Span[]): readonly Span[] {
  const length = ({ from, to }: Span): number => distance(stations[from].at, stations[to].at), low = stations[stations.length - 1].at[2]
  const isLong = (s: Span): boolean => length(s) >= LONG_MM, fits = spans.map(({ from, to }) => fitOf(stations.slice(from, to + 1)))
  const gone = new Set<number>()
  for (let i = 0; i < spans.length; i++) {
    if (isLong(spans[i]) || gone.has(i)) continue
    let j = i
    while (j < spans.length && !isLong(spans[j])) j++
    // the foot is made of short runs
    const isEnd = j === spans.length || stations[spans[i].from].at[2] - low < FOOT_MM
    const between = { high: stations[spans[i].from].at[2] + SLACK_MM, low: stations[spans[j - 1].to].at[2] - SLACK_MM }
    if (i === 0 ? !isEnd : !isEnd && meets(fits[i - 1], fits[j], between)) for (let k = i; k < j; k++) gone.add(k)
    i = j
  }
  return spans.filter((_, i) => !gone.has(i))
}

/** Whether two runs pass each other closely between two heights. */
function meets(a: Fit, b: Fit, { high, low }: { readonly high: number; readonly low: number }): boolean {
  const z = Math.max(low, Math.min(high, meeting(a, b, (high + low) / 2)))
  return Math.hypot(a.x + a.dx * z - b.x - b.dx * z, a.y + a.dy * z - b.y - b.dy * z, a.r + a.dr * z - b.r - b.dr * z) < MEETS_MM
}

function offRun(p: Station, a: Station, b: Station): number {
  const s = (p.at[2] - a.at[2]) / (b.at[2] - a.at[2] || 1), mix = (u: number, v: number): number => u + (v - u) * s
  return Math.hypot(p.at[0] - mix(a.at[0], b.at[0]), p.at[1] - mix(a.at[1], b.at[1]), RADIUS_WEIGHT * (p.radiusMm - mix(a.radiusMm, b.radiusMm)))
}

/** x, y and radius of a run as lines over z. */
interface Fit {
  readonly x: number
  readonly dx: number
  readonly y: number
  readonly dy: number
  readonly r: number
  readonly dr: number
}

/** Least squares over the inner stations of a run, where it has some: those at bends belong to two. */
function fitOf(all: readonly Station[]): Fit {
  const some = all.length > 5 ? all.slice(1, -1) : all, n = some.length, mean = some.reduce((s, p) => s + p.at[2], 0) / n
  const square = some.reduce((s, p) => s + (p.at[2] - mean) ** 2, 0)
  const line = (of: (p: Station) => number): [number, number] => {
    const middle = some.reduce((s, p) => s + of(p), 0) / n, slope = square > 0 ? some.reduce((s, p) => s + (of(p) - middle) * (p.at[2] - mean), 0) / square : 0
    return [middle - slope * mean, slope]
  }
  const [x, dx] = line(p => p.at[0]), [y, dy] = line(p => p.at[1]), [r, dr] = line(p => p.radiusMm)
  return { x, dx, y, dy, r, dr }
}

/** The height where two runs meet: nearest in place and radius; the one between their stations where they hardly differ. */
function meeting(a: Fit, b: Fit, between: number): number {
  const d = [[a.x - b.x, a.dx - b.dx], [a.y - b.y, a.dy - b.dy], [RADIUS_WEIGHT * (a.r - b.r), RADIUS_WEIGHT * (a.dr - b.dr)]]
  const square = d.reduce((s, [, slope]) => s + slope * slope, 0)
  if (square < 1e-5) return between
  const z = -d.reduce((s, [at, slope]) => s + at * slope, 0) / square
  return Math.abs(z - between) < 1.5 ? z : between
}
