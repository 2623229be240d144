import { capLoops } from './caps'
import { edgeRuns } from './edges'
import { windingAlongX } from './inside'
import { boundsOf, centerOf, sixVolumes, sizeOf, triangleArea, volumeOf, type Mesh, type Vec3 } from './triangle-mesh'
import { weldVertices } from './weld'

/** What was found in a mesh at import, and what was done about it. */
export interface MeshReport {
  /** Triangles in the file. */
  readonly triangles: number
  /** Directed edges that no other edge runs against, before they were capped. */
  readonly unclosedEdges: number
  /** Holes that were closed with a cone to their centre. */
  readonly cappedLoops: number
  readonly duplicateTriangles: number
  readonly degenerateTriangles: number
  readonly shells: number
  /** Shells that faced inward and were turned outward. */
  readonly turnedShells: number
  /** Shells that face inward within other solid, and stay so. */
  readonly cavities: number
  /** Shells left out because they are sheets without a thickness. */
  readonly sheets: number
  /** More than 2 % of the edges are unclosed. */
  readonly tooDamaged: boolean
  /** Volume of the prepared mesh; where shells overlap, what they share counts twice. */
  readonly volumeMm3: number
  readonly sizeMm: Vec3
}

/** A mesh that is ready to scan: welded, closed, facing outward. */
export interface PreparedMesh {
  readonly mesh: Mesh
  readonly report: MeshReport
}

/** Share of a shell's own area that its caps may reach before it counts as a sheet. */
const SHEET_CAP_SHARE = 0.25
/** Share of unclosed edges over which a mesh is too damaged to trust. */
const DAMAGED_SHARE = 0.02

/**
 * Makes a mesh ready to scan: welds by exact coordinates, drops duplicate triangles, closes holes with cones,
 * leaves sheets out, and turns outward every shell of negative volume that is not wholly inside other solid.
 * The report counts what was found. Runs once, at import.
 */
export function prepareMesh(source: Mesh): PreparedMesh {
  const welded = weldVertices(source)
  const unique = dropRepeats(welded)
  const vertexCount = welded.positions.length / 3
  const edges = edgeRuns(unique.triangles, vertexCount)
  const flat: Mesh = { positions: welded.positions, triangles: unique.triangles }
  const caps = capLoops(flat, edges)

  const ownCount = unique.triangles.length / 3
  const positions = new Float32Array(welded.positions.length + caps.positions.length)
  positions.set(welded.positions)
  positions.set(caps.positions, welded.positions.length)
  const triangles = new Uint32Array(unique.triangles.length + caps.triangles.length)
  triangles.set(unique.triangles)
  triangles.set(caps.triangles, unique.triangles.length)
  const closed: Mesh = { positions, triangles }

  const shellOf = labelShells(closed, edges, ownCount, caps.neighbours)
  const shells = measureShells(closed, shellOf.labels, shellOf.count, ownCount)
  const turned = orientShells(closed, shells)
  const kept = shells.filter(s => !s.sheet)
  const outTriangles = new Uint32Array(kept.reduce((n, s) => n + s.triangles.length * 3, 0))
  const keepShell = shells.map(s => !s.sheet)
  const turn = shells.map(s => s.turned)
  let at = 0
  for (let i = 0; i < triangles.length / 3; i++) {
    const s = shellOf.labels[i]
    if (!keepShell[s]) continue
    outTriangles[at] = triangles[3 * i]
    outTriangles[at + 1] = triangles[3 * i + (turn[s] ? 2 : 1)]
    outTriangles[at + 2] = triangles[3 * i + (turn[s] ? 1 : 2)]
    at += 3
  }
  const mesh: Mesh = { positions, triangles: outTriangles }
  return {
    mesh,
    report: {
      triangles: source.triangles.length / 3,
      unclosedEdges: caps.unclosedEdges,
      cappedLoops: caps.loops,
      duplicateTriangles: unique.duplicates,
      degenerateTriangles: unique.degenerate,
      shells: shells.length,
      turnedShells: turned.turned,
      cavities: turned.cavities,
      sheets: shells.length - kept.length,
      tooDamaged: caps.unclosedEdges > DAMAGED_SHARE * edges.edgeCount,
      volumeMm3: volumeOf(mesh),
      sizeMm: source.positions.length ? sizeOf(boundsOf(source.positions)) : [0, 0, 0],
    },
  }
}

