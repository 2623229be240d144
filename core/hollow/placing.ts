import { edgeRuns, type NearestTree } from '../mesh'
import { EmptyBalls } from './empty-balls'
import type { Surface } from './surface'
import type { WallGrid } from './wall-grid'

/** Steps by which a corner comes to its distance. */
const STEPS = 5
/** A corner is where it should be, mm. */
const CLOSE_MM = 1e-4
/** The most that a corner is set back for what lies between it and its neighbours, as a share of the cell. */
const MOST_BACK = 0.5
/** What is estimated is taken a little short: what is missing then is measured, and what is too much stays. */
const SHORT = 0.9
/** So often what was set back is measured, at the most. */
const CHECKS = 6

/** Moves every corner along its nearest direction until it is a wall away, and notes that direction: away from the skin. Where the hollow was filled, corners stay where they are unless they are too near. */
export function place(surface: Surface, grid: WallGrid, tree: NearestTree, wallMm: number, cellMm: number): void {
  const { corners, directions, filled, known } = surface
  for (let v = 0; v < known.length; v++) {
    if (known[v]) continue
    for (let step = 0; step < STEPS; step++) {
      const missing = wallMm - look(v, surface, tree, grid)
      if (Math.abs(missing) < CLOSE_MM || (filled[v] && missing < 0)) break
      move(v, Math.max(-cellMm, Math.min(cellMm, missing)), corners, directions)
    }
  }
}

function move(v: number, mm: number, corners: Float64Array, directions: Float32Array): void {
  for (let a = 0; a < 3; a++) corners[3 * v + a] += mm * directions[3 * v + a]
}

/** Notes the direction of a corner away from the skin, and the ball around it that is empty. Gives how far the skin is, mm. */
function look(v: number, { corners, directions, hints, balls }: Surface, tree: NearestTree, grid: WallGrid): number {
  const x = corners[3 * v], y = corners[3 * v + 1], z = corners[3 * v + 2], b = 4 * v
  // where it stood when it was looked at last, it is as far as it was then
  if (balls[b + 3] > 0 && balls[b] === x && balls[b + 1] === y && balls[b + 2] === z) return balls[b + 3]
  const box = hints[v] >= 0 ? grid.around(x, y, z, tree.distanceTo(hints[v], x, y, z)) : null
  if (box) tree.askIn(box, x, y, z, hints[v], Infinity)
  else tree.ask(x, y, z, hints[v])
  hints[v] = tree.at
  const d = tree.distance
  balls[b] = x
  balls[b + 1] = y
  balls[b + 2] = z
  balls[b + 3] = d
  if (d > 0) {
    directions[3 * v] = (x - tree.x) / d
    directions[3 * v + 1] = (y - tree.y) / d
    directions[3 * v + 2] = (z - tree.z) / d
  }
  return d
}

/**
 * Sets corners back from the skin by what edges and faces between them come nearer. Along an edge whose ends see the skin in directions
 * that part, distance is convex: its middle is nearer by about an eighth of the change of direction times the way, and by a fourth at the
 * most; that of a face by an eighteenth of the sum over its edges. What is still too near is measured, and set back by what is missing.
 * @param wallMm what has to be kept @param spareMm by which corners lie farther already
 */
