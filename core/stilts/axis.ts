import type { Vec3 } from '../mesh'
import type { StiltShape } from './stilt'

/** The axis of a stilt: its path, with the last bend on top of the foot, so that a foot always stands upright. */
export function axisOf(stilt: Pick<StiltShape, 'path' | 'foot' | 'sizes'>): Vec3[] {
  return axisTo(stilt.path, { ...stilt.sizes, on: stilt.foot === 'model' ? 'model' : 'plate' })
}

/** A way down with its end on top of a foot on the plate. */
export function axisTo(path: readonly Vec3[], foot: { readonly on: 'plate' | 'model'; readonly footHeightMm: number } | null): Vec3[] {
  if (foot?.on !== 'plate') return [...path]
  const end = path[path.length - 1]
  return [...path.slice(0, -1), [end[0], end[1], foot.footHeightMm]]
}
