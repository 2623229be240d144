import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { joinMeshes } from '../mesh'
import { box } from '../testing/shapes'
import { ModelScan, DEFAULT_SETTINGS } from './index'

// A second opinion: the same definitions on plain voxels, slow and obvious, sharing no code with the scan.

type Block = readonly [x: number, y: number, z: number, w: number, d: number, h: number]
const SIZE = 14

class Voxels {
  readonly solid = new Uint8Array(SIZE ** 3)
  readonly layers: number
  constructor(blocks: readonly Block[]) {
    let top = 0
    for (const [x, y, z, w, d, h] of blocks) {
      top = Math.max(top, z + h)
      for (let k = z; k < z + h; k++) for (let j = y; j < y + d; j++) for (let i = x; i < x + w; i++) this.solid[at(i, j, k)] = 1
    }
    this.layers = top
  }

  /** Connected pieces of solid (or of empty space) in layers 0 to k: side by side in a layer, or one right above the other. */
  pieces(k: number, solid: boolean): number[][] {
    const seen = new Uint8Array(SIZE ** 3), out: number[][] = []
    const wanted = solid ? 1 : 0
    for (let start = 0; start < SIZE * SIZE * (k + 1); start++) {
      if (seen[start] || this.solid[start] !== wanted) continue
      const piece: number[] = [start]
      seen[start] = 1
      for (let n = 0; n < piece.length; n++) {
        const i = piece[n] % SIZE, j = Math.floor(piece[n] / SIZE) % SIZE, l = Math.floor(piece[n] / SIZE / SIZE)
        for (const [a, b, c] of [[i - 1, j, l], [i + 1, j, l], [i, j - 1, l], [i, j + 1, l], [i, j, l - 1], [i, j, l + 1]]) {
          if (a < 0 || b < 0 || c < 0 || a >= SIZE || b >= SIZE || c > k) continue
          const next = at(a, b, c)
          if (seen[next] || this.solid[next] !== wanted) continue
          seen[next] = 1
          piece.push(next)
        }
      }
      out.push(piece.sort((a, b) => a - b))
    }
    return out
  }
}
function at(i: number, j: number, k: number): number {
  return (k * SIZE + j) * SIZE + i
}
const layerOf = (v: number): number => Math.floor(v / SIZE / SIZE)
const inLayer = (piece: readonly number[], k: number): number => piece.filter(v => layerOf(v) === k).length

interface Found { layer: number; area: number; joins: number | null; volume: number }

/** Islands by definition, with the join tree's rule where pieces meet. */
function islandsOf(voxels: Voxels): Found[] {
  interface Cluster { piece: number[]; island: (Found & { first: number }) | null }
  let before: Cluster[] = []
  const all: (Found & { first: number })[] = []
  for (let k = 0; k < voxels.layers; k++) {
    const now: Cluster[] = voxels.pieces(k, true).map(piece => {
      const members = new Set(piece)
      const parts = before.filter(c => members.has(c.piece[0]))
      if (parts.length === 0) {
        if (k === 0) return { piece, island: null }
        const island = { layer: k, area: piece.length, joins: null, volume: 0, first: piece[0] }
        all.push(island)
        return { piece, island }
      }
      parts.sort((a, b) => {
        if (!a.island || !b.island) return a.island ? 1 : b.island ? -1 : 0
        return b.piece.length - a.piece.length || a.island.layer - b.island.layer || a.island.first - b.island.first
      })
      for (const lost of parts.slice(1)) {
        if (!lost.island) continue
        lost.island.joins = k
        lost.island.volume = lost.piece.length
      }
      return { piece, island: parts[0].island }
    })
    before = now
  }
  for (const c of before) if (c.island) c.island.volume = c.piece.length
  return all.map(({ layer, area, joins, volume }) => ({ layer, area, joins, volume }))
}

interface FoundCup { first: number; last: number; volume: number; peak: number; ends: string }

/** Suction by definition: empty space of the layers so far that does not reach the border of its layer. */
function cupsOf(voxels: Voxels): FoundCup[] {
  const open = (piece: readonly number[]): boolean => piece.some(v => v % SIZE === 0 || v % SIZE === SIZE - 1 || Math.floor(v / SIZE) % SIZE === 0 || Math.floor(v / SIZE) % SIZE === SIZE - 1)
  const out: FoundCup[] = []
  const record = (piece: readonly number[], last: number, ends: string): void => {
    const first = layerOf(piece[0])
    let peak = 0
    for (let k = first; k <= last; k++) peak = Math.max(peak, inLayer(piece, k))
    out.push({ first, last, volume: piece.length, peak, ends })
  }
  let before: number[][] = []
  for (let k = 0; k < voxels.layers; k++) {
    const pieces = voxels.pieces(k, false)
    const alive: number[][] = []
    for (const old of before) {
      const now = pieces.find(p => p.includes(old[0])) as number[]
      if (open(now)) record(old, k - 1, 'vent')
      else if (inLayer(now, k) === 0) record(old, k - 1, 'closed')
    }
    for (const p of pieces) if (!open(p) && inLayer(p, k) > 0) alive.push(p)
    before = alive
  }
  for (const p of before) record(p, voxels.layers - 1, 'open')
  return out
}

