import { strToU8, unzipSync, zipSync } from 'fflate'
import { DOMParser } from 'linkedom'
import { Mesh as ThreeMesh } from 'three'
import { ThreeMFLoader } from 'three/addons/loaders/3MFLoader.js'
import { afterAll, describe, expect, it, vi } from 'vitest'
import { meshXml, modelXml, packageOf } from '../../testing/model-files'
import { box, sphere } from '../../testing/shapes'
import { boundsOf, MeshError, readModel, volumeOf, wholeOf, write3mf, type Mesh } from '../index'

const ball = sphere([1, 2, 3], 4, 24), cube = box([0, 0, 0], [2, 3, 4])
const object = (id: number, mesh: Mesh, more = ''): string => `<object id="${id}" ${more}>${meshXml(mesh)}</object>`
const build = (...items: string[]): string => `<build>${items.map(i => `<item ${i}/>`).join('')}</build>`
const read = (inside: string, attributes?: string): ReturnType<typeof readModel> => readModel(packageOf(modelXml(inside, attributes)))
const refusal = async (bytes: Uint8Array): Promise<string> => {
  const error: unknown = await readModel(bytes).catch((e: unknown) => e)
  expect(error).toBeInstanceOf(MeshError)
  return `${(error as MeshError).code}: ${(error as MeshError).message}`
}
const size = (mesh: Mesh): number[] => {
  const { min, max } = boundsOf(mesh.positions)
  return max.map((v, c) => v - min[c])
}

