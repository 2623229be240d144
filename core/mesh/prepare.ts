import { flippedFaces } from './align'
import { capLoops, neededEdges } from './caps'
import { findCrossings, MOST_CROSSINGS } from './check/crossings'
import { MENDED, MOST_SEGMENTS, Places, type MeshFault } from './check/faults'
import { manyFaced, slivers } from './check/shape-faults'
import { edgeRuns, type EdgeRuns } from './edges'
import { MeshError } from './mesh-error'
import { orientShells, type Shell } from './orient'
import { zipSeams } from './seams'
import { boundsOf, centerOf, NO_SOURCE, sixVolumes, sizeOf, triangleArea, volumeOf, type Mesh, type Vec3 } from './triangle-mesh'
import { weldVertices } from './weld'

/** What was found in a mesh at import, and what was done about it. */
export interface MeshReport {
  /** Triangles in the file. */
  readonly triangles: number
  /** Directed edges that no other edge runs against, before they were capped. */
  readonly unclosedEdges: number
  /** Edges that a vertex of the next face lies on: seams without width, which were zipped. */
  readonly zippedEdges: number
  /** Holes that were closed with a cone to their centre. */
  readonly cappedLoops: number
  /** Faces that looked the other way than their neighbours and were turned. */
  readonly flippedFaces: number
  /** Edges that more than two faces share. */
  readonly manyFacedEdges: number
  /** Faces so narrow that they have no direction to trust. */
  readonly slivers: number
  /** Pairs of faces that run through each other, counted up to 100,000; null where nobody looked. */
  readonly crossingPairs: number | null
  readonly duplicateTriangles: number
  readonly degenerateTriangles: number
  readonly shells: number
  /** Shells that faced the wrong way and were turned. */
  readonly turnedShells: number
  /** Shells that face inward within other solid, and stay so. */
  readonly cavities: number
  /** Shells that face outward within other solid, which changes nothing there. */
  readonly solidsWithin: number
  /** Shells left out because they are sheets without a thickness. */
  readonly sheets: number
  /** More than 2 % of the edges are unclosed. */
  readonly tooDamaged: boolean
  /** Volume of the prepared mesh; where shells overlap, what they share counts twice. */
  readonly volumeMm3: number
  readonly sizeMm: Vec3
}

/** Counts up whenever the same file would be prepared to another mesh: what names triangles of a mesh is good for its own preparation only. */
export const PREPARE_VERSION = 2

/** A mesh that is ready to scan: welded, closed, facing outward. */
export interface PreparedMesh {
  readonly mesh: Mesh
  /** As it came, welded and nothing else; null where nothing had to be mended. */
  readonly asCame: Mesh | null
  readonly report: MeshReport
  /** What was found in it as it came, and where. */
  readonly faults: readonly MeshFault[]
}

export interface PrepareOptions {
  readonly crossings?: boolean
}

/** Share of a shell's own area that its caps may reach before it counts as a sheet. */
const SHEET_CAP_SHARE = 0.25
/** A closed shell whose two sides are no farther apart than this has no thickness, mm. */
const THINNEST_MM = 1e-5
/** Share of unclosed edges over which a mesh is too damaged to trust. */
const DAMAGED_SHARE = 0.02

/**
 * Makes a mesh ready to scan: welds by exact coordinates, drops duplicate triangles, turns faces that look the other way than their
 * neighbours, zips seams without width, closes holes with cones, leaves sheets out, faces every shell the way it belongs, and drops
 * vertices that nothing uses any more. Crossing faces are left: the scan takes what overlaps as one.
 * The report counts what was found, the faults say where. Runs once, at import.
 * @param options `crossings`: whether to look for faces that run through each other, which takes as long as all the rest
 */
