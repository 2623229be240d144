import { BoxGeometry, Mesh as ThreeMesh, SphereGeometry, type BufferGeometry } from 'three'
import { OBJExporter } from 'three/addons/exporters/OBJExporter.js'
import { PLYExporter } from 'three/addons/exporters/PLYExporter.js'
import { OBJLoader } from 'three/addons/loaders/OBJLoader.js'
import { PLYLoader } from 'three/addons/loaders/PLYLoader.js'
import { afterAll, describe, expect, it, vi } from 'vitest'
import { objText, plyBytes } from '../../testing/model-files'
import { box, sphere } from '../../testing/shapes'
import { MeshError, readModel, volumeOf, wholeOf, type Mesh, type ModelFile } from '../index'

const ball = sphere([1, 2, 3], 4, 24)
const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text)
const readText = (text: string): Promise<ModelFile> => readModel(bytesOf(text))
/** The corners of all triangles in their order. */
const corners = ({ positions: p, triangles: t }: Mesh): number[] => [...t].flatMap(v => [...p.subarray(3 * v, 3 * v + 3)])
const cornersOf = (geometry: BufferGeometry): number[] => {
  const { index, attributes: { position } } = geometry
  return Array.from({ length: index?.count ?? position.count }, (_, i) => index?.getX(i) ?? i).flatMap(v => [position.getX(v), position.getY(v), position.getZ(v)])
}
const near = (a: readonly number[], b: readonly number[]): void => {
  expect(a.length).toBe(b.length)
  expect(a.reduce((most, v, i) => Math.max(most, Math.abs(v - b[i])), 0)).toBeLessThan(2e-6)
}
const refusal = async (bytes: Uint8Array): Promise<string> => {
  const error: unknown = await readModel(bytes).catch((e: unknown) => e)
  expect(error).toBeInstanceOf(MeshError)
  return (error as MeshError).code
}

