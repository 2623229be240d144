import type { NearestTree } from '../mesh'
import type { Surface } from './surface'

/** Steps by which a corner comes to its distance. */
const STEPS = 5
/** A corner is where it should be, mm. */
const CLOSE_MM = 1e-4
/** The most that a corner is set back for what lies between it and its neighbours, as a share of the cell. */
const MOST_BACK = 0.5
/** So often what was set back is measured, at the most. */
const CHECKS = 6

/** Moves every corner along its nearest direction until it is a wall away, and notes that direction: away from the skin. Where the hollow was filled, corners stay where they are unless they are too near. */
export function place({ corners, directions, hints, filled, known }: Surface, tree: NearestTree, wallMm: number, cellMm: number): void {
  for (let v = 0; v < hints.length; v++) {
    if (known[v]) continue
    for (let step = 0; step < STEPS; step++) {
      const missing = look(v, corners, directions, hints, tree, wallMm)
      if (Math.abs(missing) < CLOSE_MM || (filled[v] && missing < 0)) break
      move(v, Math.max(-cellMm, Math.min(cellMm, missing)), corners, directions)
    }
  }
}

function move(v: number, mm: number, corners: Float64Array, directions: Float32Array): void {
  for (let a = 0; a < 3; a++) corners[3 * v + a] += mm * directions[3 * v + a]
}

/** Notes the direction of a corner away from the skin. Gives how much is missing to the wall, mm. */
function look(v: number, corners: Float64Array, directions: Float32Array, hints: Int32Array, tree: NearestTree, wallMm: number): number {
  const x = corners[3 * v], y = corners[3 * v + 1], z = corners[3 * v + 2]
  tree.ask(x, y, z, hints[v])
  hints[v] = tree.at
  const d = tree.distance
  if (d > 0) {
    directions[3 * v] = (x - tree.x) / d
    directions[3 * v + 1] = (y - tree.y) / d
    directions[3 * v + 2] = (z - tree.z) / d
  }
  return wallMm - d
}

/**
 * Sets corners back from the skin by what edges and faces between them come nearer. Along an edge whose ends see the skin in directions
 * that part, distance is convex: its middle is nearer by about an eighth of the change of direction times the way, and by a fourth at the
 * most; that of a face by an eighteenth of the sum over its edges. What is still too near is measured, and set back by what is missing.
 * @param wallMm what has to be kept @param spareMm by which corners lie farther already
 */
export function setBack({ corners, directions, triangles, hints, known }: Surface, tree: NearestTree, wallMm: number, spareMm: number, cellMm: number): void {
  const back = new Float32Array(hints.length), most = MOST_BACK * cellMm, aim = wallMm + spareMm
  const parting = (v: number, w: number): number => {
    let sum = 0
    for (let a = 0; a < 3; a++) sum += (directions[3 * w + a] - directions[3 * v + a]) * (corners[3 * w + a] - corners[3 * v + a])
    return sum
  }
  const atLeast = (v: number, mm: number): void => {
    if (mm > back[v]) back[v] = Math.min(mm, most)
  }
  // corners of edges, the third one twice, and of faces
  const elements: number[] = [], moved = new Uint8Array(back.length)
  for (let i = 0; i < triangles.length; i += 3) {
    const u = triangles[i], v = triangles[i + 1], w = triangles[i + 2]
    if (known[u] && known[v] && known[w]) continue
    const p = parting(u, v), q = parting(v, w), r = parting(w, u), middle = (p + q + r) / 18
    elements.push(u, v, w)
    // every edge has another face, which has its ends the other way round
    if (u < v) elements.push(u, v, v)
    if (v < w) elements.push(v, w, w)
    if (w < u) elements.push(w, u, u)
    atLeast(u, Math.max(middle, p / 8, r / 8))
    atLeast(v, Math.max(middle, p / 8, q / 8))
    atLeast(w, Math.max(middle, q / 8, r / 8))
  }
  for (let round = 0; round < CHECKS; round++) {
    moved.fill(round === 0 ? 1 : 0)
    for (let v = 0; v < back.length; v++) {
      if (back[v] === 0) continue
      // estimated against the wall at first, then measured with corners where they are
      const missing = look(v, corners, directions, hints, tree, aim), by = round === 0 ? back[v] + missing : back[v]
      if (by <= 0) continue
      move(v, by, corners, directions)
      moved[v] = 1
    }
    back.fill(0)
    let any = false
    for (let i = 0; i < elements.length; i += 3) {
      const u = elements[i], v = elements[i + 1], w = elements[i + 2], isEdge = v === w
      if (!moved[u] && !moved[v] && !moved[w]) continue
      const a = isEdge ? 1 / 2 : 1 / 3, b = isEdge ? 1 / 4 : 1 / 3, at = (k: number): number => a * corners[3 * u + k] + b * (corners[3 * v + k] + corners[3 * w + k])
      tree.ask(at(0), at(1), at(2), hints[u], wallMm)
      if (tree.at < 0) continue
      any = true
      const missing = wallMm - tree.distance + spareMm / 2
      atLeast(u, missing)
      atLeast(v, missing)
      atLeast(w, missing)
    }
    if (!any) return
  }
}
