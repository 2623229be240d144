import { deflateSync, inflateSync } from 'node:zlib'
import { PNG } from 'pngjs'
import { describe, expect, it } from 'vitest'
import { between, random } from '../../testing/random'
import type { GreyRuns } from './grey-runs'
import { codeLengths } from './huffman'
import { crc32 } from './crc32'
import { readPng } from './read-png'
import { writePng } from './write-png'

/** A picture that is filled pixel by pixel. */
function filled({ width, height, starts, pairs, shades }: GreyRuns): Uint8Array {
  const out = new Uint8Array(width * height)
  for (let r = 0; r < height; r++) for (let i = starts[r]; i < starts[r + 1]; i++) out.fill(shades ? shades[i] : 255, r * width + pairs[2 * i], r * width + pairs[2 * i + 1])
  return out
}
/** What an independent decoder reads (Reference library: pngjs), one byte a pixel; it refuses wrong check sums of chunks. */
function decoded(png: Uint8Array): Uint8Array {
  const { data } = PNG.sync.read(Buffer.from(png), { checkCRC: true } as never)
  return Uint8Array.from({ length: data.length / 4 }, (_, i) => data[4 * i])
}
function fromRows(width: number, rows: readonly (readonly (readonly [number, number, number?])[])[]): GreyRuns {
  const flat = rows.flat()
  return { width, height: rows.length, starts: Int32Array.from([0, ...rows.map((_, r) => rows.slice(0, r + 1).flat().length)]), pairs: Int32Array.from(flat.flatMap(([a, b]) => [a, b])), shades: flat.some(r => r[2] !== undefined) ? Uint8Array.from(flat, r => r[2] ?? 255) : null }
}

describe('a layer as PNG', () => {
  it('is what an independent decoder fills, byte for byte, over 300 random pictures of all kinds', () => {
    const r = random(7)
    for (let n = 0; n < 300; n++) {
      const width = Math.floor(between(r, 1, n % 3 === 0 ? 20 : 2500)), height = Math.floor(between(r, 1, 40)), grey = n % 2 === 0
      const row = (): [number, number, number?][] => {
        const cuts = [...new Set(Array.from({ length: 2 * Math.floor(between(r, 0, 12)) }, () => Math.floor(between(r, 0, width + 1))))].sort((a, b) => a - b)
        return cuts.flatMap((c, i): [number, number, number?][] => (i % 2 === 1 || i + 1 >= cuts.length ? [] : [[c, cuts[i + 1], ...(grey ? [Math.floor(between(r, 1, 256))] : [])] as [number, number, number?]]))
      }
      const rows: [number, number, number?][][] = []
      // rows repeat, and change in part, as layers do
      for (let y = 0; y < height; y++) rows.push(y > 0 && r() < 0.6 ? rows[y - 1].map(([a, b, v], i) => (r() < 0.2 && b < (rows[y - 1][i + 1]?.[0] ?? width) ? [a, b + 1, v] : [a, b, v])) : row())
      const runs = fromRows(width, rows)
      const png = writePng(runs)
      expect(Buffer.compare(decoded(png), filled(runs)), `picture ${n}: ${width} × ${height}`).toBe(0)
      expect(Buffer.compare(filled(readPng(png)), filled(runs)), `picture ${n} read: ${width} × ${height}`).toBe(0)
    }
  })
  it('of one pixel, of black, of white, and wider than a match reaches', () => {
    for (const runs of [fromRows(1, [[]]), fromRows(1, [[[0, 1]]]), fromRows(9622, Array.from({ length: 300 }, () => [])), fromRows(300, Array.from({ length: 9 }, () => [[0, 300]])), fromRows(70000, [[[3, 69999]], [[3, 69999]], [[4, 69999]]])]) {
      expect(Buffer.compare(decoded(writePng(runs)), filled(runs))).toBe(0)
    }
  })
  it('has a check sum over its rows that zlib accepts (Reference library: node:zlib)', () => {
    const png = writePng(fromRows(500, Array.from({ length: 50 }, (_, y) => [[y, 400, 7], [410, 410 + y, 200]]))), long = new DataView(png.buffer).getUint32(33)
    expect(inflateSync(png.subarray(41, 41 + long))).toHaveLength(501 * 50)
  })
})

