import type { Printer } from '../contract'
import { grownShadow, turnedShadow, type Shadow } from './shadow'

/** Something to be laid out: what it covers where its own middle is the origin. */
export interface ToLayOut {
  readonly id: string
  readonly shadow: Shadow
}

/** Where something comes to stand: the place of its middle, mm, and by how many quarters it is turned besides. */
export interface LaidOut {
  readonly id: string
  readonly xMm: number
  readonly yMm: number
  readonly quarters: number
  /** Whether it found no room, and lies beside the plate. */
  readonly beside: boolean
}

export interface LayOutOptions {
  readonly cellMm: number
  /** Room between two of them, mm. */
  readonly gapMm: number
  /** Whether they may be turned by quarters. */
  readonly turns: boolean
}

/** The plate as rows of bits. */
class Grid {
  readonly words: number
  readonly rows: Uint32Array[]

  constructor(readonly width: number, readonly height: number) {
    this.words = Math.ceil(width / 32) + 1
    this.rows = Array.from({ length: height }, () => new Uint32Array(this.words))
  }
}

/** A shape in rows of bits, with every shift within a word made once. */
class Stamp {
  readonly width: number
  readonly height: number
  readonly #shifted: (Uint32Array[] | null)[] = Array.from({ length: 32 }, () => null)

  constructor(readonly shadow: Shadow) {
    this.width = shadow.width
    this.height = shadow.height
  }

  rows(shift: number): Uint32Array[] {
    return (this.#shifted[shift] ??= Array.from({ length: this.height }, (_, y) => {
      const row = new Uint32Array(Math.ceil((this.width + shift) / 32))
      for (let x = 0; x < this.width; x++) if (this.shadow.cells[y * this.width + x]) row[(x + shift) >> 5] |= 1 << ((x + shift) & 31)
      return row
    }))
  }
}

/**
 * Lays things out on the plate by what they really cover, the largest first, each as far to the front and then to the left as it goes;
 * in the end all are moved together to the middle of the plate. What finds no room is put beside it, to the right.
 */
export function layOut(things: readonly ToLayOut[], { widthMm, depthMm, edgesMm: [left, right, front, back] }: Pick<Printer, 'widthMm' | 'depthMm' | 'edgesMm'>, { cellMm, gapMm, turns }: LayOutOptions): LaidOut[] {
  const width = Math.floor((widthMm - left - right) / cellMm), height = Math.floor((depthMm - front - back) / cellMm), grid = new Grid(Math.max(0, width), Math.max(0, height)), gap = gapMm / cellMm
  const covered = (s: Shadow): number => s.cells.reduce((sum, c) => sum + c, 0)
  const order = [...things].map((thing, i) => ({ thing, i, size: covered(thing.shadow) })).sort((a, b) => b.size - a.size || a.i - b.i)
  const known = new Map<Shadow, { bare: Stamp; grown: Stamp; quarters: number }[]>(), placed: { id: string; x: number; y: number; quarters: number; stamp: Stamp }[] = [], beside: { id: string; stamp: Stamp }[] = []
  /** From where on a shape like one that stands already has to be looked for: all before was full. */
  const from = new Map<Stamp, number>()
  for (const { thing } of order) {
    let ways = known.get(thing.shadow)
    if (!ways) {
      known.set(thing.shadow, (ways = (turns ? [0, 1, 2, 3] : [0]).map(quarters => {
        const turned = turnedShadow(thing.shadow, quarters)
        return { bare: new Stamp(turned), grown: new Stamp(grownShadow(turned, gap)), quarters }
      })))
    }
    let best: { x: number; y: number; way: (typeof ways)[number]; reach: number } | null = null
    for (const way of ways) {
      const at = firstFree(grid, way.bare, way.grown, from.get(way.bare) ?? 0)
      if (!at) {
        from.set(way.bare, Infinity)
        continue
      }
      from.set(way.bare, at.y * grid.width + at.x)
      // what ends nearest to the front, and of these what ends nearest to the left
      const reach = (at.y + way.bare.height) * grid.width + at.x + way.bare.width
      if (!best || reach < best.reach) best = { ...at, way, reach }
    }
    if (!best) {
      beside.push({ id: thing.id, stamp: ways[0].bare })
      continue
    }
    put(grid, best.way.bare, best.x, best.y)
    placed.push({ id: thing.id, x: best.x, y: best.y, quarters: best.way.quarters, stamp: best.way.bare })
  }
  const most = (of: (p: (typeof placed)[number]) => number): number => placed.reduce((m, p) => Math.max(m, of(p)), 0), least = (of: (p: (typeof placed)[number]) => number): number => placed.reduce((m, p) => Math.min(m, of(p)), Infinity)
  const middleX = Math.round((width - most(p => p.x + p.stamp.width) - least(p => p.x)) / 2) || 0, middleY = Math.round((height - most(p => p.y + p.stamp.height) - least(p => p.y)) / 2) || 0
  const out = new Map<string, LaidOut>()
  for (const { id, x, y, quarters, stamp: { shadow } } of placed) out.set(id, { id, quarters, beside: false, xMm: -widthMm / 2 + left + (x + middleX - shadow.x0) * cellMm, yMm: -depthMm / 2 + front + (y + middleY - shadow.y0) * cellMm })
  let next = widthMm / 2 + Math.max(gapMm, 2 * cellMm)
  for (const { id, stamp: { shadow } } of beside) {
    out.set(id, { id, quarters: 0, beside: true, xMm: next - shadow.x0 * cellMm, yMm: -(shadow.y0 + shadow.height / 2) * cellMm })
    next += shadow.width * cellMm + Math.max(gapMm, cellMm)
  }
  return things.map(t => out.get(t.id) as LaidOut)
}

/** The first place, row by row, where a shape lies within the plate and what surrounds it is free. */
function firstFree(grid: Grid, bare: Stamp, grown: Stamp, from: number): { x: number; y: number } | null {
  if (from === Infinity) return null
  const margin = bare.shadow.x0 - grown.shadow.x0, marginY = bare.shadow.y0 - grown.shadow.y0
  for (let y = Math.floor(from / grid.width); y + bare.height <= grid.height; y++) {
    for (let x = y === Math.floor(from / grid.width) ? from % grid.width : 0; x + bare.width <= grid.width; x++) if (isFree(grid, grown, x - margin, y - marginY)) return { x, y }
  }
  return null
}

function isFree({ rows, words, height }: Grid, stamp: Stamp, x: number, y: number): boolean {
  const word = x >> 5, shape = stamp.rows(x & 31)
  for (let r = Math.max(0, -y); r < stamp.height && y + r < height; r++) {
    const row = rows[y + r], own = shape[r]
    for (let w = Math.max(0, -word); w < own.length && word + w < words; w++) if (row[word + w] & own[w]) return false
  }
  return true
}

function put({ rows }: Grid, stamp: Stamp, x: number, y: number): void {
  const word = x >> 5, shape = stamp.rows(x & 31)
  for (let r = 0; r < stamp.height; r++) for (let w = 0; w < shape[r].length; w++) rows[y + r][word + w] |= shape[r][w]
}
