import { boundsOf, centerOf } from '@oak-stilts/core/mesh'

/** Directions that are told apart: rings from pole to pole, and sectors around. */
const RINGS = 48, SECTORS = 96
const known = new WeakMap<Float32Array, Float32Array>()

/**
 * The points of a mesh that are farthest from its middle, one in every direction, and the corners of its box's faces: few enough to
 * turn with every move of the pointer. What they leave out may stand out by a hair where the mesh is flat.
 */
export function outerPoints(positions: Float32Array): Float32Array {
  const before = known.get(positions)
  if (before) return before
  const box = boundsOf(positions), [cx, cy, cz] = centerOf(box)
  const far = new Float64Array(RINGS * SECTORS), at = new Int32Array(RINGS * SECTORS).fill(-1)
  const extremes = new Int32Array(6)
  for (let i = 0; i < positions.length; i += 3) {
    const x = positions[i] - cx, y = positions[i + 1] - cy, z = positions[i + 2] - cz, d = Math.sqrt(x * x + y * y + z * z)
    for (let a = 0; a < 3; a++) {
      if (positions[i + a] === box.min[a]) extremes[a] = i
      if (positions[i + a] === box.max[a]) extremes[a + 3] = i
    }
    if (d === 0) continue
    const bin = Math.min(RINGS - 1, Math.floor(((z / d + 1) / 2) * RINGS)) * SECTORS + Math.min(SECTORS - 1, Math.floor(((Math.atan2(y, x) / Math.PI + 1) / 2) * SECTORS))
    if (d <= far[bin]) continue
    far[bin] = d
    at[bin] = i
  }
  const chosen = [...new Set([...at.filter(i => i >= 0), ...extremes])]
  const out = Float32Array.from(chosen.flatMap(i => [positions[i], positions[i + 1], positions[i + 2]]))
  known.set(positions, out)
  return out
}
