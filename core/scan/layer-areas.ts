import type { Mesh } from '../mesh'
import { allTriangles, bodyOf, type Raster } from './raster/body'
import { frameOf, SpanScratch, spansOfLayers } from './raster/spans'

/** The solid area of some layers of a mesh as it stands, mm²; 0 where it does not reach. Shells that overlap count once. */
export function layerAreas(mesh: Mesh, raster: Raster, layers: readonly number[]): Float64Array {
  const body = bodyOf(mesh, raster), frame = frameOf([body]), all = allTriangles(body), scratch = new SpanScratch()
  return Float64Array.from(layers, k => {
    if (k < 0 || k >= frame.layerCount) return 0
    const { pairs, starts } = spansOfLayers(body, all, k, 1, frame, scratch)
    let pixels = 0
    for (let i = 0; i < starts[starts.length - 1]; i++) pixels += pairs[2 * i + 1] - pairs[2 * i]
    return pixels * raster.pixelMm * raster.pixelMm
  })
}