interface UniqueTriangles {
  readonly triangles: Uint32Array
  readonly duplicates: number
  readonly degenerate: number
}

/**
 * Drops triangles that name a vertex twice and triangles that repeat another one. A repeat that faces the other way goes
 * only when every triangle has one: then a closed surface was written twice, once inside out.
 */
function dropRepeats(mesh: Mesh): UniqueTriangles {
  const t = mesh.triangles
  const count = t.length / 3
  let size = 1024
  while (size < count * 2) size *= 2
  const table = new Int32Array(size).fill(-1)
  const state = new Uint8Array(count) // 0 kept, 1 dropped, 2 kept with an opposite, 3 the opposite
  let duplicates = 0, degenerate = 0, opposites = 0
  for (let i = 0; i < count; i++) {
    const a = t[3 * i], b = t[3 * i + 1], c = t[3 * i + 2]
    if (a === b || b === c || a === c) {
      state[i] = 1
      degenerate++
      continue
    }
    const lo = Math.min(a, b, c), hi = Math.max(a, b, c), mid = a + b + c - lo - hi
    let h = Math.imul(lo, 0x9e3779b1) ^ Math.imul(mid, 0x85ebca77) ^ Math.imul(hi, 0xc2b2ae3d)
    h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d)
    let slot = (h ^ (h >>> 13)) & (size - 1)
    for (; table[slot] >= 0; slot = (slot + 1) & (size - 1)) {
      const j = table[slot]
      const same = sameTurn(t, i, j)
      if (same === 0) continue
      if (same > 0) {
        state[i] = 1
        duplicates++
        break
      }
      if (state[j] === 0) {
        state[j] = 2
        state[i] = 3
        opposites++
        break
      }
    }
    if (state[i] === 1) continue
    while (table[slot] >= 0) slot = (slot + 1) & (size - 1)
    table[slot] = i
  }
  const doubled = opposites > 0 && opposites * 2 + duplicates + degenerate === count
  if (doubled) duplicates += opposites
  const out = new Uint32Array(t.length)
  let at = 0
  for (let i = 0; i < count; i++) {
    if (state[i] === 1 || (doubled && state[i] === 3)) continue
    out[at++] = t[3 * i]
    out[at++] = t[3 * i + 1]
    out[at++] = t[3 * i + 2]
  }
  return { triangles: out.slice(0, at), duplicates, degenerate }
}

/** 1 where two triangles name the same vertices in the same turn, −1 in the opposite turn, 0 for other vertices. */
function sameTurn(t: Uint32Array, i: number, j: number): number {
  const a = t[3 * i], b = t[3 * i + 1], c = t[3 * i + 2]
  for (let r = 0; r < 3; r++) {
    const x = t[3 * j + r], y = t[3 * j + ((r + 1) % 3)], z = t[3 * j + ((r + 2) % 3)]
    if (a === x && b === y && c === z) return 1
    if (a === x && b === z && c === y) return -1
  }
  return 0
}

