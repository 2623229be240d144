import fc from 'fast-check'
import { unzipSync } from 'fflate'
import { XMLParser } from 'fast-xml-parser'
import { STLLoader } from 'three/addons/loaders/STLLoader.js'
import { describe, expect, it } from 'vitest'
import { box, sphere } from '../testing/shapes'
import { boundsOf, decodeMesh, encodeMesh, joinMeshes, MeshError, readStl, volumeOf, weldVertices, write3mf, writeStl, type Mesh } from './index'

const ball = sphere([1, 2, 3], 4, 24)
const ascii = (mesh: Mesh): string => {
  const p = mesh.positions, lines = ['solid thing']
  for (let i = 0; i < mesh.triangles.length; i += 3) {
    lines.push('facet normal 0 0 0', ' outer loop')
    for (let c = 0; c < 3; c++) lines.push(`  vertex ${[0, 1, 2].map(a => p[3 * mesh.triangles[i + c] + a].toExponential(9)).join(' ')}`)
    lines.push(' endloop', 'endfacet')
  }
  return lines.concat('endsolid thing').join('\r\n')
}
const soup = (m: Mesh): Float32Array => Float32Array.from(m.triangles).reduce<number[]>((out, v) => out.concat([...m.positions.subarray(3 * v, 3 * v + 3)]), []) as unknown as Float32Array

const withCount = (bytes: Uint8Array, count: number): Uint8Array => {
  new DataView(bytes.buffer).setUint32(80, count, true)
  return bytes
}

describe('STL', () => {
  it('reads back what it writes, bit for bit', () => {
    expect([...readStl(writeStl(ball, 'solid ball')).positions]).toEqual([...soup(ball)])
  })

  it('is read by another reader (reference library: three 0.187 STLLoader), and reads the same from text', () => {
    const bytes = writeStl(ball, 'ball')
    const other = new STLLoader().parse(bytes.buffer as ArrayBuffer)
    expect([...other.attributes.position.array]).toEqual([...readStl(bytes).positions])
    const text = readStl(new TextEncoder().encode(ascii(ball))).positions
    const theirs = new STLLoader().parse(ascii(ball)).attributes.position.array
    expect(text.length).toBe(theirs.length)
    text.forEach((v, i) => expect(v).toBe(Math.fround(theirs[i])))
  })

  it('reads any float that text can hold', () => {
    fc.assert(fc.property(fc.array(fc.float({ noNaN: true, noDefaultInfinity: true }), { minLength: 9, maxLength: 9 }), values => {
      const text = `solid\nfacet normal 0 0 0\nouter loop\n${[0, 1, 2].map(v => `vertex ${values.slice(3 * v, 3 * v + 3).join(' ')}`).join('\n')}\nendloop\nendfacet\nendsolid`
      const read = readStl(new TextEncoder().encode(text)).positions
      // one rounding of the decimal may differ from the engine's in the last place of a float
      read.forEach((v, i) => expect(Math.abs(v - values[i])).toBeLessThanOrEqual(Math.abs(values[i]) * 1.3e-7))
    }), { numRuns: 60 })
  })

  it.each<[string, Uint8Array, string]>([
    ['nothing', new Uint8Array(0), 'empty'],
    ['no triangles', writeStl({ positions: new Float32Array(0), triangles: new Uint32Array(0) }, 'x'), 'empty'],
    ['a few bytes', new Uint8Array([1, 2, 3]), 'not-stl'],
    ['a picture', Uint8Array.from([0x89, 0x50, 0x4e, 0x47, ...Array.from({ length: 3000 }, (_, i) => (i * 131 + (i >> 2) * 7) & 255)]), 'not-stl'],
    ['half a file', writeStl(ball, 'x').slice(0, 5000), 'cut-short'],
    ['half a text', new TextEncoder().encode(ascii(ball).slice(0, 4000)), 'cut-short'],
    ['other text', new TextEncoder().encode('solid thoughts are not facets, and this goes on for a while to be long enough '.repeat(5)), 'not-stl'],
  ])('refuses %s', (_, bytes, code) => {
    let error: unknown
    try {
      readStl(bytes)
    } catch (e) {
      error = e
    }
    expect(error).toBeInstanceOf(MeshError)
    expect((error as MeshError).code).toBe(code)
    expect((error as MeshError).message).toMatch(/\.$/)
  })

  it.each<[string, () => Uint8Array]>([
    ['a byte-order mark before text', () => Uint8Array.from([0xef, 0xbb, 0xbf, ...new TextEncoder().encode(ascii(ball))])],
    ['a solid named "facet ring"', () => new TextEncoder().encode(ascii(ball).replaceAll('solid thing', 'solid facet ring'))],
    ['a solid named "vertex group 3"', () => new TextEncoder().encode(ascii(ball).replaceAll('solid thing', 'solid vertex group 3'))],
    ['a solid named "endfacet normal"', () => new TextEncoder().encode(ascii(ball).replaceAll('solid thing', 'solid endfacet normal'))],
    ['a missing last line', () => new TextEncoder().encode(ascii(ball).replace(/endsolid thing$/, ''))],
    ['all of it on one line', () => new TextEncoder().encode(ascii(ball).replace(/\s+/g, ' '))],
    ['two solids in one file', () => new TextEncoder().encode(`${ascii({ ...ball, triangles: ball.triangles.subarray(0, 300) })}\n${ascii({ ...ball, triangles: ball.triangles.subarray(300) })}`)],
    ['a count of nothing', () => withCount(writeStl(ball, 'x'), 0)],
    ['a count of all ones', () => withCount(writeStl(ball, 'x'), 0xffffffff)],
  ])('reads all triangles in spite of %s', (_, bytes) => {
    const read = readStl(bytes())
    expect(read.triangles.length).toBe(ball.triangles.length)
    expect(volumeOf(weldVertices(read))).toBeCloseTo(volumeOf(ball), 2)
  })

  it('refuses facets that have no three corners', () => {
    const text = ascii(ball).replace(/ {2}vertex [^\r]*\r\n/, '')
    expect(() => readStl(new TextEncoder().encode(text))).toThrow(/One facet of this file does not have three corners/)
  })

  it('counts coordinates that are no numbers', () => {
    const bytes = writeStl(ball, 'x')
    new DataView(bytes.buffer).setFloat32(84 + 12, Infinity, true)
    expect(() => readStl(bytes)).toThrow(/1 coordinate in this file is not a number/)
  })
})

