import { pegsUnder } from '../bed'
import type { Anchor, Gauge, Spread } from '../contract'
import { facesOf } from '../marks'
import { PointGrid, type Patches, type Vec3 } from '../mesh'
import { fromSource, normalFromSource, normalToSource, toSource } from '../pose'
import { BeamField, beamsOfShape, routeStilt, shapeOfRoute, type Others, type Plate, type StiltShape, type Surface } from '../stilts'
import { alongEdge, alongLine, type Spot, type WayPoint } from './along'
import { byStrokes } from './by-strokes'
import { overFaces } from './over-faces'

/** A tip at an edge stands by its radius and so much inside it, mm. */
const INSIDE_MM = 0.05

/** A point of the skin, kept so that it survives every change of pose. */
export function anchorOf(surface: Surface, { point, normal }: WayPoint): Anchor {
  const at = toSource(surface, point), n = normalToSource(surface, normal)
  return { point: [at[0], at[1], at[2]], normal: [n[0], n[1], n[2]] }
}
function wayPoint(surface: Surface, { point, normal }: Anchor): WayPoint {
  return { point: fromSource(surface, point), normal: normalFromSource(surface, normal) }
}

/** Faces of the part's mesh by triangles of its file. */
export function facesOfRuns(runs: readonly number[], from: Uint32Array | undefined): number[] {
  const sources = facesOf(runs)
  if (!from) return [...sources]
  const wanted = new Set(sources)
  return Array.from(from.keys()).filter(face => wanted.has(from[face]))
}

/** Ways that lead to spots of the skin; the pegs of a bed look for theirs themselves. */
export type SpotWay = Exclude<Spread['way'], { kind: 'bed' }>

/** The spots of a spread as the part stands, those that nothing can stand at among them. */
export function spotsOf(surface: Surface, patches: Patches, { way, spacingMm }: { readonly way: SpotWay; readonly spacingMm: number }, gauge: Gauge): Spot[] {
  const inset = gauge.tipDiameterMm / 2 + INSIDE_MM
  switch (way.kind) {
    case 'line': return alongLine(surface, wayPoint(surface, way.from), wayPoint(surface, way.to), spacingMm)
    // a mirror turns left and right over
    case 'edge': return alongEdge(surface, way.points.map(p => wayPoint(surface, p)), way.closed, spacingMm, inset, surface.shape[0] * surface.shape[1] * surface.shape[2] < 0)
    case 'face': return overFaces(surface, patches, facesOfRuns(way.runs, surface.faces.from), spacingMm, way.pattern, Math.max(way.marginMm, gauge.tipDiameterMm / 2))
    case 'strokes': return byStrokes(surface, way.points.map(p => ({ ...wayPoint(surface, p), pressure: p.pressure })), spacingMm, way.pressure)
  }
}

/** What came of a spread. */
export interface SpreadOut {
  readonly stilts: readonly StiltShape[]
  /** Spots left out since tips stand there already. */
  readonly kept: number
  /** Spots where nothing can stand, and why. */
  readonly missed: readonly { readonly at: Vec3; readonly reason: string }[]
}
export interface SpreadSetting {
  /** In their order. */
  readonly gauges: readonly Gauge[]
  readonly plate: Plate
  /** Stilts that new ones keep clear of; new ones are added to their field. */
  readonly others?: Others
  /** Tips that stand already, in the stand. */
  readonly tips: Iterable<Spot['point']>
}

/** Those of some spots that keep a distance to tips that stand already. */
export function awayFrom(spots: readonly Spot[], tips: Iterable<Spot['point']>, keepMm: number): Spot[] {
  if (keepMm <= 0) return [...spots]
  const standing = new PointGrid(keepMm)
  for (const t of tips) standing.add(t)
  return spots.filter(s => !standing.near(s.point, keepMm))
}

/** Stands stilts at the spots of a spread. A generator: yields how many were tried, so that others have a turn and it can be ended. */
export function* placeSpread(surface: Surface, patches: Patches, spread: Pick<Spread, 'id' | 'gauge' | 'spacingMm' | 'keepMm' | 'way'>, { gauges, plate, others, tips }: SpreadSetting): Generator<{ readonly done: number; readonly of: number }, SpreadOut, void> {
  const { way } = spread
  if (way.kind === 'bed') {
    const found = yield* pegsUnder(surface, way.pattern, way, { plate, others, tips, keepMm: spread.keepMm }, spread.id)
    const beside = found.filter(p => !p.ok && p.problem === 'beside-tip')
    return { stilts: found.flatMap(p => (p.ok ? [p.shape] : [])), kept: beside.length, missed: found.flatMap(p => (p.ok || p.problem === 'beside-tip' ? [] : [{ at: p.at, reason: p.reason }])) }
  }
  const at = gauges.findIndex(g => g.id === spread.gauge)
  if (at < 0) throw new Error(`There is no gauge "${spread.gauge}".`)
  const all = spotsOf(surface, patches, { way, spacingMm: spread.spacingMm }, gauges[at]), spots = awayFrom(all, tips, spread.keepMm), field = others?.field ?? new BeamField()
  const stilts: StiltShape[] = [], missed: { at: Vec3; reason: string }[] = []
  for (const [i, spot] of spots.entries()) {
    yield { done: i, of: spots.length }
    const gauge = gauges[Math.max(0, Math.min(gauges.length - 1, at + (spot.thicker ?? 0)))]
    const route = routeStilt(surface, spot.point, spot.normal, gauge, plate, undefined, others)
    if (!route.ok) {
      missed.push({ at: spot.point, reason: route.reason })
      continue
    }
    const shape: StiltShape = { ...shapeOfRoute(surface, gauge, 'detail', route, spot.normal), spread: spread.id }
    stilts.push(shape)
    field.put(`${spread.id} ${i}`, beamsOfShape(shape).map(beam => ({ owner: `${spread.id} ${i}`, beam })))
  }
  return { stilts, kept: all.length - spots.length, missed }
}
