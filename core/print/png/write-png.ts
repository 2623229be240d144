import { crc32 } from './crc32'
import { deflateRuns, DeflateScratch } from './deflate-runs'
import type { GreyRuns } from './grey-runs'

const SIGNATURE = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]
const scratch = new DeflateScratch()

/**
 * A picture as a PNG of eight bits of grey, made from its runs without filling a pixel.
 * Source: PNG (ISO/IEC 15948:2004), 5 and 11.2.
 */
export function writePng(picture: GreyRuns): Uint8Array {
  const data = deflateRuns(picture, scratch), header = new Uint8Array(13), view = new DataView(header.buffer)
  view.setUint32(0, picture.width)
  view.setUint32(4, picture.height)
  // eight bits, grey, and the only ways there are to deflate, to filter and to order rows
  header[8] = 8
  const chunks: [string, Uint8Array][] = [['IHDR', header], ['IDAT', data], ['IEND', new Uint8Array(0)]]
  const out = new Uint8Array(SIGNATURE.length + chunks.reduce((sum, [, bytes]) => sum + 12 + bytes.length, 0)), outView = new DataView(out.buffer)
  out.set(SIGNATURE)
  let at = SIGNATURE.length
  for (const [name, bytes] of chunks) {
    outView.setUint32(at, bytes.length)
    for (let i = 0; i < 4; i++) out[at + 4 + i] = name.charCodeAt(i)
    out.set(bytes, at + 8)
    outView.setUint32(at + 8 + bytes.length, crc32(out.subarray(at + 4, at + 8 + bytes.length)))
    at += 12 + bytes.length
  }
  return out
}
