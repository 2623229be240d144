import { add, distance, scale, sub, unit, type Vec3 } from '@oak-stilts/core/mesh'
import { axisOf, ballProfile, gaugeFor, GAUGES, diametersOf, legsOf, type StiltShape, type StiltSizes } from '@oak-stilts/core/stilts'
import { frustum, type Frustums } from './frustum-layer'

/** Parts of a stilt that are shown or hidden by themselves. */
export type StiltPart = 'tips' | 'shafts' | 'feet'
export const STILT_PARTS: readonly StiltPart[] = ['tips', 'shafts', 'feet']

/** How a stilt is drawn: frustums by part, and of each segment of its way which numbers are its own. */
export interface DrawnStilt {
  readonly parts: Readonly<Record<StiltPart, Frustums>>
  readonly rings: Frustums
}

const DOWN: Vec3 = [0, 0, -1]

/** The frustums of a stilt from its tip on. @param segments so many of its segments; what follows is drawn with another stilt */
export function frustumsOf(stilt: StiltShape, segments = Infinity): DrawnStilt {
  const { sizes, foot } = stilt, axis = axisOf(stilt), last = axis.length - 1
  const along = axis.slice(0, -1).map((p, i) => unit(sub(axis[i + 1], p)))
  const planes = axis.map((_, i): Vec3 => (i === 0 ? along[0] : i === last ? (foot === 'model' ? along[last - 1] : DOWN) : unit(add(along[i - 1], along[i]))))
  const diameters = diametersOf(stilt)
  const parts: Record<StiltPart, number[]> = { tips: [], shafts: [], feet: [] }
  const tip = axis[0], first = along[0], deep = sizes.penetrationMm
  if (foot !== 'lost' && sizes.tipShape === 'ball') {
    const profile = ballProfile(sizes.tipDiameterMm / 2, deep), at = (mm: number): Vec3 => [tip[0] + first[0] * mm, tip[1] + first[1] * mm, tip[2] + first[2] * mm]
    for (let i = 0; i + 1 < profile.length; i++) parts.tips.push(...frustum(at(profile[i][0]), at(profile[i + 1][0]), profile[i][1], profile[i + 1][1], first, first))
    // the cone goes on where the ball ends
    if (segments > 0) parts.tips.push(...frustum(at(profile[profile.length - 1][0]), axis[1], diameters[0][0] / 2, diameters[0][1] / 2, first, planes[1]))
  } else if (foot !== 'lost' && deep > 0) parts.tips.push(...frustum([tip[0] - first[0] * deep, tip[1] - first[1] * deep, tip[2] - first[2] * deep], tip, sizes.tipDiameterMm / 2, sizes.tipDiameterMm / 2, first, first))
  for (let i = sizes.tipShape === 'ball' ? 1 : 0; i < Math.min(last, segments) && foot !== 'lost'; i++) {
    const part: StiltPart = i === 0 ? 'tips' : i === last - 1 && foot === 'model' ? 'feet' : 'shafts'
    // where a branch ends it goes straight into what it joins
    parts[part].push(...frustum(axis[i], axis[i + 1], (i === 0 ? sizes.tipDiameterMm : diameters[i][0]) / 2, diameters[i][1] / 2, planes[i], i + 1 === segments && segments < last ? along[i] : planes[i + 1]))
  }
  if (segments >= last) for (const leg of legsOf(stilt)) parts.feet.push(...legFrustum(axis[last - 1], leg.at, sizes))
  if (foot === 'plate' && segments >= last) {
    parts.feet.push(...footFrustums(axis[last], sizes))
  }
  return { parts: { tips: Float32Array.from(parts.tips), shafts: Float32Array.from(parts.shafts), feet: Float32Array.from(parts.feet) }, rings: Float32Array.from(segments >= last ? gaugeRings(stilt, axis) : []) }
}

/** So much wider is what a stilt is filled with, to lie over it. */
const FILL_WIDER = 1.06
/** What a stilt is filled with from its foot up, to a share of its way. @param segments so many of its segments are its own */
export function fillOf(stilt: StiltShape, share: number, segments = Infinity): Frustums {
  const axis = axisOf(stilt), last = Math.min(axis.length - 1, segments), diameters = diametersOf(stilt), lengths = Array.from({ length: last }, (_, i) => distance(axis[i], axis[i + 1])), out: number[] = []
  let left = Math.min(1, share) * lengths.reduce((sum, mm) => sum + mm, 0)
  for (let i = last - 1; i >= 0 && left > 0; i--) {
    const t = Math.min(1, left / (lengths[i] || 1)), along = unit(sub(axis[i + 1], axis[i])), upper = i === 0 ? stilt.sizes.tipDiameterMm : diameters[i][0], low = diameters[i][1]
    out.push(...frustum(add(axis[i + 1], scale(sub(axis[i], axis[i + 1]), t)), axis[i + 1], ((low + (upper - low) * t) / 2) * FILL_WIDER, (low / 2) * FILL_WIDER, along, along))
    left -= lengths[i]
  }
  return Float32Array.from(out)
}

/** A leg of a foot that is spread over the model. */
function legFrustum(joint: Vec3, at: Vec3, { shaftFootDiameterMm, footDiameterMm }: StiltSizes): number[] {
  const along = unit(sub(at, joint))
  return [...frustum(joint, at, shaftFootDiameterMm / 2, footDiameterMm / 2, along, along)]
}

/** A foot on the plate under a point. */
export function footFrustums([x, y]: Vec3, { shaftFootDiameterMm, footDiameterMm, footHeightMm: z }: Pick<StiltSizes, 'shaftFootDiameterMm' | 'footDiameterMm' | 'footHeightMm'>): number[] {
  const rim = Math.max(footDiameterMm, shaftFootDiameterMm) / 2
  return [...frustum([x, y, z], [x, y, z * 0.4], shaftFootDiameterMm / 2, rim, DOWN, DOWN), ...frustum([x, y, z * 0.4], [x, y, 0], rim, rim, DOWN, DOWN)]
}

/** One to four pale rings above the foot tell the gauges apart; drawn only, never exported. */
function gaugeRings(stilt: StiltShape, axis: readonly Vec3[]): number[] {
  // a gauge of one's own has those of the built-in one that is nearest in size
  const count = stilt.foot === 'plate' ? GAUGES.indexOf(gaugeFor(stilt)) + 1 : 0
  const foot = axis[axis.length - 1], above = axis[axis.length - 2], rise = above[2] - foot[2], radius = stilt.sizes.shaftFootDiameterMm / 2 + 0.03
  const at = (h: number): Vec3 => [foot[0] + ((above[0] - foot[0]) * h) / rise, foot[1] + ((above[1] - foot[1]) * h) / rise, foot[2] + h]
  const out: number[] = []
  for (let i = 0; i < count; i++) {
    const low = 0.7 + i * 0.75, high = low + 0.38
    if (high > rise) break
    out.push(...frustum(at(high), at(low), radius, radius, DOWN, DOWN))
  }
  return out
}
