import { XMLParser } from 'fast-xml-parser'
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import Module from 'manifold-3d'
import { describe, expect, it } from 'vitest'
import { DEFAULT_PRINTER, DEFAULT_RESIN, PLAIN_PRINT } from '../../contract'
import { readModel, volumeOf } from '../../mesh'
import { AS_IS, type Stand } from '../../pose'
import { readByReference } from '../../testing/lib3mf'
import { box, sphere } from '../../testing/shapes'
import { PlateSlicer } from '../slice/plate-slicer'
import type { PlateToSlice } from '../slice/plate-to-slice'
import { writeSlices3mf } from './slices-3mf'

const wasm = await Module()
wasm.setup()

const ball = sphere([0, 0, 4], 2, 64), posts = [[-1, -1], [1, 1]].map(([x, y]) => box([x - 0.2, y - 0.2, 0], [x + 0.2, y + 0.2, 3]))
const plate: PlateToSlice & { printer: typeof DEFAULT_PRINTER } = { parts: [{ id: 'Ball', mesh: ball, stand: AS_IS as unknown as Stand, stilts: posts, raft: box([-1.6, -1.6, 0], [1.6, 1.6, 0.4]) }], copies: [{ part: 'Ball', xPixels: -200, yPixels: 0, turnDeg: 0 }, { part: 'Ball', xPixels: 200, yPixels: 100, turnDeg: 0 }, { part: 'Ball', xPixels: 0, yPixels: 0, turnDeg: 45 }], printer: DEFAULT_PRINTER, layerMm: 0.1, printing: PLAIN_PRINT, resin: DEFAULT_RESIN }
async function written(of: typeof plate): Promise<Uint8Array> {
  const pieces: Uint8Array[] = []
  for await (const share of writeSlices3mf(of, 'Balls', b => pieces.push(b.slice()))) expect(share).toBeLessThanOrEqual(1)
  return Uint8Array.from(Buffer.concat(pieces))
}
interface Slice { '@ztop': string; vertices?: { vertex: { '@x': string; '@y': string }[] }; polygon?: { '@startv': string; segment: { '@v2': string }[] }[] }
interface Model { model: { resources: { slicestack: { '@id': string; '@zbottom': string; slice: Slice[] }[]; object: { '@id': string; '@slicestackid': string; '@meshresolution': string }[] }; build: { item: { '@objectid': string; '@transform': string }[] } } }
const parsed = (bytes: Uint8Array): Model => new XMLParser({ ignoreAttributes: false, attributeNamePrefix: '@', removeNSPrefix: true, isArray: name => ['slicestack', 'slice', 'vertex', 'polygon', 'segment', 'object', 'item'].includes(name) }).parse(strFromU8(unzipSync(bytes)['3D/3dmodel.model'])) as Model
const loopsOf = ({ vertices, polygon }: Slice): [number, number][][] => (polygon ?? []).map(p => [p['@startv'], ...p.segment.map(s => s['@v2'])].slice(0, -1).map(v => [Number(vertices?.vertex[Number(v)]['@x']), Number(vertices?.vertex[Number(v)]['@y'])]))
/** The area that a loop encloses (shoelace formula). */
const areaOf = (loop: readonly (readonly [number, number])[]): number => loop.reduce((sum, [x, y], i) => sum + (x * loop[(i + 1) % loop.length][1] - loop[(i + 1) % loop.length][0] * y) / 2, 0)

