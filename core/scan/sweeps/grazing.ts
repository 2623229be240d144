import type { BandedBody } from '../graph/banded-body'
import type { LayerGraph } from '../graph/layer-graph'
import type { Raster } from '../raster/body'
import type { ScanSettings } from '../settings'
import { classOfIsland } from './classes'
import type { JoinTree } from './join-tree'

/** A region of more pixels than this is no flake, whatever the limits are. */
const MOST_PIXELS = 4000

/** Row, first and end pixel, absolute. */
type Run = readonly [number, number, number]

/**
 * Flakes that never overlap the rest, layer on layer, and yet lie within a pixel of it, beside it or corner to corner: the ragged
 * edge of skin that is thinner than a layer, which cures together with what it touches. What is left of the flakes that never
 * join is debris.
 * @returns the islands, by their number in the tree
 */
export function grazingFlakes(model: BandedBody, own: LayerGraph, tree: JoinTree, raster: Raster, settings: ScanSettings): Set<number> {
  const pixelArea = raster.pixelMm * raster.pixelMm
  const loose = new Set<number>()
  tree.islands.forEach((i, id) => {
    if (id !== tree.body && i.joinsLayer < 0 && i.largestPixels <= MOST_PIXELS && classOfIsland(false, i.largestPixels * pixelArea, i.volumePixels * pixelArea * raster.layerMm, settings) === 'flake') loose.add(id)
  })
  const grazing = new Set<number>()
  if (loose.size === 0) return grazing
  const finder = new Finder(model, own)
  // flakes that touch each other stand or fall together
  const beside = new Map<number, Set<number>>()
  for (let k = 0; k < own.layerCount; k++) {
    for (let c = own.solidStarts[k]; c < own.solidStarts[k + 1]; c++) {
      const id = tree.islandOf[c]
      if (!loose.has(id) || grazing.has(id)) continue
      const pixels = finder.regionAt(k, own.solidRow[c], own.solidPixel[c])
      for (const near of finder.near(pixels, k)) {
        const other = near < 0 ? -1 : tree.islandOf[near]
        if (near >= 0 && other === id) continue
        if (near < 0 || !loose.has(other)) grazing.add(id)
        else beside.set(id, (beside.get(id) ?? new Set()).add(other))
      }
    }
  }
  for (let grown = true; grown;) {
    grown = false
    for (const [id, others] of beside) {
      for (const o of others) {
        if (grazing.has(id) === grazing.has(o)) continue
        grazing.add(id).add(o)
        grown = true
      }
    }
  }
  return grazing
}

class Finder {
  readonly #model: BandedBody
  readonly #own: LayerGraph

  constructor(model: BandedBody, own: LayerGraph) {
    this.#model = model
    this.#own = own
  }

  /** The runs of the region of layer k that has a pixel; null where it has more pixels than a flake can have. */
  regionAt(k: number, row: number, pixel: number): Run[] | null {
    const start = this.#runsBeside(k, row, pixel, pixel + 1)[0]
    const found: Run[] = [start]
    const seen = new Set([`${start[0]} ${start[1]}`])
    let pixels = start[2] - start[1]
    for (let i = 0; i < found.length; i++) {
      const [r, from, to] = found[i]
      for (const next of [...this.#runsBeside(k, r - 1, from, to), ...this.#runsBeside(k, r + 1, from, to)]) {
        const key = `${next[0]} ${next[1]}`
        if (seen.has(key)) continue
        seen.add(key)
        found.push(next)
        pixels += next[2] - next[1]
        if (pixels > MOST_PIXELS) return null
      }
    }
    return found
  }

  /** Components, through all layers, that lie within a pixel of a region of layer k in that layer or the ones next to it; −1 for a large one. */
  near(region: readonly Run[] | null, k: number): Set<number> {
    const out = new Set<number>()
    const inRegion = new Set(region?.map(([row, from]) => `${row} ${from}`))
    for (const m of [k - 1, k, k + 1]) {
      if (m < 0 || m >= this.#own.layerCount) continue
      for (const [row, from, to] of region ?? []) {
        for (let r = row - 1; r <= row + 1; r++) {
          for (const run of this.#runsBeside(m, r, from - 1, to + 1)) if (m !== k || !inRegion.has(`${run[0]} ${run[1]}`)) out.add(this.#componentOf(m, run))
        }
      }
    }
    return out
  }

  #componentOf(k: number, run: Run): number {
    const region = this.regionAt(k, run[0], run[1])
    if (!region) return -1
    // a component is known by its first pixel
    const [row, pixel] = region.reduce((a, b) => (b[0] < a[0] || (b[0] === a[0] && b[1] < a[1]) ? b : a))
    for (let c = this.#own.solidStarts[k]; c < this.#own.solidStarts[k + 1]; c++) if (this.#own.solidRow[c] === row && this.#own.solidPixel[c] === pixel) return c
    return -1
  }

  /** Runs of a row of layer k that have a pixel of [from, to). */
  #runsBeside(k: number, row: number, from: number, to: number): Run[] {
    const { rows, row0 } = this.#model.frame
    if (row < row0 || row >= row0 + rows) return []
    const { spans, at } = this.#model.layer(k)
    const r = at * rows + row - row0
    const out: Run[] = []
    for (let s = spans.starts[r]; s < spans.starts[r + 1]; s++) if (spans.pairs[2 * s] < to && spans.pairs[2 * s + 1] > from) out.push([row, spans.pairs[2 * s], spans.pairs[2 * s + 1]])
    return out
  }
}