describe('OBJ', () => {
  it('reads the same as another reader (reference library: three 0.187 OBJLoader)', async () => {
    const text = objText(ball), theirs = new OBJLoader().parse(text).children[0] as ThreeMesh
    const file = await readText(text)
    near(corners(wholeOf(file)), cornersOf(theirs.geometry))
    expect(file).toMatchObject({ format: 'obj', unit: null, notes: [], objects: [{ name: 'thing', places: [[0, 0, 0]] }] })
  })

  it('reads what another writer writes (reference library: three 0.187 OBJExporter)', async () => {
    const geometry = new SphereGeometry(5, 20, 10), text = new OBJExporter().parse(new ThreeMesh(geometry))
    const file = await readText(text)
    near(corners(wholeOf(file)), cornersOf(geometry))
    // it carries coordinates of a texture
    expect(file.notes).toEqual([{ kind: 'textures' }])
  })

  // Published: Wavefront Advanced Visualizer manual, appendix B1: negative numbers count back, a backslash goes on in the next line
  const cube = 'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 0 0 1\nv 1 0 1\nv 1 1 1\nv 0 1 1\n'
  it.each<[string, string]>([
    ['faces of four corners', `${cube}f 4 3 2 1\nf 5 6 7 8\nf 1 2 6 5\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n`],
    ['numbers that count back', `${cube}f -5 -6 -7 -8\nf -4 -3 -2 -1\nf -8 -7 -3 -4\nf -7 -6 -2 -3\nf -6 -5 -1 -2\nf -5 -8 -4 -1\n`],
    ['corners with texture and normal', `${cube}vt 0 0\nvn 0 0 1\nf 4/1/1 3/1/1 2//1 1/1\nf 5 6 7 8\nf 1 2 6 5\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n`],
    ['lines that go on', `${cube}f 4 3 \\\n2 1\nf 5 6 7 8\nf 1 2 \\\r\n 6 5\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8`],
    ['faces before their vertices', `f 4 3 2 1\nf 5 6 7 8\nf 1 2 6 5\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n${cube}`],
    ['a weight behind each vertex', `${cube.replace(/\n/g, ' 1.0\n')}f 4 3 2 1\nf 5 6 7 8\nf 1 2 6 5\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n`],
    ['comments, groups, blank lines', `# made of f 1 2 3\n\n${cube}g side\ns off\nf 4 3 2 1 # f 9 9 9\nf 5 6 7 8\n\n\ng other\nf 1 2 6 5\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n`],
  ])('reads %s', async (_, text) => {
    expect(volumeOf(wholeOf(await readText(text)))).toBeCloseTo(1, 6)
  })

  it('parts a face that is not convex as it runs, whichever way it looks', async () => {
    // an L of 3 square millimetres as a prism of 2 mm, and the same mirrored
    const outline = [[0, 0], [2, 0], [2, 1], [1, 1], [1, 2], [0, 2]]
    for (const mirror of [1, -1]) {
      const turn = (list: number[]): string => (mirror === 1 ? list : [...list].reverse()).map(i => i + 1).join(' ')
      const vertices = [0, 2].flatMap(z => outline.map(([x, y]) => `v ${mirror * x} ${y} ${z}`))
      const sides = outline.map((_, i) => `f ${turn([i, (i + 1) % 6, 6 + ((i + 1) % 6), 6 + i])}`)
      for (const first of [0, 1, 2, 3, 4, 5]) {
        const around = outline.map((_, i) => (i + first) % 6)
        const file = await readText([...vertices, ...sides, `f ${turn(around.map(i => 6 + i))}`, `f ${turn([...around].reverse())}`].join('\n'))
        expect(volumeOf(wholeOf(file))).toBeCloseTo(6, 5)
        expect(file.notes).toEqual([{ kind: 'polygons', count: 8 }])
      }
    }
  })

  it('tells what it passed over', async () => {
    const { notes } = await readText(`mtllib paint.mtl\n${cube.replace(/\n/g, ' 0.5 0.5 0.5\n')}usemtl red\nf 1 2 3\nf 1 2\nl 1 2\np 3\ncurv 0 1 1 2\n`)
    expect(notes.map(n => [n.kind, 'count' in n ? n.count : 0])).toEqual([['colours', 0], ['textures', 0], ['lines', 2], ['curves', 1], ['no-faces', 1]])
  })

  it.each<[string, string, string]>([
    ['vertices alone', cube, 'empty'],
    ['a corner that is not there', `${cube}f 1 2 9\n`, 'cut-short'],
    ['a corner before the first', `${cube}f 1 2 -9\n`, 'damaged'],
    ['a corner of no number', `${cube}f 1 2 0\n`, 'damaged'],
    ['a corner in words', `${cube}f 1 2 three\n`, 'damaged'],
    ['a fraction of a corner', `${cube}f 1 2 2.5\n`, 'damaged'],
    ['two coordinates', 'v 0 0\nv 1 0 0\nf 1 1 1\n', 'damaged'],
    ['a coordinate in words', 'v 0 0 up\nv 1 0 0\nv 1 1 0\nf 1 2 3\n', 'not-finite'],
    ['an end within a vertex', 'v 0 0 0\nv 1 0 0\nf 1 1 1\nv 1 1', 'cut-short'],
  ])('refuses %s', async (_, text, code) => {
    expect(await refusal(bytesOf(text))).toBe(code)
  })
})

