import { labelLayer, newLabels } from './layer-labels'
import type { ModelScan } from './scan'

/** The pixels of one component of one layer, as a small bitmap. */
export interface Region {
  /** Absolute first pixel and row of the bitmap. */
  readonly pixel0: number
  readonly row0: number
  readonly width: number
  readonly height: number
  /** 1 where the component has material, row by row. */
  readonly bits: Uint8Array
}

/**
 * The bitmap of a solid component of the model.
 * @param component its number within the layer, in the order of first spans
 */
export function regionOf(scan: ModelScan, layer: number, component: number): Region {
  const { model } = scan.layerSpans(layer)
  const { rows, row0 } = scan.frame
  const labels = newLabels()
  labelLayer(model.starts, 0, rows, model.pairs, labels)
  let minX = Infinity, maxX = -Infinity, minRow = Infinity, maxRow = -Infinity
  const visit = (each: (row: number, from: number, to: number) => void): void => {
    for (let r = 0; r < rows; r++) {
      for (let s = model.starts[r]; s < model.starts[r + 1]; s++) {
        if (labels.solid[s] === component) each(r, model.pairs[2 * s], model.pairs[2 * s + 1])
      }
    }
  }
  visit((r, from, to) => {
    minX = Math.min(minX, from)
    maxX = Math.max(maxX, to)
    minRow = Math.min(minRow, r)
    maxRow = Math.max(maxRow, r + 1)
  })
  const width = Math.max(0, maxX - minX), height = Math.max(0, maxRow - minRow)
  const bits = new Uint8Array(width * height)
  visit((r, from, to) => bits.fill(1, (r - minRow) * width + from - minX, (r - minRow) * width + to - minX))
  return { pixel0: minX, row0: minRow + row0, width, height, bits }
}

/** Chessboard distance of every pixel of a region to the nearest pixel outside it. */
export function depthOf(region: Pick<Region, 'width' | 'height' | 'bits'>): Int32Array {
  const { width, height, bits } = region
  const depth = new Int32Array(bits.length)
  const at = (x: number, y: number): number => (x < 0 || y < 0 || x >= width || y >= height ? 0 : depth[y * width + x])
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) if (bits[y * width + x]) depth[y * width + x] = 1 + Math.min(at(x - 1, y), at(x, y - 1), at(x - 1, y - 1), at(x + 1, y - 1))
  }
  for (let y = height - 1; y >= 0; y--) {
    for (let x = width - 1; x >= 0; x--) {
      const i = y * width + x
      if (bits[i]) depth[i] = Math.min(depth[i], 1 + Math.min(at(x + 1, y), at(x, y + 1), at(x + 1, y + 1), at(x - 1, y + 1)))
    }
  }
  return depth
}
