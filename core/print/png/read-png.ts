import { decode } from 'fast-png'
import type { GreyRuns } from './grey-runs'
import { ByteRuns, inflateRuns } from './inflate-runs'
import { crc32 } from './crc32'

const runs = new ByteRuns()

/**
 * A PNG as runs of grey. Pictures of eight bits of grey without filters, as ours are, are read run by run; all others by a library, colours
 * as their first channel.
 * @throws Error where it is none, or damaged
 */
export function readPng(png: Uint8Array): GreyRuns {
  const view = new DataView(png.buffer, png.byteOffset, png.byteLength)
  if (png.length < 45 || view.getUint32(0) !== 0x89504e47 || view.getUint32(4) !== 0x0d0a1a0a) throw new Error('The picture is no PNG.')
  const width = view.getUint32(16), height = view.getUint32(20), plain = png[24] === 8 && png[25] === 0 && png[28] === 0
  if (width < 1 || height < 1 || width > 200000 || height > 200000) throw new Error(`The picture would have ${width} × ${height} pixels.`)
  const parts: Uint8Array[] = []
  for (let at = 8; at + 12 <= png.length;) {
    const long = view.getUint32(at), type = view.getUint32(at + 4), end = at + 8 + long
    if (end + 4 > png.length) throw new Error('The picture is cut short.')
    if (view.getUint32(end) !== crc32(png.subarray(at + 4, end))) throw new Error('The picture is damaged: a check sum in it is wrong.')
    if (type === IDAT) parts.push(png.subarray(at + 8, end))
    at = end + 4
  }
  if (plain && parts.length > 0) {
    inflateRuns(parts.length === 1 ? parts[0] : joined(parts), runs, (width + 1) * height)
    if (runs.length !== (width + 1) * height) throw new Error('The picture is damaged: rows of it are missing.')
    const found = rowsOf(width, height)
    if (found) return found
  }
  const { data, channels, depth } = decode(png), out: number[] = [], shades: number[] = [], starts = new Int32Array(height + 1)
  for (let y = 0; y < height; y++) {
    for (let x = 0, from = 0; x <= width; x++) {
      const now = x < width ? data[(y * width + x) * channels] : -1
      if (x > 0 && now === data[(y * width + x - 1) * channels]) continue
      const before = x > 0 ? data[(y * width + x - 1) * channels] : 0
      if (x > 0 && before > 0) {
        out.push(from, x)
        shades.push(depth === 16 ? Math.max(1, before >> 8) : depth === 1 ? 255 : before)
      }
      from = x
    }
    starts[y + 1] = out.length / 2
  }
  return { width, height, starts, pairs: Int32Array.from(out), shades: Uint8Array.from(shades) }
}

const IDAT = 0x49444154

/** The runs of a stream of rows, each behind its filter byte; null where one is filtered. */
function rowsOf(width: number, height: number): GreyRuns | null {
  const { ends, values, count } = runs, stride = width + 1, starts = new Int32Array(height + 1)
  const pairs = new Int32Array(2 * (count + height)), shades = new Uint8Array(count + height)
  let n = 0, row = 0
  for (let i = 0, from = 0; i < count; from = ends[i++]) {
    const value = values[i]
    if (value === 0) continue
    for (let a = from; a < ends[i];) {
      const r = Math.floor(a / stride), end = Math.min(ends[i], (r + 1) * stride), x = a - r * stride
      // the filter byte itself
      if (x === 0) return null
      while (row < r) starts[++row] = n
      pairs[2 * n] = x - 1
      pairs[2 * n + 1] = end - r * stride - 1
      shades[n++] = value
      a = end
    }
  }
  while (row < height) starts[++row] = n
  return { width, height, starts, pairs: pairs.slice(0, 2 * n), shades: shades.slice(0, n) }
}

function joined(parts: readonly Uint8Array[]): Uint8Array {
  const all = new Uint8Array(parts.reduce((sum, p) => sum + p.length, 0))
  let at = 0
  for (const p of parts) {
    all.set(p, at)
    at += p.length
  }
  return all
}