const coordinate = fc.integer({ min: 1, max: 8 }), extent = fc.integer({ min: 1, max: 4 })
const block = fc.tuple(coordinate, coordinate, fc.integer({ min: 0, max: 9 }), extent, extent, extent).map((b): Block[] => [b as Block])
/** A box of walls, with or without floor, lid and a window. */
const shell = fc.record({ x: fc.integer({ min: 1, max: 5 }), y: fc.integer({ min: 1, max: 5 }), z: fc.integer({ min: 0, max: 4 }), w: fc.integer({ min: 4, max: 7 }), d: fc.integer({ min: 4, max: 7 }), h: fc.integer({ min: 5, max: 8 }), floor: fc.boolean(), lid: fc.boolean(), window: fc.integer({ min: 0, max: 6 }) })
  .map(({ x, y, z, w, d, h, floor, lid, window }): Block[] => [
    ...(floor ? [[x, y, z, w, d, 1] as Block] : []), ...(lid ? [[x, y, z + h - 1, w, d, 1] as Block] : []),
    [x, y, z, 1, d, h], [x, y, z, w, 1, h], [x, y + d - 1, z, w, 1, h],
    // one wall has a window over its whole width, or none
    ...(window > 0 && window < h - 1 ? [[x + w - 1, y, z, 1, d, window] as Block, [x + w - 1, y, z + window + 1, 1, d, h - window - 1] as Block] : [[x + w - 1, y, z, 1, d, h] as Block]),
  ])
const scene = fc.array(fc.oneof(block, block, shell), { minLength: 1, maxLength: 7 }).map(list => list.flat())

const order = (a: object, b: object): number => JSON.stringify(a).localeCompare(JSON.stringify(b))

describe('the scan beside plain voxels', () => {
  it('finds the same islands, joins, cups and areas in random scenes', () => {
    let islands = 0, joined = 0
    const ends = new Set<string>()
    fc.assert(fc.property(scene, blocks => {
      const mesh = joinMeshes(blocks.map(([x, y, z, w, d, h]) => box([x, y, z], [x + w, y + d, z + h])))
      const result = new ModelScan(mesh, { pixelMm: 1, layerMm: 1 }).runToEnd()
      const voxels = new Voxels(blocks)
      expect(result.layerCount).toBe(voxels.layers)
      expect(result.unclosedRows).toBe(0)
      for (let k = 0; k < voxels.layers; k++) expect(result.areaMm2[k]).toBe(voxels.solid.subarray(at(0, 0, k), at(0, 0, k + 1)).reduce((a, b) => a + b, 0))
      const theirs = islandsOf(voxels)
      expect(result.islands.map(i => ({ layer: i.layer, area: i.areaMm2, joins: i.joinsLayer, volume: i.volumeMm3 })).sort(order)).toEqual(theirs.sort(order))
      const cups = cupsOf(voxels).filter(c => c.peak >= DEFAULT_SETTINGS.cupAreaMm2 && c.last - c.first + 1 >= DEFAULT_SETTINGS.cupLayers)
      expect(result.cups.map(c => ({ first: c.firstLayer, last: c.lastLayer, volume: c.volumeMm3, peak: c.peakAreaMm2, ends: c.ends })).sort(order)).toEqual(cups.sort(order))
      islands += theirs.length
      joined += theirs.filter(i => i.joins !== null).length
      for (const c of cups) ends.add(c.ends)
    }), { numRuns: 300, seed: 20 })
    // the scenes were not empty of what they are about
    expect(islands).toBeGreaterThan(300)
    expect(joined).toBeGreaterThan(5)
    expect([...ends].sort()).toEqual(['closed', 'open', 'vent'])
  })

  it('judges held and floating as the voxels do when some blocks are stilts', () => {
    fc.assert(fc.property(scene, fc.array(fc.tuple(coordinate, coordinate, fc.constantFrom(0, 0, 0, 1, 3), fc.integer({ min: 1, max: 9 })), { minLength: 1, maxLength: 5 }), (blocks, posts) => {
      const stilts: Block[] = posts.map(([x, y, z, h]) => [x, y, z, 1, 1, h])
      const make = (list: readonly Block[]): ReturnType<typeof box> => joinMeshes(list.map(([x, y, z, w, d, h]) => box([x, y, z], [x + w, y + d, z + h])))
      const scan = new ModelScan(make(blocks), { pixelMm: 1, layerMm: 1 })
      scan.setStilts(make(stilts))
      const result = scan.runToEnd()
      const all = new Voxels([...blocks, ...stilts])
      for (const island of result.islands) {
        const inside = at(Math.floor(island.center[0]), Math.floor(island.center[1]), island.layer)
        // the centre of a ring is no part of it; such islands are left to the others
        if (!new Voxels(blocks).solid[inside]) continue
        const piece = all.pieces(island.layer, true).find(p => p.includes(inside)) as number[]
        if (island.state !== 'noted') expect(island.state !== 'open').toBe(inLayer(piece, 0) > 0)
      }
    }), { numRuns: 120, seed: 21 })
  })

  it('measures reach as the definition says it, with every straight way tried', () => {
    // all pairs of pixels that see each other, and the shortest ways over them: slow, and exact on a small grid
    // where a way bends several times the scan may be some tenths of a pixel off
    const g = 1, limit = 1.2
    let compared = 0
    fc.assert(fc.property(scene, blocks => {
      const voxels = new Voxels(blocks)
      const scan = new ModelScan(joinMeshes(blocks.map(([x, y, z, w, d, h]) => box([x, y, z], [x + w, y + d, z + h]))), { pixelMm: 1, layerMm: 1 }, undefined, { ...DEFAULT_SETTINGS, flapMm: limit, tipHoldMm: limit })
      scan.runToEnd()
      let before = new Float64Array(SIZE * SIZE).fill(Infinity)
      for (let k = 0; k < voxels.layers; k++) {
        const now = reachOfLayer(voxels, k, before, g)
        let farthest = 0, over = 0
        for (let i = 0; i < SIZE * SIZE; i++) {
          const fresh = voxels.solid[k * SIZE * SIZE + i] === 1 && (k === 0 || voxels.solid[(k - 1) * SIZE * SIZE + i] === 0)
          if (!fresh || now[i] <= limit) continue
          over++
          farthest = Math.max(farthest, now[i])
        }
        const pieces = scan.reachLog[k]?.pieces ?? []
        expect(Math.abs(pieces.reduce((m, p) => Math.max(m, p.reach), 0) - farthest)).toBeLessThanOrEqual(Math.max(farthest > 0 ? 0.6 : 0, farthest * 0.06))
        expect(Math.abs(pieces.reduce((n, p) => n + p.pixels, 0) - over)).toBeLessThanOrEqual(over > 0 ? Math.max(2, over * 0.15) : 0)
        if (over > 0) compared++
        before = now
      }
    }), { numRuns: 120, seed: 5 })
    expect(compared).toBeGreaterThan(40)
  })
})