describe('3MF with slices', () => {
  it('has for every part a stack of slices that rise, whose contours are closed and turn as the extension asks (Published: 3MF Slice Extension 1.0, from memory)', async () => {
    const { model: { resources, build } } = parsed(await written(plate))
    expect(resources.object.map(o => [o['@id'], o['@slicestackid'], o['@meshresolution']])).toEqual([['2', '1', 'fullres'], ['4', '3', 'fullres']])
    expect(build.item.map(i => [i['@objectid'], i['@transform'].split(' ').slice(9)])).toEqual([['2', ['66.675', '38.875', '0']], ['2', ['86.675', '43.875', '0']], ['4', ['76.675', '38.875', '0']]])
    for (const stack of resources.slicestack) {
      expect(stack['@zbottom']).toBe('0')
      expect(stack.slice.map(s => Number(s['@ztop']))).toEqual(stack.slice.map((_, k) => expect.closeTo((k + 1) * 0.1, 6)))
      for (const s of stack.slice) {
        for (const p of s.polygon ?? []) expect(p.segment.at(-1)?.['@v2']).toBe(p['@startv'])
        expect(loopsOf(s).reduce((sum, l) => sum + areaOf(l), 0)).toBeGreaterThan(0)
      }
    }
  })
  it('covers what the bodies cover together at the middle of each layer (Reference library: manifold-3d), and what the pictures do', async () => {
    const { model: { resources } } = parsed(await written(plate)), slicer = new PlateSlicer({ ...plate, copies: [plate.copies[0]] }), pictures = Array.from({ length: slicer.bands }, (_, b) => [...slicer.band(b)]).flat()
    const bodies = [ball, ...posts, plate.parts[0].raft ?? ball].map(m => new wasm.Manifold(new wasm.Mesh({ numProp: 3, vertProperties: m.positions, triVerts: m.triangles }))), whole = wasm.Manifold.union(bodies)
    expect(resources.slicestack[0].slice).toHaveLength(pictures.length)
    for (const [k, s] of resources.slicestack[0].slice.entries()) {
      const area = loopsOf(s).reduce((sum, l) => sum + areaOf(l), 0), exact = whole.slice((k + 0.5) * 0.1).area()
      expect(Math.abs(area - exact)).toBeLessThan(0.004 * exact + 0.002)
      // pixels of 0.05 mm round the outline
      expect(Math.abs(area - pictures[k].pixels * 0.0025)).toBeLessThan(0.02 * exact + 0.06)
    }
  })
  it('is read by a reader that knows no slices: the meshes of its objects, where they are built', async () => {
    const { objects } = await readModel(await written(plate))
    expect(objects.map(o => o.places.length)).toEqual([2, 1])
    for (const { mesh } of objects) expect(volumeOf(mesh) / (4 / 3 * Math.PI * 8 + 2 * 0.16 * 3 + 3.2 * 3.2 * 0.4)).toBeCloseTo(1, 1)
  })
  it('is read by the reference implementation in its strict mode, which writes the same contours again (Reference library: lib3mf of the 3MF Consortium)', async () => {
    const ours = await written(plate), read = await readByReference(ours), { model: { resources } } = parsed(ours), { model: { resources: theirs } } = parsed(read.again)
    expect([read.warnings, read.items, read.objects.map(o => o.triangles > 0), read.stacks.map(s => s.bottomMm)]).toEqual([0, 3, [true, true], [0, 0]])
    for (const [i, stack] of resources.slicestack.entries()) {
      expect(read.stacks[i].slices).toEqual(stack.slice.map(s => ({ topMm: expect.closeTo(Number(s['@ztop']), 6), vertices: s.vertices?.vertex.length ?? 0, polygons: s.polygon?.length ?? 0 })))
      const area = (of: Slice[]): number[] => of.map(s => loopsOf(s).reduce((sum, l) => sum + areaOf(l), 0))
      expect(area(theirs.slicestack[i].slice)).toEqual(area(stack.slice).map(mm2 => expect.closeTo(mm2, 4)))
    }
    // and it does not take everything
    const broken = zipSync({ ...unzipSync(ours), '3D/3dmodel.model': strToU8(strFromU8(unzipSync(ours)['3D/3dmodel.model']).replace(/startv="\d+"/, 'startv="99999999"')) })
    await expect(readByReference(broken)).rejects.toThrow()
  })
  it('refuses a mesh that is not closed', async () => {
    await expect(written({ ...plate, parts: [{ ...plate.parts[0], mesh: { positions: ball.positions, triangles: ball.triangles.slice(3) } }] })).rejects.toMatchObject({ code: 'not-sound' })
  })
})
