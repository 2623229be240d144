import { edgeRuns, type NearestTree } from '../mesh'
import { EmptyBalls } from './empty-balls'
import type { Corners, Surface } from './surface'
import type { WallGrid } from './wall-grid'

/** By so much walls are thicker than asked, so that none is thinner by what is not worth measuring, mm. */
export const SPARE_MM = 1.5e-4
/** Steps by which a corner comes to its distance. */
const STEPS = 5
/** A corner is where it should be, mm. */
const CLOSE_MM = 1e-4
/** The most that a corner is set back for what lies between it and its neighbours, as a share of the cell. */
const MOST_BACK = 0.5
/** What is estimated is taken a little short: what is missing then is measured, and what is too much stays. */
const SHORT = 0.9

/** What is looked at to place corners: the skin, the grid near the wall, and how thick the wall has to be, mm. */
export interface Eye {
  readonly tree: NearestTree
  readonly grid: WallGrid
  readonly wallMm: number
}

/** Moves every corner along its nearest direction until it is a wall away, and notes that direction: away from the skin. Where the hollow was filled, corners stay where they are unless they are too near. */
export function place(of: Corners, eye: Eye): void {
  const { filled, known } = of, { cellMm } = eye.grid.frame
  for (let v = 0; v < known.length; v++) {
    if (known[v]) continue
    for (let step = 0; step < STEPS; step++) {
      const missing = eye.wallMm + SPARE_MM - look(v, of, eye)
      if (Math.abs(missing) < CLOSE_MM || (filled[v] && missing < 0)) break
      move(v, Math.max(-cellMm, Math.min(cellMm, missing)), of)
    }
  }
}

function move(v: number, mm: number, { corners, directions }: Corners): void {
  for (let a = 0; a < 3; a++) corners[3 * v + a] += mm * directions[3 * v + a]
}