describe('PLY', () => {
  // the other writer tells that it is done at the next frame of a page
  vi.stubGlobal('requestAnimationFrame', () => 0)
  afterAll(() => vi.unstubAllGlobals())

  it.each(['ascii', 'binary_little_endian', 'binary_big_endian'] as const)('reads %s as another reader does (reference library: three 0.187 PLYLoader), and passes over what does not count', async format => {
    const bytes = plyBytes(ball, format), file = await readModel(bytes)
    near(corners(wholeOf(file)), cornersOf(new PLYLoader().parse(bytes.slice().buffer)))
    expect([...wholeOf(file).triangles]).toEqual([...ball.triangles])
    expect(file).toMatchObject({ format: 'ply', unit: null, notes: [{ kind: 'colours' }] })
  })

  it.each([{ binary: false }, { binary: true, littleEndian: true }, { binary: true, littleEndian: false }])('reads what another writer writes (reference library: three 0.187 PLYExporter), %o', async options => {
    const geometry = new BoxGeometry(2, 3, 4), written = new PLYExporter().parse(new ThreeMesh(geometry), () => undefined, options as { binary: true }) as ArrayBuffer | string
    const file = await readModel(typeof written === 'string' ? bytesOf(written) : new Uint8Array(written))
    near(corners(wholeOf(file)), cornersOf(geometry))
    expect(volumeOf(wholeOf(file))).toBeCloseTo(24, 5)
  })

  const head = (rest: string): string => `ply\nformat ascii 1.0\nelement vertex 8\nproperty float x\nproperty float y\nproperty float z\n${rest}end_header\n0 0 0\n1 0 0\n1 1 0\n0 1 0\n0 0 1\n1 0 1\n1 1 1\n0 1 1\n`
  it('reads faces of four corners', async () => {
    const file = await readText(`${head('element face 6\nproperty list uchar int vertex_index\n')}4 3 2 1 0\n4 4 5 6 7\n4 0 1 5 4\n4 1 2 6 5\n4 2 3 7 6\n4 3 0 4 7\n`)
    expect(volumeOf(wholeOf(file))).toBeCloseTo(1, 6)
    expect(file.notes).toEqual([{ kind: 'polygons', count: 6 }])
  })

  // Published: G. Turk, "The PLY Polygon File Format": strips are one list, parted by −1
  it('reads strips of triangles', async () => {
    const file = await readText(`${head('element tristrips 1\nproperty list int int vertex_indices\n')}23 0 1 4 5 7 6 3 2 0 1 -1 0 4 3 7 -1 1 2 5 6 -1 0 0\n`)
    expect(volumeOf(wholeOf(file))).toBeCloseTo(1, 6)
  })

  it('reads a header with other line ends', async () => {
    const text = `${head('element face 1\nproperty list uchar int vertex_indices\n')}3 0 2 1\n`
    for (const end of ['\r\n', '\r']) expect(wholeOf(await readText(text.replaceAll('\n', end))).triangles.length).toBe(3)
  })

  it.each<[string, Uint8Array | string, string]>([
    ['vertices alone', head(''), 'empty'],
    ['a header without an end', 'ply\nformat ascii 1.0\nelement vertex 3\n', 'cut-short'],
    ['an unknown format', head('').replace('ascii', 'binary_mixed'), 'damaged'],
    ['an unknown type', head('element face 1\nproperty list uchar quad vertex_indices\n'), 'damaged'],
    ['vertices without a place', head('').replace('property float z\n', ''), 'damaged'],
    ['more faces than there is room for', head('element face 4000000000\nproperty list uchar int vertex_indices\n'), 'cut-short'],
    ['fewer faces than announced', `${head('element face 2\nproperty list uchar int vertex_indices\n')}3 0 2 1\n3 0`, 'cut-short'],
    ['a corner that is not there', `${head('element face 1\nproperty list uchar int vertex_indices\n')}3 0 2 8\n`, 'damaged'],
    ['a corner below nothing', `${head('element face 1\nproperty list uchar int vertex_indices\n')}3 0 2 -3\n`, 'damaged'],
    ['a corner in words', `${head('element face 1\nproperty list uchar int vertex_indices\n')}3 0 2 one\n`, 'damaged'],
    ['half of a binary file', plyBytes(ball, 'binary_big_endian').slice(0, 4000), 'cut-short'],
    ['a binary file without its last face', plyBytes(box([0, 0, 0], [1, 1, 1]), 'binary_little_endian').slice(0, -30), 'cut-short'],
  ])('refuses %s', async (_, file, code) => {
    expect(await refusal(typeof file === 'string' ? bytesOf(file) : file)).toBe(code)
  })
})
