import { labelLayer, newLabels } from '../graph/layer-labels'
import type { ModelScan } from '../model-scan'
import type { Bitmap } from '../raster/bitmap'

/**
 * The bitmap of a solid component of the model.
 * @param component its number within the layer, in the order of first spans
 */
export function regionOf(scan: ModelScan, layer: number, component: number): Bitmap {
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
