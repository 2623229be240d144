import { MeshError, type Mesh } from '../../mesh'
import { AS_IS, type RigidMotion } from '../../pose'

/** The printer's raster: pixel edge and layer height in mm. */
export interface Raster {
  readonly pixelMm: number
  readonly layerMm: number
}

/** Steps within a pixel or layer to which vertices are rounded; they come to lie half a step off, never on a sample. */
const STEPS = 4096, STEP = 1 / STEPS
/** Layers and rows beyond which a scan is refused rather than begun. */
const MOST_LAYERS = 20000
const MOST_ROWS = 60000

/**
 * One solid of its own (a part, its stilts) in raster coordinates. Solid is where the winding of its triangles is above zero.
 * Coordinates are relative to the body's own whole-pixel origin, so that a shift by whole pixels and layers changes nothing.
 */
export interface Body {
  /** x, y, z of every vertex in pixels, rows and layers from the origin; sample lines lie at whole numbers. */
  readonly coords: Float64Array
  readonly triangles: Uint32Array
  /** Absolute pixel, row and layer of the origin. */
  readonly origin: readonly [number, number, number]
  /** Rows and layers that the body can reach, from the origin on. */
  readonly rows: number
  readonly layers: number
  /** Pixels that the body can reach, from the origin on. */
  readonly columns: number
}

/**
 * Puts a mesh on the raster.
 * @throws MeshError `too-big-to-scan` where the size can only be a mistake of units
 */
export function bodyOf(mesh: Mesh, raster: Raster, stand: RigidMotion = AS_IS): Body {
  const p = mesh.positions
  const [m0, m1, m2, m3, m4, m5, m6, m7, m8, m9, m10, m11] = stand
  const coords = new Float64Array(p.length)
  const sx = 1 / raster.pixelMm, sz = 1 / raster.layerMm
  let minX = Infinity, maxX = -Infinity, minY = Infinity, minZ = Infinity, maxY = -Infinity, maxZ = -Infinity
  for (let i = 0; i < p.length; i += 3) {
    const x = p[i], y = p[i + 1], z = p[i + 2]
    const gx = (Math.floor(((m0 * x + m1 * y + m2 * z + m3) * sx - 0.5) * STEPS + 0.5) + 0.5) * STEP
    const gy = (Math.floor(((m4 * x + m5 * y + m6 * z + m7) * sx - 0.5) * STEPS + 0.5) + 0.5) * STEP
    const gz = (Math.floor(((m8 * x + m9 * y + m10 * z + m11) * sz - 0.5) * STEPS + 0.5) + 0.5) * STEP
    coords[i] = gx
    coords[i + 1] = gy
    coords[i + 2] = gz
    if (gx < minX) minX = gx
    if (gx > maxX) maxX = gx
    if (gy < minY) minY = gy
    if (gy > maxY) maxY = gy
    if (gz < minZ) minZ = gz
    if (gz > maxZ) maxZ = gz
  }
  if (p.length === 0) return { coords, triangles: mesh.triangles, origin: [0, 0, 0], rows: 0, layers: 0, columns: 0 }
  const origin: [number, number, number] = [Math.floor(minX), Math.floor(minY), Math.floor(minZ)]
  const rows = Math.floor(maxY) - origin[1] + 1
  const layers = Math.floor(maxZ) - origin[2] + 1
  if (rows > MOST_ROWS || layers > MOST_LAYERS || origin[2] + layers > MOST_LAYERS) {
    throw new MeshError('too-big-to-scan', `The model reaches ${Math.round((origin[2] + layers) * raster.layerMm)} mm up and ${Math.round(rows * raster.pixelMm)} mm deep, more than any plate. Was it made in another unit than millimetres? Scale it and bring it in again.`)
  }
  for (let i = 0; i < coords.length; i += 3) {
    coords[i] -= origin[0]
    coords[i + 1] -= origin[1]
    coords[i + 2] -= origin[2]
  }
  return { coords, triangles: mesh.triangles, origin, rows, layers, columns: Math.floor(maxX) - origin[0] + 1 }
}