export function prepareMesh(source: Mesh, options: PrepareOptions = {}): PreparedMesh {
  const welded = weldVertices(source)
  const unique = dropRepeats(welded)
  const vertexCount = welded.positions.length / 3
  let flat: Mesh = { positions: welded.positions, triangles: unique.triangles }
  let edges = edgeRuns(flat.triangles, vertexCount)
  const flipped = flippedFaces(flat, edges), before = flipped.length > 0 ? flat.triangles.slice() : flat.triangles
  const faults: MeshFault[] = [placesOf('flipped', flat, flipped)]
  if (flipped.length > 0) {
    for (const i of flipped) [flat.triangles[3 * i + 1], flat.triangles[3 * i + 2]] = [flat.triangles[3 * i + 2], flat.triangles[3 * i + 1]]
    edges = edgeRuns(flat.triangles, vertexCount)
  }
  faults.push(manyFaced(flat, edges), slivers(flat))
  let needed = neededEdges(flat, edges)
  const unclosedEdges = needed.from.length, tooDamaged = unclosedEdges > DAMAGED_SHARE * edges.edgeCount
  const zipped = zipSeams(flat, needed)
  if (zipped.edges > 0) {
    flat = { positions: flat.positions, triangles: joined(flat.triangles, zipped.triangles) }
    edges = edgeRuns(flat.triangles, vertexCount)
    needed = neededEdges(flat, edges)
  }
  const open = new Places(flat)
  for (let i = 0; i < needed.from.length; i++) open.edge(needed.from[i], needed.to[i])
  const caps = capLoops(flat, needed)
  const closed: Mesh = { positions: joinedFloats(flat.positions, caps.positions), triangles: joined(flat.triangles, caps.triangles) }
  const labels = labelShells(closed, edges, flat.triangles.length / 3, caps)
  const shells = measureShells(closed, labels.of, labels.count, unique.triangles.length / 3)
  const oriented = orientShells(closed, shells)
  const kept = shells.filter(s => !s.sheet)
  const mesh = compacted(closed, labels.of, shells, kept.reduce((n, s) => n + s.triangles.length, 0), unique.from)
  const shellsOf = (kind: MeshFault['kind'], some: readonly Shell[]): MeshFault => {
    const places = new Places(closed)
    for (const s of some) places.box(s.box)
    return { kind, count: some.length, more: false, segments: places.taken() }
  }
  const crossing = options.crossings ? findCrossings(mesh, MOST_SEGMENTS) : null, sheets = shells.filter(s => s.sheet)
  faults.push(
    { kind: 'unclosed', count: needed.from.length, more: false, segments: open.taken() },
    { kind: 'seam', count: zipped.edges, more: false, segments: placesOf('seam', flat, Uint32Array.from({ length: zipped.triangles.length / 3 }, (_, i) => unique.triangles.length / 3 + i)).segments },
    placesOf('repeated', welded, unique.dropped), { kind: 'collapsed', count: unique.degenerate, more: false, segments: new Float32Array(0) },
    shellsOf('inside-out', kept.filter(s => s.turned)), { ...placesOf('sheet', closed, joinLists(sheets.map(s => s.triangles))), count: sheets.length },
    shellsOf('cavity', oriented.cavities), shellsOf('within', oriented.within),
  )
  if (crossing) faults.push({ kind: 'crossing', count: crossing.pairs, more: crossing.pairs >= MOST_CROSSINGS, segments: crossing.segments })
  const found = faults.filter(f => f.count > 0), countOf = (kind: MeshFault['kind']): number => found.find(f => f.kind === kind)?.count ?? 0
  const mended = found.some(f => MENDED.has(f.kind) && f.kind !== 'collapsed')
  return {
    mesh, faults: found, asCame: mended ? { positions: welded.positions, triangles: before, ...(unique.degenerate + unique.duplicates > 0 && { from: unique.from }) } : null,
    report: {
      triangles: source.triangles.length / 3,
      unclosedEdges,
      zippedEdges: zipped.edges,
      cappedLoops: caps.loops,
      flippedFaces: flipped.length,
      manyFacedEdges: countOf('many-faced'),
      slivers: countOf('sliver'),
      crossingPairs: crossing?.pairs ?? null,
      duplicateTriangles: unique.duplicates,
      degenerateTriangles: unique.degenerate,
      shells: shells.length,
      turnedShells: countOf('inside-out'),
      cavities: oriented.cavities.length,
      solidsWithin: oriented.within.length,
      sheets: sheets.length,
      // what is only written face by face is whole
      tooDamaged: tooDamaged && needed.from.length > DAMAGED_SHARE * edges.edgeCount,
      volumeMm3: volumeOf(mesh),
      sizeMm: mesh.positions.length ? sizeOf(boundsOf(mesh.positions)) : [0, 0, 0],
    },
  }
}

/** A fault of faces, and their outlines. */
function placesOf(kind: MeshFault['kind'], mesh: Mesh, faces: Uint32Array): MeshFault {
  const places = new Places(mesh)
  for (const i of faces) places.face(mesh.triangles, i)
  return { kind, count: faces.length, more: false, segments: places.taken() }
}

/** The same, of something that can be printed. @throws MeshError `no-solid` */
export function prepareSolid(source: Mesh, options: PrepareOptions = {}): PreparedMesh {
  const prepared = prepareMesh(source, options)
  if (prepared.mesh.triangles.length === 0) throw new MeshError('no-solid', 'This file holds only sheets or lines without a thickness, nothing that could be printed. Give it a thickness and export it again.')
  return prepared
}