/** Triangles that share an edge are of one shell; a cap is of the shell that it closes. */
function labelShells(mesh: Mesh, edges: { halfEdges: Uint32Array; starts: Uint32Array; edgeCount: number }, ownCount: number, capNeighbours: readonly number[]): { labels: Int32Array; count: number } {
  const total = mesh.triangles.length / 3
  const parent = new Int32Array(total)
  for (let i = 0; i < total; i++) parent[i] = i
  const find = (i: number): number => {
    while (parent[i] !== i) i = parent[i] = parent[parent[i]]
    return i
  }
  for (let e = 0; e < edges.edgeCount; e++) {
    const from = edges.starts[e]
    const a = find(Math.floor(edges.halfEdges[from] / 3))
    for (let k = from + 1; k < edges.starts[e + 1]; k++) {
      const b = find(Math.floor(edges.halfEdges[k] / 3))
      if (a !== b) parent[b] = a
    }
  }
  capNeighbours.forEach((owner, i) => {
    parent[find(ownCount + i)] = find(owner)
  })
  const labels = new Int32Array(total)
  const names = new Map<number, number>()
  for (let i = 0; i < total; i++) {
    const root = find(i)
    let name = names.get(root)
    if (name === undefined) names.set(root, (name = names.size))
    labels[i] = name
  }
  return { labels, count: names.size }
}

interface Shell {
  readonly triangles: Uint32Array
  readonly volumeMm3: number
  readonly box: { min: [number, number, number]; max: [number, number, number] }
  readonly sheet: boolean
  turned: boolean
}

function measureShells(mesh: Mesh, labels: Int32Array, count: number, ownCount: number): Shell[] {
  const sizes = new Uint32Array(count)
  for (const s of labels) sizes[s]++
  const lists = Array.from({ length: count }, (_, s) => new Uint32Array(sizes[s]))
  const area = new Float64Array(count), capArea = new Float64Array(count), volume = new Float64Array(count)
  const reference = mesh.positions.length ? centerOf(boundsOf(mesh.positions)) : ([0, 0, 0] as const)
  const boxes = Array.from({ length: count }, () => ({
    min: [Infinity, Infinity, Infinity] as [number, number, number],
    max: [-Infinity, -Infinity, -Infinity] as [number, number, number],
  }))
  const fill = new Uint32Array(count)
  for (let i = 0; i < labels.length; i++) {
    const s = labels[i]
    lists[s][fill[s]++] = i
    const a = triangleArea(mesh, i)
    if (i < ownCount) area[s] += a
    else capArea[s] += a
    volume[s] += sixVolumes(mesh, i, reference) / 6
    for (let c = 0; c < 3; c++) {
      const v = 3 * mesh.triangles[3 * i + c]
      for (let x = 0; x < 3; x++) {
        boxes[s].min[x] = Math.min(boxes[s].min[x], mesh.positions[v + x])
        boxes[s].max[x] = Math.max(boxes[s].max[x], mesh.positions[v + x])
      }
    }
  }
  return lists.map((triangles, s) => ({ triangles, volumeMm3: volume[s], box: boxes[s], sheet: capArea[s] > SHEET_CAP_SHARE * area[s], turned: false }))
}

/** Sample vertices of a shell that must all lie in other solid for it to be a cavity. */
const CAVITY_SAMPLES = 48

function orientShells(mesh: Mesh, shells: Shell[]): { turned: number; cavities: number } {
  let turned = 0, cavities = 0
  for (const shell of shells) {
    if (shell.sheet || shell.volumeMm3 >= 0) continue
    const around = shells.filter(o => o !== shell && !o.sheet && o.volumeMm3 > 0 && [0, 1, 2].every(a => o.box.min[a] <= shell.box.min[a] && o.box.max[a] >= shell.box.max[a]))
    const inside = around.length > 0 && samplesInside(mesh, shell, around)
    if (inside) cavities++
    else {
      shell.turned = true
      turned++
    }
  }
  return { turned, cavities }
}

function samplesInside(mesh: Mesh, shell: Shell, around: readonly Shell[]): boolean {
  const step = Math.max(1, Math.floor(shell.triangles.length / CAVITY_SAMPLES))
  const sets = around.map(o => o.triangles)
  for (let i = 0; i < shell.triangles.length; i += step) {
    const v = 3 * mesh.triangles[3 * shell.triangles[i]]
    const p = mesh.positions
    if (windingAlongX(mesh, sets, p[v], p[v + 1], p[v + 2]) <= 0) return false
  }
  return true
}