/** Bands are listed in as many parts as this, each when it is first asked for: who makes only some bands sorts only some triangles. */
const PARTS = 4
/** Fewer bands are one part. */
const BANDS_PER_PART = 4

/** Triangles of a body grouped by the bands of `bandLayers` layers, from layer 0 up, in which they cross a sample. */
export class BandIndex {
  readonly bandLayers: number
  readonly bands: number
  readonly #perPart: number
  readonly #parts: ({ readonly starts: Uint32Array; readonly list: Uint32Array } | null)[]
  /** First band of every triangle and one past its last; both 0 where it crosses no sample. */
  readonly #firsts: Uint16Array
  readonly #ends: Uint16Array

  constructor(body: Body, bandLayers: number, layerCount: number) {
    this.bandLayers = bandLayers
    this.bands = Math.max(1, Math.ceil(layerCount / bandLayers))
    this.#perPart = Math.max(BANDS_PER_PART, Math.ceil(this.bands / PARTS))
    this.#parts = Array.from({ length: Math.ceil(this.bands / this.#perPart) }, () => null)
    const { coords, triangles } = body
    const n = triangles.length / 3, shift = body.origin[2]
    // the layer under every vertex: none lies on a sample
    const under = new Int32Array(coords.length / 3)
    for (let v = 0; v < under.length; v++) under[v] = Math.floor(coords[3 * v + 2]) + shift
    const firsts = new Uint16Array(n), ends = new Uint16Array(n), last = this.bands - 1
    for (let i = 0; i < n; i++) {
      const a = under[triangles[3 * i]], b = under[triangles[3 * i + 1]], c = under[triangles[3 * i + 2]]
      const low = (a < b ? (a < c ? a : c) : b < c ? b : c) + 1, high = a > b ? (a > c ? a : c) : b > c ? b : c
      if (high < low || high < 0 || low >= layerCount) continue
      firsts[i] = low > 0 ? Math.floor(low / bandLayers) : 0
      ends[i] = Math.min(last, Math.floor(high / bandLayers)) + 1
    }
    this.#firsts = firsts
    this.#ends = ends
  }

  /** The triangles that cross a sample of a band, by their offsets into `body.triangles`. */
  listOf(band: number): Uint32Array {
    const part = Math.floor(band / this.#perPart), at = band - part * this.#perPart
    const { starts, list } = (this.#parts[part] ??= this.#sort(part))
    return list.subarray(starts[at], starts[at + 1])
  }

  #sort(part: number): { starts: Uint32Array; list: Uint32Array } {
    const firsts = this.#firsts, ends = this.#ends
    const low = part * this.#perPart, high = Math.min(this.bands, low + this.#perPart)
    const starts = new Uint32Array(high - low + 1)
    for (let i = 0; i < ends.length; i++) {
      if (ends[i] <= low || firsts[i] >= high) continue
      for (let b = Math.max(low, firsts[i]); b < Math.min(high, ends[i]); b++) starts[b - low + 1]++
    }
    for (let b = 0; b < high - low; b++) starts[b + 1] += starts[b]
    const cursor = starts.slice(0, high - low), list = new Uint32Array(starts[high - low])
    for (let i = 0; i < ends.length; i++) {
      if (ends[i] <= low || firsts[i] >= high) continue
      for (let b = Math.max(low, firsts[i]); b < Math.min(high, ends[i]); b++) list[cursor[b - low]++] = 3 * i
    }
    return { starts, list }
  }
}

/** All triangles of a body, as a list of offsets: where there are few layers, sorting them into bands takes longer than looking at each. */
export function allTriangles(body: Body): Uint32Array {
  const list = new Uint32Array(body.triangles.length / 3)
  for (let i = 0; i < list.length; i++) list[i] = 3 * i
  return list
}