function joinLists(lists: readonly Uint32Array[]): Uint32Array {
  const out = new Uint32Array(lists.reduce((n, l) => n + l.length, 0))
  let at = 0
  for (const l of lists) {
    out.set(l, at)
    at += l.length
  }
  return out
}
function joined(a: Uint32Array, b: Uint32Array): Uint32Array {
  const out = new Uint32Array(a.length + b.length)
  out.set(a)
  out.set(b, a.length)
  return out
}
function joinedFloats(a: Float32Array, b: Float32Array): Float32Array {
  const out = new Float32Array(a.length + b.length)
  out.set(a)
  out.set(b, a.length)
  return out
}

/** The triangles of all shells that are kept, facing as they should, and the vertices that they use. @param sources of the first triangles: which of the source each is */
function compacted(closed: Mesh, shellOf: Int32Array, shells: readonly Shell[], count: number, sources: Uint32Array): Mesh {
  const { positions: p, triangles: t } = closed
  const triangles = new Uint32Array(3 * count), from = new Uint32Array(count)
  const names = new Int32Array(p.length / 3).fill(-1)
  let at = 0, vertices = 0, asItCame = true
  for (let i = 0; i < shellOf.length; i++) {
    const shell = shells[shellOf[i]]
    if (shell.sheet) continue
    const own = i < sources.length ? sources[i] : NO_SOURCE
    from[at / 3] = own
    if (own !== at / 3) asItCame = false
    for (let c = 0; c < 3; c++) {
      const v = t[3 * i + (shell.turned && c > 0 ? 3 - c : c)]
      if (names[v] < 0) names[v] = vertices++
      triangles[at++] = names[v]
    }
  }
  const positions = new Float32Array(3 * vertices)
  for (let v = 0; v < names.length; v++) {
    if (names[v] >= 0) for (let x = 0; x < 3; x++) positions[3 * names[v] + x] = p[3 * v + x]
  }
  return asItCame ? { positions, triangles } : { positions, triangles, from }
}

interface UniqueTriangles {
  readonly triangles: Uint32Array
  /** Which triangle of the mesh each is. */
  readonly from: Uint32Array
  /** Those that repeat another one. */
  readonly dropped: Uint32Array
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
  const out = new Uint32Array(t.length), from = new Uint32Array(count), dropped: number[] = []
  let at = 0
  for (let i = 0; i < count; i++) {
    if (state[i] === 1 || (doubled && state[i] === 3)) {
      if (t[3 * i] !== t[3 * i + 1] && t[3 * i + 1] !== t[3 * i + 2] && t[3 * i] !== t[3 * i + 2]) dropped.push(i)
      continue
    }
    from[at / 3] = i
    out[at++] = t[3 * i]
    out[at++] = t[3 * i + 1]
    out[at++] = t[3 * i + 2]
  }
  return { triangles: out.slice(0, at), from: from.slice(0, at / 3), dropped: Uint32Array.from(dropped), duplicates, degenerate }
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

/** Triangles that share an edge are of one shell, as are those around a hole; a cap is of the shell that it closes. */
function labelShells(mesh: Mesh, edges: EdgeRuns, ownCount: number, caps: { readonly neighbours: Uint32Array; readonly united: Uint32Array }): { of: Int32Array; count: number } {
  const total = mesh.triangles.length / 3
  const parent = new Int32Array(total)
  for (let i = 0; i < total; i++) parent[i] = i
  const find = (i: number): number => {
    while (parent[i] !== i) i = parent[i] = parent[parent[i]]
    return i
  }
  const unite = (i: number, j: number): void => {
    const a = find(i), b = find(j)
    if (a !== b) parent[b] = a
  }
  for (let e = 0; e < edges.edgeCount; e++) {
    const from = edges.starts[e], first = Math.floor(edges.halfEdges[from] / 3)
    for (let k = from + 1; k < edges.starts[e + 1]; k++) unite(first, Math.floor(edges.halfEdges[k] / 3))
  }
  for (let i = 0; i < caps.united.length; i += 2) unite(caps.united[i], caps.united[i + 1])
  caps.neighbours.forEach((owner, i) => unite(owner, ownCount + i))
  const of = new Int32Array(total), names = new Int32Array(total).fill(-1)
  let count = 0
  for (let i = 0; i < total; i++) {
    const root = find(i)
    if (names[root] < 0) names[root] = count++
    of[i] = names[root]
  }
  return { of, count }
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
  return lists.map((triangles, s) => ({ triangles, volumeMm3: volume[s], box: boxes[s], sheet: capArea[s] > SHEET_CAP_SHARE * area[s] || 2 * Math.abs(volume[s]) <= THINNEST_MM * area[s], turned: false }))
}
