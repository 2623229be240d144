/** The pixels of one component of one layer, as a small bitmap. */
export interface Bitmap {
  /** Absolute first pixel and row of the bitmap. */
  readonly pixel0: number
  readonly row0: number
  readonly width: number
  readonly height: number
  /** 1 where the component has material, row by row. */
  readonly bits: Uint8Array
}

/** Chessboard distance of every pixel of a bitmap to the nearest pixel outside it. */
export function depthOf(bitmap: Pick<Bitmap, 'width' | 'height' | 'bits'>): Int32Array {
  const { width, height, bits } = bitmap
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