describe('3MF', () => {
  // Published: 3MF Core Specification 1.3, chapters 3 (model), 4 (mesh), Open Packaging Conventions (content types, relationships)
  const parts = unzipSync(write3mf([{ name: 'Model & more', mesh: ball }, { name: 'Stilts', mesh: joinMeshes([box([-9, -9, 0], [-8, -8, 5])]) }], 'a "test"'))
  const xml = new XMLParser({ ignoreAttributes: false, attributeNamePrefix: '', isArray: name => ['object', 'vertex', 'triangle', 'item', 'Default', 'Relationship'].includes(name) })
  const read = (path: string): Record<string, never> => xml.parse(Buffer.from(parts[path]).toString()) as Record<string, never>

  it('has the parts and relationships of a package', () => {
    expect(Object.keys(parts).sort()).toEqual(['3D/3dmodel.model', '[Content_Types].xml', '_rels/.rels'])
    expect(JSON.stringify(read('_rels/.rels'))).toContain('/3D/3dmodel.model')
    expect(JSON.stringify(read('[Content_Types].xml'))).toContain('application/vnd.ms-package.3dmanufacturing-3dmodel+xml')
  })

  it('holds two objects in millimetres, each closed with every edge shared by exactly two triangles', () => {
    const model = read('3D/3dmodel.model').model as { unit: string; resources: { object: { id: string; name: string; type: string; mesh: { vertices: { vertex: { x: string; y: string; z: string }[] }; triangles: { triangle: { v1: string; v2: string; v3: string }[] } } }[] }; build: { item: { objectid: string; transform: string }[] } }
    expect(model.unit).toBe('millimeter')
    expect(model.resources.object.map(o => [o.id, o.type, o.name])).toEqual([['1', 'model', 'Model & more'], ['2', 'model', 'Stilts']])
    expect(model.build.item.map(i => i.objectid)).toEqual(['1', '2'])
    const volumes = model.resources.object.map(({ mesh }) => {
      const positions = Float32Array.from(mesh.vertices.vertex.flatMap(v => [Number(v.x), Number(v.y), Number(v.z)]))
      const triangles = Uint32Array.from(mesh.triangles.triangle.flatMap(t => [Number(t.v1), Number(t.v2), Number(t.v3)]))
      const directed = new Map<string, number>()
      for (let i = 0; i < triangles.length; i += 3) for (let c = 0; c < 3; c++) directed.set(`${triangles[i + c]} ${triangles[i + ((c + 1) % 3)]}`, (directed.get(`${triangles[i + c]} ${triangles[i + ((c + 1) % 3)]}`) ?? 0) + 1)
      for (const [edge, n] of directed) {
        expect(n).toBe(1)
        expect(directed.get(edge.split(' ').reverse().join(' '))).toBe(1)
      }
      // the build transform brings everything into the positive octant
      const shift = model.build.item[0].transform.split(' ').map(Number)
      const low = boundsOf(positions).min
      expect(low[0] + shift[9]).toBeGreaterThanOrEqual(-1e-6)
      expect(low[1] + shift[10]).toBeGreaterThanOrEqual(-1e-6)
      return volumeOf({ positions, triangles })
    })
    expect(volumes[0]).toBeCloseTo(volumeOf(ball), 3)
    expect(volumes[1]).toBeCloseTo(5, 5)
  })
})

describe('stored meshes', () => {
  it('come back as they were', () => {
    const mesh = weldVertices(ball)
    const back = decodeMesh(encodeMesh(mesh).buffer as ArrayBuffer)
    expect([...back.positions]).toEqual([...mesh.positions])
    expect([...back.triangles]).toEqual([...mesh.triangles])
    expect(() => decodeMesh(new ArrayBuffer(40))).toThrow(/damaged/)
  })
})
