import type { Vec3 } from '../mesh'
import { labelNumber, type LaidPixel, type ModelScan } from '../scan'

/** What hangs is kept in cubes of this side, mm. */
const CELL_MM = 0.3
/** Above a tip what descends from it is held so far up, as a share of what it holds to the side; and going up gives so much more reach per mm. */
const UP_GAIN = 0.7

interface Cell {
  readonly x: number
  readonly y: number
  readonly z: number
  mm2: number
  held: boolean
}

/** What the last run of a scan left over reach, to judge places for tips by what they would hold of it. */
export class Demand {
  readonly #scan: ModelScan
  readonly #columns = new Map<number, Cell[]>()

  constructor(scan: ModelScan) {
    this.#scan = scan
    const { pixelMm, layerMm } = scan.raster, cells = new Map<string, Cell>()
    scan.reachLog.forEach((entry, layer) => {
      if (!entry) return
      const z = Math.floor(((layer + 0.5) * layerMm) / CELL_MM)
      for (let i = 0; i < entry.runs.length; i += 4) {
        const y = Math.floor(((entry.runs[i] + 0.5) * pixelMm) / CELL_MM)
        for (let p = entry.runs[i + 1]; p < entry.runs[i + 2]; p++) {
          const x = Math.floor(((p + 0.5) * pixelMm) / CELL_MM), key = `${x} ${y} ${z}`
          let cell = cells.get(key)
          if (!cell) {
            cells.set(key, (cell = { x: (x + 0.5) * CELL_MM, y: (y + 0.5) * CELL_MM, z: (z + 0.5) * CELL_MM, mm2: 0, held: false }))
            const column = columnOf(x, y), list = this.#columns.get(column)
            if (list) list.push(cell)
            else this.#columns.set(column, [cell])
          }
          cell.mm2 += pixelMm * pixelMm
        }
      }
    })
  }

  /** The label of what is over reach at a pixel of a layer; −1 where nothing is. */
  labelsOf(layer: number): (at: LaidPixel) => number {
    const runs = this.#scan.reachLog[layer]?.runs, rows = new Map<number, number[]>()
    for (let i = 0; runs && i < runs.length; i += 4) {
      const list = rows.get(runs[i])
      if (list) list.push(i)
      else rows.set(runs[i], [i])
    }
    return ({ row, pixel }) => {
      const found = rows.get(row)?.find(i => (runs as Int32Array)[i + 1] <= pixel && pixel < (runs as Int32Array)[i + 2])
      return found === undefined ? -1 : labelNumber(layer, (runs as Int32Array)[found + 3])
    }
  }

  /** What would be held, and is not yet, above a point by a tip there. */
  #above([x, y, z]: Vec3, nearMm: number): Cell[] {
    const most = nearMm * (1 + UP_GAIN), out: Cell[] = []
    for (let j = Math.floor((y - most) / CELL_MM); j <= (y + most) / CELL_MM; j++) for (let i = Math.floor((x - most) / CELL_MM); i <= (x + most) / CELL_MM; i++) {
      for (const c of this.#columns.get(columnOf(i, j)) ?? NO_CELLS) if (!c.held && c.z > z - CELL_MM / 2 && c.z <= z + nearMm) out.push(c)
    }
    return out
  }

  /**
   * Tells how much a tip at a pixel of the layer of a point would hold of what is not held yet, mm².
   * @param here what of the layer itself is out of reach: row, pixel and steps of each
   */
  weigher(from: Vec3, nearMm: number, here: Int32Array): (pixel: number, row: number) => number {
    const { pixelMm } = this.#scan.raster, z = from[2], above = this.#above(from, 2 * nearMm), most = (nearMm / pixelMm) ** 2, count = here.length / 3, every = Math.max(1, Math.floor(count / 600)), each = every * pixelMm * pixelMm
    return (pixel, row) => {
      let sum = 0
      for (let i = 0; i < here.length; i += 3 * every) if ((here[i] - row) ** 2 + (here[i + 1] - pixel) ** 2 <= most) sum += each
      const x = (pixel + 0.5) * pixelMm, y = (row + 0.5) * pixelMm
      for (const c of above) if (holds(x, y, z, c, nearMm)) sum += c.mm2
      return sum
    }
  }

  /** Takes what a tip at a point holds as held. */
  hold(at: Vec3, nearMm: number): void {
    for (const c of this.#above(at, nearMm)) if (holds(at[0], at[1], at[2], c, nearMm)) c.held = true
  }
}

const NO_CELLS: readonly Cell[] = []

function columnOf(i: number, j: number): number {
  return i * 65536 + j
}

/** Whether a tip holds what lies above it, by the straight way: one that goes up goes farther. */
function holds(x: number, y: number, z: number, c: Cell, nearMm: number): boolean {
  const up = Math.max(0, c.z - z), most = nearMm + UP_GAIN * up
  return up <= nearMm && (c.x - x) ** 2 + (c.y - y) ** 2 <= most * most
}