export function setBack(surface: Surface, grid: WallGrid, tree: NearestTree, wallMm: number, spareMm: number, cellMm: number): void {
  const { corners, directions, triangles, hints, known } = surface, empty = new EmptyBalls(surface.balls, tree, grid, wallMm)
  const back = new Float32Array(hints.length), most = MOST_BACK * cellMm, aim = wallMm + spareMm
  const parting = (v: number, w: number): number => {
    let sum = 0
    for (let a = 0; a < 3; a++) sum += (directions[3 * w + a] - directions[3 * v + a]) * (corners[3 * w + a] - corners[3 * v + a])
    return sum
  }
  const atLeast = (v: number, mm: number): void => {
    if (mm > back[v]) back[v] = Math.min(mm, most)
  }
  for (let i = 0; i < triangles.length; i += 3) {
    const u = triangles[i], v = triangles[i + 1], w = triangles[i + 2]
    if (known[u] && known[v] && known[w]) continue
    const p = parting(u, v), q = parting(v, w), r = parting(w, u), middle = (p + q + r) / 18
    atLeast(u, SHORT * Math.max(middle, p / 8, r / 8))
    atLeast(v, SHORT * Math.max(middle, p / 8, q / 8))
    atLeast(w, SHORT * Math.max(middle, q / 8, r / 8))
  }
  const elements = edgesAndFaces(surface), moved = new Uint8Array(back.length)
  for (let round = 0; round < CHECKS; round++) {
    moved.fill(round === 0 ? 1 : 0)
    for (let v = 0; v < back.length; v++) {
      if (back[v] === 0) continue
      // estimated against the wall at first, then measured with corners where they are
      const missing = aim - look(v, surface, tree, grid), by = round === 0 ? back[v] + missing : back[v]
      if (by <= 0) continue
      move(v, by, corners, directions)
      moved[v] = 1
    }
    back.fill(0)
    let any = false
    for (let i = 0; i < elements.length; i += 4) {
      const isEdge = elements[i + 3] >= 0, u = elements[i], v = elements[i + (isEdge ? 2 : 1)], w = isEdge ? v : elements[i + 2]
      if (!moved[u] && !moved[v] && !moved[w]) continue
      const a = isEdge ? 1 / 2 : 1 / 3, b = isEdge ? 1 / 4 : 1 / 3, o = 3 * u, p = 3 * v, q = 3 * w
      const x = a * corners[o] + b * (corners[p] + corners[q]), y = a * corners[o + 1] + b * (corners[p + 1] + corners[q + 1]), z = a * corners[o + 2] + b * (corners[p + 2] + corners[q + 2])
      const distance = empty.distance(x, y, z, u, elements[i + 1], elements[i + 2], elements[i + 3], hints[u])
      if (distance >= wallMm) continue
      any = true
      const missing = wallMm - distance + spareMm / 2
      atLeast(u, missing)
      atLeast(v, missing)
      atLeast(w, missing)
    }
    if (!any) return
  }
}

/**
 * Faces and edges of a surface that have a corner that is not as it was before, four numbers each: of a face its corners and −1; of an
 * edge an end, the corner across it to the right, the other end, and the corner across it to the left.
 */
function edgesAndFaces({ triangles, known }: Surface): Int32Array {
  const isNew = (i: number): boolean => !known[triangles[i]] || !known[triangles[i + 1]] || !known[triangles[i + 2]], across = (h: number): number => triangles[h - (h % 3) + ((h + 2) % 3)]
  const { halfEdges, starts, edgeCount } = edgeRuns(triangles, known.length), out = new Int32Array(4 * (triangles.length / 3 + edgeCount))
  let at = 0
  for (let i = 0; i < triangles.length; i += 3) {
    if (!isNew(i)) continue
    out[at++] = triangles[i]
    out[at++] = triangles[i + 1]
    out[at++] = triangles[i + 2]
    out[at++] = -1
  }
  for (let e = 0; e < edgeCount; e++) {
    const h = halfEdges[starts[e]], u = triangles[h]
    let isWanted = false, right = -1
    for (let k = starts[e]; k < starts[e + 1]; k++) {
      isWanted ||= isNew(halfEdges[k] - (halfEdges[k] % 3))
      // the other face has its ends the other way round
      if (triangles[halfEdges[k]] !== u) right = across(halfEdges[k])
    }
    if (!isWanted) continue
    out[at++] = u
    out[at++] = right < 0 ? across(h) : right
    out[at++] = triangles[h - (h % 3) + ((h + 1) % 3)]
    out[at++] = across(h)
  }
  return out.subarray(0, at)
}
