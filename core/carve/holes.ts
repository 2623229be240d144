import type { Manifold, ManifoldToplevel, Mat4 } from 'manifold-3d'
import { axesAcross, boundsOf, sizeOf, type Mesh, type Vec3 } from '../mesh'
import { CarveError } from './carve-error'
import { bodyOf, kernel, meshOfBody } from './kernel'

/** A round hole, in the frame of the mesh. */
export interface Hole {
  /** Where it begins, on the skin. */
  readonly at: Vec3
  /** Where it goes, of length 1. */
  readonly into: Vec3
  readonly diameterMm: number
  /** Where it ends; the same unless it tapers. */
  readonly endDiameterMm: number
  /** Null where it goes through the whole part. */
  readonly depthMm: number | null
}

/** So far a hole begins outside the skin, as a share of its diameter: the skin may lean where it is. */
const BEGINS_OUTSIDE = 0.75
/** Sides of a hole. */
const SIDES = 64

/**
 * Drills round holes. Triangles keep telling where they come from; the sides of the holes come from no file.
 * @throws CarveError `not-sound`, `misses` where a hole takes nothing away, `nothing-left`
 */
export async function drilled(mesh: Mesh, holes: readonly Hole[]): Promise<Mesh> {
  if (holes.length === 0) return mesh
  const wasm = await kernel(), body = bodyOf(wasm, mesh), made: Manifold[] = [body.manifold]
  const keep = (m: Manifold): Manifold => {
    made.push(m)
    return m
  }
  try {
    const longest = Math.hypot(...sizeOf(boundsOf(mesh.positions)))
    let rest = body.manifold
    holes.forEach((hole, i) => {
      const before = rest.volume()
      rest = keep(rest.subtract(keep(drillOf(wasm, hole, longest))))
      if (before - rest.volume() < 1e-6) throw new CarveError('misses', `Hole ${i + 1} meets nothing of the part.`)
    })
    if (rest.isEmpty()) throw new CarveError('nothing-left', 'The holes would take all of the part away.')
    return meshOfBody(rest, body)
  } finally {
    for (const m of made) m.delete()
  }
}

/**
 * The plug of a hole: what it takes out of a part, smaller all around by a clearance, so that its end follows the skin. Of a hole that
 * goes through several walls it is the piece in the first.
 * @param mesh the part before it was drilled @throws CarveError `not-sound`, `misses`, `nothing-left` where the clearance leaves nothing
 */
export async function plugOf(mesh: Mesh, hole: Hole, clearanceMm: number): Promise<Mesh> {
  const thinner = (d: number): number => d - 2 * clearanceMm
  if (thinner(hole.diameterMm) <= 0 || thinner(hole.endDiameterMm) <= 0) throw new CarveError('nothing-left', 'The gap around the plug takes all of it. Take a wider hole, or a narrower gap.')
  const wasm = await kernel(), body = bodyOf(wasm, mesh), made: Manifold[] = [body.manifold]
  const keep = (m: Manifold): Manifold => {
    made.push(m)
    return m
  }
  try {
    const slim = keep(drillOf(wasm, { ...hole, diameterMm: thinner(hole.diameterMm), endDiameterMm: thinner(hole.endDiameterMm) }, Math.hypot(...sizeOf(boundsOf(mesh.positions)))))
    const pieces = keep(body.manifold.intersect(slim)).decompose().map(keep).map(m => ({ m, far: farFrom(m, hole.at) }))
    if (pieces.length === 0) throw new CarveError('misses', 'The hole meets nothing of the part, so that it has no plug.')
    return meshOfBody(pieces.reduce((a, b) => (b.far < a.far ? b : a)).m, body)
  } finally {
    for (const m of made) m.delete()
  }
}
/** How far the box of a body is from a point, mm. */
function farFrom(body: Manifold, p: Vec3): number {
  const { min, max } = body.boundingBox()
  return Math.hypot(...[0, 1, 2].map(a => Math.max(0, min[a] - p[a], p[a] - max[a])))
}

/** What a hole takes away: a round body that begins outside the skin. */
function drillOf({ Manifold }: ManifoldToplevel, { at, into, diameterMm, endDiameterMm, depthMm }: Hole, longestMm: number): Manifold {
  const outside = BEGINS_OUTSIDE * diameterMm, inside = depthMm ?? longestMm, taper = (endDiameterMm - diameterMm) / (depthMm ?? inside)
  // outside it goes on as wide as it is at the skin; sides are moved out so that their middles have the diameter
  const wide = (d: number): number => d / 2 / Math.cos(Math.PI / SIDES)
  const bore = Manifold.cylinder(inside, wide(diameterMm), wide(diameterMm + taper * inside), SIDES), mouth = Manifold.cylinder(2 * outside, wide(diameterMm), wide(diameterMm), SIDES)
  const begun = mouth.translate([0, 0, -2 * outside + Math.min(outside, 1e-3)]), whole = bore.add(begun), placed = whole.transform(toward(into, at))
  for (const m of [bore, mouth, begun, whole]) m.delete()
  return placed
}

/** Brings +z to a direction and the origin to a point; column by column. */
function toward(into: Vec3, at: Vec3): Mat4 {
  const [u, v] = axesAcross(into)
  return [...u, 0, ...v, 0, ...into, 0, ...at, 1]
}