/** Notes the direction of a corner away from the skin, and the ball around it that is empty. Gives how far the skin is, mm. */
function look(v: number, { corners, directions, hints, balls }: Corners, { tree, grid }: Eye): number {
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
 * By how much corners have to be set back, mm, for what edges and faces between them come nearer to the skin. Along an edge whose ends see
 * the skin in directions that part, distance is convex: its middle is nearer by about an eighth of the change of direction times the way,
 * and by a fourth at the most; that of a face by an eighteenth of the sum over its edges.
 */
export function backAbout({ corners, directions, triangles, known }: Surface, cellMm: number): Float32Array {
  const back = new Float32Array(known.length), most = MOST_BACK * cellMm
  const parting = (v: number, w: number): number => {
    let sum = 0
    for (let a = 0; a < 3; a++) sum += (directions[3 * w + a] - directions[3 * v + a]) * (corners[3 * w + a] - corners[3 * v + a])
    return sum
  }
  for (let i = 0; i < triangles.length; i += 3) {
    const u = triangles[i], v = triangles[i + 1], w = triangles[i + 2]
    if (known[u] && known[v] && known[w]) continue
    const p = parting(u, v), q = parting(v, w), r = parting(w, u), middle = (p + q + r) / 18
    atLeast(back, u, SHORT * Math.max(middle, p / 8, r / 8), most)
    atLeast(back, v, SHORT * Math.max(middle, p / 8, q / 8), most)
    atLeast(back, w, SHORT * Math.max(middle, q / 8, r / 8), most)
  }
  return back
}

function atLeast(back: Float32Array, v: number, mm: number, most: number): void {
  if (mm > back[v]) back[v] = Math.min(mm, most)
}

/** Sets corners back from where a wall would be as thick as asked. @param back by how much, about, mm: see `backAbout` */
export function setBackAbout(of: Corners, back: Float32Array, eye: Eye): void {
  for (let v = 0; v < back.length; v++) {
    if (back[v] === 0) continue
    const by = back[v] + eye.wallMm + SPARE_MM - look(v, of, eye)
    if (by > 0) move(v, by, of)
  }
}
/** Sets corners back from where they are. @param back by how much, mm */
export function setBackMore(of: Corners, back: Float32Array, eye: Eye): void {
  for (let v = 0; v < back.length; v++) {
    if (back[v] === 0) continue
    look(v, of, eye)
    move(v, back[v], of)
  }
}

/** Measures faces and edges between corners. Gives what is missing of the wall at each, mm. @param elements see `edgesAndFaces` */
export function missingBetween(elements: Int32Array, of: Pick<Corners, 'corners' | 'balls' | 'hints'>, { tree, grid, wallMm }: Eye): Float32Array {
  const empty = new EmptyBalls(of.balls, tree, grid, wallMm), missing = new Float32Array(elements.length / 4), at: Place = [0, 0, 0]
  for (let e = 0; e < missing.length; e++) missing[e] = wallMm - distanceAt(e, elements, of, empty, at)
  return missing
}
/** As `missingBetween`, after corners were set back for what was missing, which is told anew. What cannot have come nearer to the skin is not measured. @param by how far each was set back, mm */
export function missingStill(elements: Int32Array, of: Corners, { tree, grid, wallMm }: Eye, by: Float32Array, missing: Float32Array): void {
  const empty = new EmptyBalls(of.balls, tree, grid, wallMm), at: Place = [0, 0, 0], step: Place = [0, 0, 0], { directions: d } = of
  for (let e = 0; e < missing.length; e++) {
    const i = 4 * e, isEdge = elements[i + 3] >= 0, u = elements[i], v = elements[i + (isEdge ? 2 : 1)], w = isEdge ? v : elements[i + 2]
    if (by[u] === 0 && by[v] === 0 && by[w] === 0) continue
    const a = by[u] * (isEdge ? 1 / 2 : 1 / 3), b = by[v] * (isEdge ? 1 / 4 : 1 / 3), c = by[w] * (isEdge ? 1 / 4 : 1 / 3)
    for (let k = 0; k < 3; k++) step[k] = a * d[3 * u + k] + b * d[3 * v + k] + c * d[3 * w + k]
    placeOf(e, elements, of.corners, at)
    missing[e] = empty.isFarAfter(at, step, wallMm - missing[e], u, elements[i + 1], elements[i + 2], elements[i + 3]) ? 0 : wallMm - distanceAt(e, elements, of, empty, at)
  }
}
/** By how much corners have to be set back for what is missing between them, mm; null where nothing is. */
export function backFor(elements: Int32Array, missing: Float32Array, count: number, cellMm: number): Float32Array | null {
  let back: Float32Array | null = null
  for (let e = 0; e < missing.length; e++) {
    if (missing[e] <= 0) continue
    back ??= new Float32Array(count)
    const isEdge = elements[4 * e + 3] >= 0
    for (let n = 0; n < 3; n++) if (!isEdge || n !== 1) atLeast(back, elements[4 * e + n], missing[e] + SPARE_MM / 2, MOST_BACK * cellMm)
  }
  return back
}

type Place = [number, number, number]
/** Finds the middle of a face or an edge. */
function placeOf(e: number, elements: Int32Array, corners: Float64Array, at: Place): void {
  const i = 4 * e, isEdge = elements[i + 3] >= 0, o = 3 * elements[i], p = 3 * elements[i + (isEdge ? 2 : 1)], q = isEdge ? p : 3 * elements[i + 2], a = isEdge ? 1 / 2 : 1 / 3, b = isEdge ? 1 / 4 : 1 / 3
  at[0] = a * corners[o] + b * (corners[p] + corners[q])
  at[1] = a * corners[o + 1] + b * (corners[p + 1] + corners[q + 1])
  at[2] = a * corners[o + 2] + b * (corners[p + 2] + corners[q + 2])
}
/** How far the skin is from the middle of a face or an edge where that is nearer than a wall; the wall where it is not. */
function distanceAt(e: number, elements: Int32Array, { corners, hints }: Pick<Corners, 'corners' | 'hints'>, empty: EmptyBalls, at: Place): number {
  const i = 4 * e
  placeOf(e, elements, corners, at)
  return empty.distance(at[0], at[1], at[2], elements[i], elements[i + 1], elements[i + 2], elements[i + 3], hints[elements[i]])
}

/**
 * Faces and edges of a surface that have a corner that is not as it was before, four numbers each: of a face its corners and −1; of an
 * edge an end, the corner across it to the right, the other end, and the corner across it to the left.
 */
export function edgesAndFaces({ triangles, known }: Surface): Int32Array {
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
