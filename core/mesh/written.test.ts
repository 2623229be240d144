import { unzipSync } from 'fflate'
import { XMLParser } from 'fast-xml-parser'
import { describe, expect, it } from 'vitest'
import { box, sphere } from '../testing/shapes'
import { boundsOf, decodeMesh, encodeMesh, joinMeshes, volumeOf, weldVertices, write3mf } from './index'

const ball = sphere([1, 2, 3], 4, 24)

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
