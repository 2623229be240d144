import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { meshXml, modelXml, objText, packageOf, plyBytes, stlText } from '../../testing/model-files'
import { sphere } from '../../testing/shapes'
import { MeshError, readModel, sourceOfFile, wholeOf, writeStl, type ModelFile } from '../index'

const ball = sphere([1, 2, 3], 4, 12)
const FILES: readonly (readonly [string, Uint8Array])[] = [
  ['STL in binary', writeStl(ball, 'x')],
  ['STL in text', new TextEncoder().encode(stlText(ball))],
  ['OBJ', new TextEncoder().encode(objText(ball))],
  ['PLY in text', plyBytes(ball, 'ascii')],
  ['PLY in binary', plyBytes(ball, 'binary_little_endian')],
  ['PLY in binary, big end first', plyBytes(ball, 'binary_big_endian')],
  ['3MF', packageOf(modelXml(`<resources><object id="1">${meshXml(ball)}</object></resources><build><item objectid="1"/></build>`))],
]

/** What may happen to a file on its way: it is cut, bytes are flipped, a piece comes twice or is lost. */
type Harm = { readonly kind: 'cut' | 'flip' | 'twice' | 'lost'; readonly at: number; readonly length: number; readonly bit: number }
const harm = fc.record({ kind: fc.constantFrom<Harm['kind']>('cut', 'flip', 'twice', 'lost'), at: fc.double({ min: 0, max: 1, noNaN: true }), length: fc.nat(200), bit: fc.nat(7) })
function harmed(bytes: Uint8Array, { kind, at, length, bit }: Harm): Uint8Array {
  const from = Math.floor(at * bytes.length), to = from + length
  if (kind === 'cut') return bytes.slice(0, from)
  if (kind === 'flip') return bytes.map((v, i) => (i === from ? v ^ (1 << bit) : v))
  return Uint8Array.from([...bytes.subarray(0, kind === 'twice' ? to : from), ...bytes.subarray(kind === 'twice' ? from : to)])
}

describe.each(FILES)('%s that was harmed', (_, whole) => {
  it('is read or refused with a sentence; nothing else', async () => {
    await fc.assert(fc.asyncProperty(fc.array(harm, { minLength: 1, maxLength: 3 }), async harms => {
      const bytes = harms.reduce(harmed, whole)
      const got = await readModel(bytes, { mostTriangles: 100000 }).catch((e: unknown) => e)
      if (got instanceof MeshError) {
        expect(got.message).toMatch(/\.$/)
        return
      }
      expect(got).not.toBeInstanceOf(Error)
      const { positions, triangles } = wholeOf(got as ModelFile)
      // no more than there was room for, and every corner is one
      expect(triangles.length / 3).toBeLessThan(bytes.length)
      expect(triangles.every(v => v < positions.length / 3)).toBe(true)
      expect(positions.every(v => Number.isFinite(v))).toBe(true)
    }), { numRuns: 250 })
  })

  it('is refused where it has more triangles than may be', async () => {
    await expect(readModel(whole, { mostTriangles: 100 })).rejects.toThrow(/more than there is memory for/)
  })

  it('is read the same from a file, however few bytes come at once, and tells how far it is', async () => {
    const shares: number[] = []
    const source = sourceOfFile(whole.length, (buffer, at) => {
      const some = whole.subarray(at, at + Math.min(buffer.length, 777))
      buffer.set(some)
      return some.length
    })
    const a = wholeOf(await readModel(source, { progress: share => shares.push(share) })), b = wholeOf(await readModel(whole))
    expect(a.positions).toEqual(b.positions)
    expect(a.triangles).toEqual(b.triangles)
    expect(shares.every(s => s > 0 && s <= 1)).toBe(true)
  })
})

describe('a long text', () => {
  it('is read over the ends of its blocks, with words across them', async () => {
    // over two megabytes, so that blocks end anywhere
    const big = sphere([0, 0, 0], 5, 200), text = new TextEncoder().encode(stlText(big)), shares: number[] = []
    expect(text.length).toBeGreaterThan(3 << 20)
    const mesh = wholeOf(await readModel(text, { progress: share => shares.push(share) }))
    const expected = [...big.triangles].flatMap(v => [...big.positions.subarray(3 * v, 3 * v + 3)])
    expect(mesh.positions.length).toBe(expected.length)
    let worst = 0
    for (let i = 0; i < expected.length; i++) worst = Math.max(worst, Math.abs(expected[i] - mesh.positions[i]))
    expect(worst).toBeLessThan(1e-6)
    expect(shares.length).toBeGreaterThan(2)
  })

  it('is refused where a word has no end', async () => {
    const endless = new Uint8Array(3 << 20).fill(97)
    endless.set(new TextEncoder().encode('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n# '))
    await expect(readModel(endless)).rejects.toThrow(/word without an end/)
  })
})