describe('3MF, read', () => {
  it('reads back what it writes: two objects apart, each where it stands', async () => {
    const { objects, unit, notes } = await readModel(write3mf([{ name: 'Ball & co', mesh: ball }, { name: 'Cube', mesh: box([20, 0, 0], [22, 3, 4]) }], 'both'))
    expect([unit, notes]).toEqual(['millimeter', []])
    expect(objects.map(o => [o.name, o.places.length])).toEqual([['Ball & co', 1], ['Cube', 1]])
    expect(volumeOf(objects[0].mesh)).toBeCloseTo(volumeOf(ball), 3)
    expect(objects[1].places[0][0] - objects[0].places[0][0]).toBeCloseTo(0, 4)
  })

  it('joins what touches to one, and leaves apart what only shares a box', async () => {
    const touching = await readModel(write3mf([{ name: 'Model', mesh: ball }, { name: 'Stilts', mesh: box([0.5, 1.5, -5], [1.5, 2.5, 0]) }], 'held'))
    expect(touching.objects.map(o => o.name)).toEqual(['Model'])
    expect(touching.notes).toEqual([{ kind: 'joined', count: 2 }])
    expect(volumeOf(wholeOf(touching))).toBeCloseTo(volumeOf(ball) + 5, 3)
    // a small cube within the box of the ball, yet far from its skin
    const apart = await readModel(write3mf([{ name: 'Ball', mesh: ball }, { name: 'Cube', mesh: box([4.4, 5.4, 6.4], [5, 6, 7]) }], 'apart'))
    expect(apart.objects.map(o => o.name)).toEqual(['Ball', 'Cube'])
  })

  // Published: 3MF Core Specification 1.3, chapter 3.3 (transforms for row vectors), 4.2 (components), 3.4 (build)
  it('works in components and transforms, mirrored ones included', async () => {
    const turned = '0 1 0 -1 0 0 0 0 1 10 0 0', mirrored = '-1 0 0 0 1 0 0 0 1 0 0 0'
    const { objects } = await read(`<resources>${object(1, cube, 'name="Cube"')}<object id="2" name="Pair"><components><component objectid="1" transform="${turned}"/><component objectid="1" transform="${mirrored}"/></components></object></resources>${build('objectid="2" transform="2 0 0 0 2 0 0 0 2 0 0 5"')}`)
    expect(objects).toHaveLength(1)
    const { name, mesh, places } = objects[0]
    expect([name, places]).toEqual(['Pair', [[0, 0, 5]]])
    // twice as large, both facing outward; one reaches from 7 to 10, the other from −2 to 0
    expect(volumeOf(mesh)).toBeCloseTo(2 * 24 * 8, 3)
    expect(boundsOf(mesh.positions)).toEqual({ min: [-4, 0, 0], max: [20, 6, 8] })
  })

  it('takes the same object at several places as copies of one', async () => {
    const { objects } = await read(`<resources>${object(1, cube)}</resources>${build('objectid="1"', 'objectid="1" transform="1 0 0 0 1 0 0 0 1 10 0 0"', 'objectid="1" transform="0 1 0 -1 0 0 0 0 1 30 0 0"')}`)
    expect(objects.map(o => o.places)).toEqual([[[0, 0, 0], [10, 0, 0]], [[30, 0, 0]]])
    expect(objects.map(o => size(o.mesh))).toEqual([[2, 3, 4], [3, 2, 4]])
  })

  it.each([['micron', 0.001], ['millimeter', 1], ['centimeter', 10], ['inch', 25.4], ['foot', 304.8], ['meter', 1000]] as const)('counts in %s', async (unit, mm) => {
    const file = await read(`<resources>${object(1, cube)}</resources>${build('objectid="1" transform="1 0 0 0 1 0 0 0 1 0 0 1"')}`, `unit="${unit}"`)
    expect(file.unit).toBe(unit)
    size(file.objects[0].mesh).forEach((v, c) => expect(v / mm).toBeCloseTo([2, 3, 4][c], 4))
    expect(file.objects[0].places[0][2]).toBeCloseTo(mm, 6)
  })

  // Published: 3MF Production Extension 1.1, chapter 2: objects of other parts by p:path
  it('follows to other parts of the package, however their names are written', async () => {
    const production = 'http://schemas.microsoft.com/3dmanufacturing/production/2015/06'
    const bytes = packageOf(modelXml(`<resources><object id="1" name="Whole"><components><component p:path="/3D/Objects/Piece.model" objectid="7"/></components></object></resources>${build('objectid="1"')}`, `unit="millimeter" requiredextensions="p" xmlns:p="${production}"`), { '3D/Objects/piece.model': modelXml(`<resources>${object(7, cube)}</resources><build/>`) })
    const { objects } = await readModel(bytes)
    expect(objects.map(o => [o.name, volumeOf(o.mesh)])).toEqual([['Whole', 24]])
  })

  it('tells what it passed over: colours, textures, beams, and a build that names nothing', async () => {
    const material = 'http://schemas.microsoft.com/3dmanufacturing/material/2015/02', beams = 'http://schemas.microsoft.com/3dmanufacturing/beamlattice/2017/02'
    const { notes, objects } = await read(`<resources><m:colorgroup id="8"><m:color color="#ff0000"/></m:colorgroup><m:texture2d id="9" path="/x.png" contenttype="image/png"/><object id="1">${meshXml(cube).replace('</mesh>', '<b:beamlattice radius="1"><b:beams><b:beam v1="0" v2="1"/><b:beam v1="1" v2="2"/></b:beams></b:beamlattice></mesh>')}</object></resources><build/>`, `unit="millimeter" xmlns:m="${material}" xmlns:b="${beams}"`)
    expect(notes).toEqual([{ kind: 'colours' }, { kind: 'textures' }, { kind: 'beams', count: 2 }, { kind: 'no-build' }])
    expect(volumeOf(objects[0].mesh)).toBeCloseTo(24, 6)
  })

  it('reads UTF-16, and another prefix for its names', async () => {
    const xml = modelXml(`<resources>${object(1, cube)}</resources>${build('objectid="1"')}`).replace('UTF-8', 'UTF-16')
    const wide = Uint8Array.from([0xff, 0xfe, ...[...xml].flatMap(c => [c.charCodeAt(0) & 255, c.charCodeAt(0) >> 8])])
    expect(volumeOf(wholeOf(await readModel(packageOf(wide))))).toBeCloseTo(24, 6)
    const prefixed = modelXml(`<resources>${object(1, cube)}</resources>${build('objectid="1"')}`).replace(/<(\/?)(model|resources|object|mesh|vert|tri|build|item)/g, '<$1c:$2').replace('xmlns=', 'xmlns:c=')
    expect(volumeOf(wholeOf(await readModel(packageOf(prefixed))))).toBeCloseTo(24, 6)
  })

  const plain = modelXml(`<resources>${object(1, cube)}</resources>${build('objectid="1"')}`)
  it.each<[string, () => Uint8Array | string, RegExp]>([
    ['a zip without a model', () => zipSync({ 'notes.txt': strToU8('nothing') }), /^not-a-model: /],
    ['a package that was cut', () => packageOf(plain).slice(0, -100), /^cut-short: /],
    ['a package with another digit than was packed', () => {
      const bytes = zipSync(unzipSync(packageOf(plain)), { level: 0 }), at = new TextDecoder('latin1').decode(bytes).indexOf('x="2"')
      bytes[at + 3] ^= 1
      return bytes
    }, /^damaged: /],
    ['XML that ends early', () => plain.slice(0, -20), /^damaged: .*not well-formed/],
    ['XML with tags that cross', () => plain.replace('</vertices>', '</triangles>'), /^damaged: .*not well-formed/],
    ['another root', () => plain.replaceAll('model', 'recipe'), /^damaged: .*begins with “recipe”/],
    ['a document type', () => plain.replace('<model', '<!DOCTYPE x [<!ENTITY a "aaaa">]><model'), /^damaged: .*document type/],
    ['a unit that is none', () => plain.replace('millimeter', 'cubit'), /^damaged: .*cubit/],
    ['an extension that is not known', () => plain.replace('unit=', 'requiredextensions="v" xmlns:v="http://schemas.example.org/volumetric" unit='), /^unsupported: /],
    ['a corner that is not there', () => plain.replace('v3="7"', 'v3="8"'), /^damaged: .*vertex 8/],
    ['a corner in words', () => plain.replace('v3="7"', 'v3="x"'), /^damaged: /],
    ['a coordinate that is missing', () => plain.replace('x="2"', ''), /^not-finite: /],
    ['a transform of eleven', () => plain.replace('objectid="1"', 'objectid="1" transform="1 0 0 0 1 0 0 0 1 0 0"'), /^damaged: .*transform/],
    ['an item that names nothing', () => plain.replace('<item objectid="1"', '<item objectid="5"'), /^damaged: .*object 5/],
    ['components in a circle', () => modelXml(`<resources><object id="1"><components><component objectid="2"/></components></object><object id="2"><components><component objectid="1"/></components></object></resources>${build('objectid="1"')}`), /^damaged: .*circle/],
    ['components of components without end', () => modelXml(`<resources>${object(1, cube)}${Array.from({ length: 30 }, (_, i) => `<object id="${i + 2}"><components>${`<component objectid="${i + 1}"/>`.repeat(8)}</components></object>`).join('')}</resources>${build('objectid="31"')}`), /^damaged: .*pieces/],
    ['tags in tags without end', () => modelXml('<a>'.repeat(5000) + '</a>'.repeat(5000)), /^damaged: .*nested/],
    ['nothing to print', () => plain.replace('<object id="1" ', '<object id="1" type="other" '), /^empty: /],
    ['a lock', () => {
      // a set bit says that an entry is locked, here and in the directory
      const bytes = packageOf(plain)
      for (let i = 0; i + 4 < bytes.length; i++) if (bytes[i] === 0x50 && bytes[i + 1] === 0x4b) bytes[i + (bytes[i + 2] === 3 ? 6 : bytes[i + 2] === 1 ? 8 : 0)] |= bytes[i + 2] === 3 || bytes[i + 2] === 1 ? 1 : 0
      return bytes
    }, /^unsupported: .*password/],
    ['a model that would unpack to very much', () => packageOf(plain.replace('<resources>', `<!--${' '.repeat(40e6)}--><resources>`)), /^damaged: .*unpack/],
  ])('refuses %s', async (_, make, sentence) => {
    const made = make()
    expect(await refusal(typeof made === 'string' ? packageOf(made) : made)).toMatch(sentence)
  })
})