function reachOfLayer(voxels: Voxels, k: number, before: Float64Array, g: number): Float64Array<ArrayBuffer> {
  const has = (i: number, layer = k): boolean => layer >= 0 && voxels.solid[layer * SIZE * SIZE + i] === 1
  const d = new Float64Array(SIZE * SIZE).fill(Infinity)
  const open = new Set<number>()
  for (let i = 0; i < SIZE * SIZE; i++) {
    if (!has(i)) continue
    open.add(i)
    if (has(i, k - 1)) d[i] = Math.max(0, before[i] - g)
  }
  const solidAt = (x: number, y: number): boolean => x >= 0 && y >= 0 && x < SIZE && y < SIZE && has(y * SIZE + x)
  const sees = (a: number, b: number): boolean => {
    const ax = a % SIZE, ay = Math.floor(a / SIZE), bx = b % SIZE, by = Math.floor(b / SIZE)
    if (Math.abs(ax - bx) === 1 && Math.abs(ay - by) === 1) return solidAt(ax, by) || solidAt(bx, ay)
    // an odd number of samples, so that none falls on a corner
    const steps = 41 * Math.max(Math.abs(ax - bx), Math.abs(ay - by))
    let x = ax, y = ay
    for (let n = 1; n <= steps; n++) {
      const nx = Math.round(ax + ((bx - ax) * n) / steps), ny = Math.round(ay + ((by - ay) * n) / steps)
      if (!solidAt(nx, ny)) return false
      // through a corner only where one of its sides is solid
      if (nx !== x && ny !== y && !solidAt(nx, y) && !solidAt(x, ny)) return false
      x = nx
      y = ny
    }
    return true
  }
  for (;;) {
    let best = -1
    for (const i of open) if (best < 0 || d[i] < d[best]) best = i
    if (best < 0) return d
    // what nothing reaches begins here and is judged as if it were held, all of it at once
    if (d[best] === Infinity) {
      for (const i of open) d[i] = 0
      return d
    }
    open.delete(best)
    for (const i of open) {
      const way = d[best] + Math.hypot((i % SIZE) - (best % SIZE), Math.floor(i / SIZE) - Math.floor(best / SIZE))
      if (way < d[i] && sees(best, i)) d[i] = way
    }
  }
}