describe('a picture that is read', () => {
  it('is what another writer filled, filtered or not, deflated in any way (Reference library: pngjs, zlib)', () => {
    const r = random(9)
    for (let n = 0; n < 60; n++) {
      const width = Math.floor(between(r, 2, 90)), height = Math.floor(between(r, 2, 60)), data = Buffer.alloc(width * height)
      for (let i = 0; i < data.length; i++) data[i] = r() < 0.9 && i > 0 ? data[i - 1] : n % 2 ? Math.floor(between(r, 0, 256)) : 255 * Math.round(r())
      const png = PNG.sync.write(Object.assign(new PNG({ width, height, colorType: 0, inputColorType: 0, inputHasAlpha: false, filterType: n % 6 - 1, deflateLevel: n % 10, deflateStrategy: n % 5 }), { data }) as PNG, { colorType: 0, inputColorType: 0, inputHasAlpha: false, bitDepth: 8, filterType: n % 6 === 5 ? -1 : n % 6, deflateLevel: n % 10, deflateStrategy: n % 5 })
      expect(Buffer.compare(filled(readPng(png)), data), `picture ${n}`).toBe(0)
    }
  })
  it('of colour or of sixteen bits is read by its first channel', () => {
    const png = new PNG({ width: 3, height: 2 })
    png.data.set([9, 1, 1, 255, 9, 2, 2, 255, 0, 3, 3, 255, 0, 0, 0, 255, 200, 0, 0, 255, 201, 0, 0, 255])
    expect([...filled(readPng(PNG.sync.write(png)))]).toEqual([9, 9, 0, 0, 200, 201])
  })
  it('is refused where anything of it was changed or is missing', () => {
    const png = writePng(fromRows(300, Array.from({ length: 40 }, (_, y) => [[y, 200 + y, 100 + y]]))), r = random(3)
    for (let n = 0; n < 100; n++) {
      const altered = png.slice()
      altered[Math.floor(between(r, 8, png.length - 12))] ^= 1 << Math.floor(between(r, 0, 8))
      expect(() => readPng(altered)).toThrow()
      expect(() => readPng(png.subarray(0, Math.floor(between(r, 0, png.length - 12))))).toThrow()
    }
    // a good check sum around rows that are missing, and around a stream that is none
    for (const data of [deflateSync(Buffer.alloc(301 * 39)), deflateSync(Buffer.alloc(301 * 41)), Buffer.from([0x78, 1, 7, 0, 0, 0, 0, 0])]) {
      const head = png.slice(0, 33), body = Buffer.concat([Buffer.from('IDAT'), data]), chunk = Buffer.alloc(8 + body.length)
      chunk.writeUInt32BE(data.length, 0)
      body.copy(chunk, 4)
      chunk.writeUInt32BE(crc32(body), 4 + body.length)
      expect(() => readPng(Buffer.concat([head, chunk, png.subarray(png.length - 12)]))).toThrow()
    }
  })
})

describe('Huffman codes', () => {
  it('fill all there is room for, are no longer than asked, and longer for what is rarer', () => {
    const r = random(5)
    for (let n = 0; n < 200; n++) {
      // counts that grow like Fibonacci's numbers ask for the longest codes
      const counts = Array.from({ length: Math.floor(between(r, 2, 60)) }, (_, i) => (n % 2 ? Math.round(1.618 ** i) : Math.floor(between(r, 0, 100)))), used = counts.filter(c => c > 0).length
      if (used < 2) continue
      for (const most of [7, 15]) {
        const lengths = codeLengths(counts, most)
        expect(lengths.reduce((sum, l) => sum + (l > 0 ? 2 ** -l : 0), 0)).toBe(1)
        expect(Math.max(...lengths)).toBeLessThanOrEqual(most)
        expect(counts.some((c, i) => counts.some((d, j) => c > d && d > 0 && lengths[i] > lengths[j]))).toBe(false)
      }
    }
  })
})

describe('CRC-32', () => {
  it('of "123456789" is CBF43926 (the check value of the published description, from memory)', () => {
    expect(crc32(new TextEncoder().encode('123456789'))).toBe(0xcbf43926)
  })
})
