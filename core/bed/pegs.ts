import type { Peg, PegPattern } from '../contract'
import { PointGrid, type Vec3 } from '../mesh'
import { beamsOfShape, BeamField, fitPenetration, GAP_FLOOR_MM, gapOfPath, LEAST_SHAFT_MM, onPlate, shapeOfRoute, shaftOf, thickened, tipRefused, wantedSizes, type Others, type Plate, type StiltShape, type Surface } from '../stilts'
import { placeOfPeg, type BedPlace } from './pattern'
import { touchOf, type Touch } from './touch'

/** Why a peg is left out. */
export type PegProblem = 'nothing-above' | 'off-limits' | 'faces-up' | 'too-low' | 'off-plate' | 'beside-part' | 'beside-stilt' | 'beside-tip'

/** A peg that reaches what stands above it. */
export interface StandingPeg extends Touch {
  readonly ok: true
  /** Which of the bed. */
  readonly peg: number
  readonly at: Vec3
  readonly shape: StiltShape
  /** Number of what the skin is worth, as core/marks has them. */
  readonly worth: number
}
export interface LeftOutPeg {
  readonly ok: false
  readonly peg: number
  /** Where it would have met the skin, or on the plate where there is none. */
  readonly at: Vec3
  readonly problem: PegProblem
  readonly reason: string
}
export type FoundPeg = StandingPeg | LeftOutPeg

/** What a bed is dropped into. */
export interface BedSetting {
  readonly plate: Plate
  /** Stilts that pegs keep clear of; pegs that stand are added to their field. */
  readonly others?: Others
  /** Tips that stand already, in the stand, and the distance to keep to them, mm. */
  readonly tips: Iterable<Vec3>
  readonly keepMm: number
}

/** Rays start so much below the plate, mm. */
const BELOW_MM = 0.01

/**
 * Lets every peg of a bed rise, upright, to the first skin above it. What finds nothing, meets what is off limits, or would run into the
 * part, the edge of the plate or other stilts is left out, with the reason. A generator: yields how many were looked at.
 * @param name what their spread is called by in the shapes
 */
export function* pegsUnder(surface: Surface, { pegs, gauges }: PegPattern, place: BedPlace, { plate, others, tips, keepMm }: BedSetting, name = ''): Generator<{ readonly done: number; readonly of: number }, FoundPeg[], void> {
  const found: FoundPeg[] = [], field = others?.field ?? new BeamField(), standing = keepMm > 0 ? new PointGrid(keepMm) : null
  for (const tip of standing ? tips : []) standing?.add(tip)
  for (const [i, peg] of pegs.entries()) {
    yield { done: i, of: pegs.length }
    const one = riseOf(surface, i, peg, { pegs, gauges }, place, plate, others, standing, keepMm, name)
    found.push(one)
    if (one.ok) field.put(`${name} ${i}`, beamsOfShape(one.shape).map(beam => ({ owner: `${name} ${i}`, beam })))
  }
  return found
}

function riseOf(surface: Surface, index: number, peg: Peg, { gauges }: PegPattern, place: BedPlace, plate: Plate, others: Others | undefined, tips: PointGrid | null, keepMm: number, name: string): FoundPeg {
  const [x, y] = placeOfPeg(peg, place), out = (problem: PegProblem, reason: string, at: Vec3 = [x, y, 0]): LeftOutPeg => ({ ok: false, peg: index, at, problem, reason })
  const gauge = gauges.find(g => g.id === peg.gauge)
  if (!gauge) throw new Error(`There is no gauge "${peg.gauge}".`)
  const wanted = wantedSizes(gauge, peg.own), hit = surface.cast([x, y, -BELOW_MM], [0, 0, 1])
  if (!hit) return out('nothing-above', 'Nothing stands above it.')
  const at = hit.point, refused = tipRefused(surface, at, hit.normal, wanted.tipDiameterMm)
  if (refused) return out(refused.problem === 'off-limits' ? 'off-limits' : 'faces-up', refused.problem === 'off-limits' ? 'It would touch a face that is off limits.' : 'The skin above it looks up.', at)
  if (tips?.near(at, keepMm)) return out('beside-tip', `A tip stands within ${keepMm.toFixed(2)} mm of it already.`, at)
  const room = at[2] - wanted.footHeightMm - LEAST_SHAFT_MM
  if (room < Math.min(gauge.coneShortestMm, wanted.coneLengthMm)) return out('too-low', `The part is only ${at[2].toFixed(2)} mm above the plate here.`, at)
  const coneLengthMm = Math.min(wanted.coneLengthMm, room), path: Vec3[] = [at, [x, y, at[2] - coneLengthMm], [x, y, 0]]
  const sizes = thickened(gauge, fitPenetration(surface, at, [0, 0, -1], { ...wanted, coneLengthMm }), shaftOf(path).lengthMm)
  if (!onPlate(path[2], sizes, plate)) return out('off-plate', 'Its foot would stand over the edge of the plate.', at)
  const gapMm = gapOfPath(surface, { path, sizes, foot: 'plate' })
  if (gapMm < GAP_FLOOR_MM) return out('beside-part', gapMm < 0 ? 'It would run into the part beside it.' : `It would leave ${gapMm.toFixed(2)} mm to the part beside it, and fuse with it.`, at)
  const near = others?.field.nearest(beamsOfShape({ path, sizes, foot: 'plate' }), others.limitMm, others.but)
  if (near) return out('beside-stilt', near.gapMm > 0 ? `It would pass another stilt at ${near.gapMm.toFixed(2)} mm, and web with it.` : 'It would run into another stilt.', at)
  const route = { ok: true as const, foot: 'plate' as const, path, sizes, gapMm, leanDeg: 0, lengthMm: shaftOf(path).lengthMm, tight: gapMm < gauge.gapMm }
  const shape: StiltShape = { ...shapeOfRoute(surface, gauge, 'detail', route, hit.normal, peg.own), ...(name && { spread: name }) }
  return { ok: true, peg: index, at, shape, worth: surface.worthOf(hit.face), ...touchOf(surface, at, sizes) }
}
