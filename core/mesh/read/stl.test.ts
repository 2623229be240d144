import fc from 'fast-check'
import { STLLoader } from 'three/addons/loaders/STLLoader.js'
import { describe, expect, it } from 'vitest'
import { stlText } from '../../testing/model-files'
import { sphere } from '../../testing/shapes'
import { MeshError, readModel, wholeOf, writeStl, type ModelNote } from '../index'

const ball = sphere([1, 2, 3], 4, 24)
const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text)
const ascii = stlText(ball)
/** The corners of the ball, triangle by triangle. */
const soup = [...ball.triangles].flatMap(v => [...ball.positions.subarray(3 * v, 3 * v + 3)])
const read = async (bytes: Uint8Array): Promise<Float32Array> => wholeOf(await readModel(bytes)).positions

const withCount = (bytes: Uint8Array, count: number): Uint8Array => {
  new DataView(bytes.buffer).setUint32(80, count, true)
  return bytes
}

describe('STL', () => {
  it('reads back what it writes, bit for bit', async () => {
    expect([...(await read(writeStl(ball, 'solid ball')))]).toEqual(soup)
  })

  it('is read by another reader (reference library: three 0.187 STLLoader), and reads the same from text', async () => {
    const bytes = writeStl(ball, 'ball')
    const other = new STLLoader().parse(bytes.buffer as ArrayBuffer)
    expect([...other.attributes.position.array]).toEqual([...(await read(bytes))])
    const text = await read(bytesOf(ascii)), theirs = new STLLoader().parse(ascii).attributes.position.array
    expect(text.length).toBe(theirs.length)
    text.forEach((v, i) => expect(v).toBe(Math.fround(theirs[i])))
  })

  it('reads any float that text can hold', async () => {
    await fc.assert(fc.asyncProperty(fc.array(fc.float({ noNaN: true, noDefaultInfinity: true }), { minLength: 9, maxLength: 9 }), async values => {
      const text = `solid\nfacet normal 0 0 0\nouter loop\n${[0, 1, 2].map(v => `vertex ${values.slice(3 * v, 3 * v + 3).join(' ')}`).join('\n')}\nendloop\nendfacet\nendsolid`
      // one rounding of the decimal may differ from the engine's in the last place of a float
      ;(await read(bytesOf(text))).forEach((v, i) => expect(Math.abs(v - values[i])).toBeLessThanOrEqual(Math.abs(values[i]) * 1.3e-7))
    }), { numRuns: 60 })
  })

  it.each<[string, Uint8Array, string]>([
    ['nothing', new Uint8Array(0), 'empty'],
    ['no triangles', writeStl({ positions: new Float32Array(0), triangles: new Uint32Array(0) }, 'x'), 'empty'],
    ['a few bytes', new Uint8Array([1, 2, 3]), 'not-a-model'],
    ['a picture', Uint8Array.from([0x89, 0x50, 0x4e, 0x47, ...Array.from({ length: 3000 }, (_, i) => (i * 131 + (i >> 2) * 7) & 255)]), 'not-a-model'],
    ['noise', Uint8Array.from({ length: 3000 }, (_, i) => ((i * i * 131 + (i >> 2) * 7) >> 3) & 255), 'not-a-model'],
    ['half a file', writeStl(ball, 'x').slice(0, 5000), 'cut-short'],
    ['half a text', bytesOf(ascii.slice(0, 4000)), 'cut-short'],
    ['other text', bytesOf('solid thoughts are not facets, and this goes on for a while to be long enough '.repeat(5)), 'damaged'],
    ['text in UTF-16', Uint8Array.from([0xff, 0xfe, ...[...ascii].flatMap(c => [c.charCodeAt(0), 0])]), 'not-a-model'],
  ])('refuses %s', async (_, bytes, code) => {
    const error: unknown = await readModel(bytes).catch((e: unknown) => e)
    expect(error).toBeInstanceOf(MeshError)
    expect((error as MeshError).code).toBe(code)
    expect((error as MeshError).message).toMatch(/\.$/)
  })

  it.each<[string, () => Uint8Array]>([
    ['a byte-order mark before text', () => Uint8Array.from([0xef, 0xbb, 0xbf, ...bytesOf(ascii)])],
    ['words of its own before the first', () => bytesOf(`exported on a rainy day\n${ascii}`)],
    ['a header in binary that begins with "solid" and goes on with words', () => writeStl(ball, 'solid facet normal vertex endsolid, with a facet in it')],
    ['a solid named "facet ring"', () => bytesOf(ascii.replaceAll('solid thing', 'solid facet ring'))],
    ['a solid named "vertex group 3"', () => bytesOf(ascii.replaceAll('solid thing', 'solid vertex group 3'))],
    ['a solid named "endfacet normal"', () => bytesOf(ascii.replaceAll('solid thing', 'solid endfacet normal'))],
    ['a missing last line', () => bytesOf(ascii.replace(/endsolid thing$/, ''))],
    ['all of it on one line', () => bytesOf(ascii.replace(/\s+/g, ' '))],
    ['old line ends', () => bytesOf(ascii.replace(/\r\n/g, '\r'))],
    ['two solids in one file', () => bytesOf(`${stlText({ ...ball, triangles: ball.triangles.subarray(0, 300) })}\n${stlText({ ...ball, triangles: ball.triangles.subarray(300) })}`)],
    ['a count of nothing', () => withCount(writeStl(ball, 'x'), 0)],
    ['a count of all ones', () => withCount(writeStl(ball, 'x'), 0xffffffff)],
  ])('reads %s', async (_, bytes) => {
    const { objects, notes } = await readModel(bytes())
    expect(objects[0].mesh.positions.map((v, i) => Math.abs(v - soup[i])).reduce((a, b) => Math.max(a, b))).toBeLessThan(1e-6)
    expect(notes).toEqual([])
  })

  it.each<[string, number]>([['too large', 5000], ['too small', 100]])('reads all triangles where the count is %s, and says so', async (_, announced) => {
    const file = await readModel(withCount(writeStl(ball, 'x'), announced))
    expect([...wholeOf(file).positions]).toEqual(soup)
    expect(file.notes).toEqual<ModelNote[]>([{ kind: 'count', announced, found: ball.triangles.length / 3 }])
  })

  it('passes over what follows its triangles', async () => {
    const bytes = writeStl(ball, 'x')
    expect([...(await read(Uint8Array.from([...bytes, ...bytesOf('and that was all')])))]).toEqual(soup)
  })

  it('notes colours in what the format leaves free', async () => {
    const bytes = writeStl(ball, 'x'), view = new DataView(bytes.buffer)
    for (let at = 84 + 48; at < bytes.length; at += 50) view.setUint16(at, 0x8210, true)
    expect((await readModel(bytes)).notes).toEqual([{ kind: 'colours' }])
  })

  it('refuses facets that have no three corners', async () => {
    await expect(readModel(bytesOf(ascii.replace(/ {2}vertex [^\r]*\r\n/, '')))).rejects.toThrow(/one of its facets does not have three corners/)
  })

  it('counts coordinates that are no numbers', async () => {
    const bytes = writeStl(ball, 'x')
    new DataView(bytes.buffer).setFloat32(84 + 12, Infinity, true)
    await expect(readModel(bytes)).rejects.toThrow(/1 coordinate in this file is not a number/)
  })
})