describe('3MF, written', () => {
  // the other reader takes the XML parser of a page
  vi.stubGlobal('DOMParser', DOMParser)
  afterAll(() => vi.unstubAllGlobals())

  it('is read by another reader (reference library: three 0.187 ThreeMFLoader) with the same triangles at the same places', async () => {
    const bytes = write3mf([{ name: 'Ball', mesh: ball }, { name: 'Cube', mesh: box([20, 0, 0], [22, 3, 4]) }], 'both')
    expect(Object.keys(unzipSync(bytes))).toContain('3D/3dmodel.model')
    const group = new ThreeMFLoader().parse(bytes.slice().buffer), { objects } = await readModel(bytes)
    const meshes: ThreeMesh[] = []
    group.updateMatrixWorld(true)
    group.traverse(o => {
      if (o instanceof ThreeMesh) meshes.push(o)
    })
    expect(meshes).toHaveLength(2)
    meshes.forEach((m, k) => {
      const geometry = m.geometry.clone().applyMatrix4(m.matrixWorld), { position } = geometry.attributes
      const theirs = Array.from({ length: geometry.index?.count ?? position.count }, (_, i) => geometry.index?.getX(i) ?? i).flatMap(v => [position.getX(v), position.getY(v), position.getZ(v)])
      const { mesh, places: [at] } = objects[k], ours = [...mesh.triangles].flatMap(v => [0, 1, 2].map(c => mesh.positions[3 * v + c] + at[c]))
      expect(ours.length).toBe(theirs.length)
      expect(ours.reduce((most, v, i) => Math.max(most, Math.abs(v - theirs[i])), 0)).toBeLessThan(1e-5)
    })
  })
})
