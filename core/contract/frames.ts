/**
 * The frames that points are written in, mm, right-handed, z up:
 * `source`, the prepared mesh; `part`, that scaled and mirrored by its recipe; `stand`, the part tilted and lifted, its middle over the origin, where plan, scan and findings
 * live; `plate`, a copy of it turned about z and shifted, the plate's middle at the origin. The names cost nothing at run time: they
 * keep a point of one frame from being taken for one of another. A bare `Vec3` may be either.
 */
export type Frame = 'source' | 'part' | 'stand' | 'plate'
/** A point of a frame. */
export type PointIn<F extends Frame> = readonly [number, number, number] & { readonly __frame?: F }
export type SourcePoint = PointIn<'source'>
export type PartPoint = PointIn<'part'>
export type StandPoint = PointIn<'stand'>
export type PlatePoint = PointIn<'plate'>
