import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import { DOMParser } from 'linkedom'
import { Box3 } from 'three'
import { ThreeMFLoader } from 'three/addons/loaders/3MFLoader.js'
import { afterAll, describe, expect, it, vi } from 'vitest'
import { listsOf, contentOf, type Job, type Part } from '../contract'
import { boundsOf, joinMeshes, MeshError, readModel, sourceOfBytes, volumeOf, wholeOf, writeStl, type Mesh } from '../mesh'
import { after, moveMesh, plateOf, shapedMesh, shapeOf, shiftOf, standOf, type RigidMotion } from '../pose'
import { rowsOfStilt, solidOfStilts } from '../stilts'
import { readByReference } from '../testing/lib3mf'
import { copyRow, jobRow, partRow, uprightShape } from '../testing/jobs'
import { box } from '../testing/shapes'
import { readJobFile, writeJobFile } from './index'

// A block that is scaled, mirrored, tilted, held by two stilts, twice on the plate; and a second part from another file.
const block = box([0, 0, 0], [10, 6, 4]), slab = box([-3, -3, 0], [3, 3, 1])
const files = [{ hash: 'a'.repeat(64), bytes: writeStl(block, 'block') }, { hash: 'b'.repeat(64), bytes: writeStl(slab, 'slab') }]
const shapes = [uprightShape(-1.7), uprightShape(2.3, { gauge: 'medium' })]
const rows = shapes.map((s, i) => rowsOfStilt(s, { part: 'one', number: i + 1 }))
const source = (fileHash: string): Job['parts'][number]['source'] => ({ ...partRow().source, fileHash })
const job: Job = jobRow('id', {
  name: 'Two <blocks> & more', revision: 7,
  parts: [
    partRow('one', { name: 'Block', source: source(files[0].hash), recipe: { mended: true, unitMm: 1, scale: [1.5, 1, 0.5], mirrored: true, hollow: null, holes: [], cuts: [], plug: null }, pose: { tiltXDeg: 20, tiltYDeg: -35, liftMm: 5 } }),
    partRow('two', { name: 'Slab', source: source(files[1].hash) }),
  ],
  copies: [copyRow('c1', 'one', { xPixels: -600 }), copyRow('c2', 'one', { xPixels: 500, yPixels: 100, turnDeg: 40 }), copyRow('c3', 'two', { yPixels: -500 })],
  nodes: rows.flatMap(r => r.nodes), beams: rows.flatMap(r => r.beams), marks: [{ id: 'mark1', part: 'one', worth: 'prized', runs: [2, 4] }], batches: ['a batch of it'],
})
const meshOf = (part: Part): Mesh => shapedMesh(part.id === 'one' ? block : slab, shapeOf(part.recipe))
const picture = Uint8Array.from([0x89, 0x50, 0x4e, 0x47, 1, 2, 3])

async function written(of: Job = job): Promise<Uint8Array> {
  const pieces: Uint8Array[] = []
  await writeJobFile({ job: of, meshOf, picture, files: files.map(f => ({ hash: f.hash, read: () => [f.bytes.subarray(0, 300), f.bytes.subarray(300)] })) }, bytes => pieces.push(bytes.slice()))
  return Uint8Array.from(pieces.flatMap(p => [...p]))
}
/** Where everything is as it stands on the plate, the plate's corner where numbers begin. */
function expected(): Mesh {
  const corner: RigidMotion = [1, 0, 0, job.printer.widthMm / 2, 0, 1, 0, job.printer.depthMm / 2, 0, 0, 1, 0]
  return joinMeshes(job.copies.flatMap(copy => {
    const part = job.parts.find(p => p.id === copy.part) as Job['parts'][number], mesh = meshOf(part)
    const toPlate = after(corner, plateOf(shiftOf(copy, 0.05)))
    return [moveMesh(mesh, after(toPlate, standOf(mesh.positions, part.pose, 0.05))), ...(copy.part === 'one' ? [moveMesh(solidOfStilts(shapes), toPlate)] : [])]
  }))
}

describe('a job as a file', () => {
  it('comes back as it was, with the files that its parts come from', async () => {
    const bytes = await written()
    await readJobFile(sourceOfBytes(bytes), async found => {
      if (!found) throw new Error('No job was found.')
      const { fields, tables } = contentOf(job)
      expect(found.job).toEqual({ format: 'oak-stilts-job', version: 1, ...fields, ...listsOf(tables), files: files.map(f => ({ hash: f.hash, path: `/Metadata/sources/${f.hash}.source` })) })
      for (const f of files) {
        const pieces: number[] = []
        await found.extract(f.hash, piece => pieces.push(...piece))
        expect(Uint8Array.from(pieces)).toEqual(f.bytes)
      }
      expect(await found.picture()).toEqual(picture)
    })
  })

  it('is no job where a package holds none, and no package where it is none', async () => {
    const { '_rels/.rels': relations, ...rest } = unzipSync(await written())
    const without = zipSync({ ...rest, '_rels/.rels': strToU8(strFromU8(relations).replace(/<Relationship [^>]*urn:oak-stilts:job"\/>/, '')) })
    for (const bytes of [without, files[0].bytes, new Uint8Array(2)]) expect(await readJobFile(sourceOfBytes(bytes), found => Promise.resolve(found))).toBeNull()
  })

  it('that is damaged is refused with what is wrong', async () => {
    const parts = unzipSync(await written()), damage = async (changed: Record<string, Uint8Array | null>): Promise<string> => {
      const bytes = zipSync(Object.fromEntries(Object.entries({ ...parts, ...changed }).filter((e): e is [string, Uint8Array] => e[1] !== null)))
      const error: unknown = await readJobFile(sourceOfBytes(bytes), () => Promise.resolve()).catch((e: unknown) => e)
      expect(error).toBeInstanceOf(MeshError)
      return (error as MeshError).message
    }
    const json = JSON.parse(strFromU8(parts['Metadata/job.json'])) as Record<string, unknown>
    const changed = (more: object): Record<string, Uint8Array> => ({ 'Metadata/job.json': strToU8(JSON.stringify({ ...json, ...more })) })
    expect(await damage({ 'Metadata/job.json': strToU8('{"format":') })).toMatch(/no JSON/)
    expect(await damage(changed({ layerMm: 'thick' }))).toMatch(/layerMm/)
    expect(await damage(changed({ version: 2 }))).toMatch(/newer version/)
    expect(await damage(changed({ nodes: [{ id: 'x' }] }))).toMatch(/nodes/)
    expect(await damage({ [`Metadata/sources/${files[1].hash}.source`]: null })).toMatch(/missing/)
  })

  // Published: Beam Lattice Extension 1.2, chapters 2 and 3: beams name vertices of their mesh, with a radius at each end
  it('holds its stilts as a beam lattice whose joints and radii are exact', async () => {
    const xml = strFromU8(unzipSync(await written())['3D/3dmodel.model'])
    const object = (/<object id="2"[^>]*>(.*?)<\/object>/s.exec(xml) ?? [])[1]
    const numbers = (tag: string): number[][] => [...object.matchAll(new RegExp(`<${tag} ([^>]*)/>`, 'g'))].map(m => [...m[1].matchAll(/="([^"]*)"/g)].map(a => Number(a[1])))
    const vertices = numbers('vertex'), beams = numbers('b:beam'), nodeOf = new Map(job.nodes.map(n => [n.id, n]))
    expect(beams).toHaveLength(job.beams.length)
    job.beams.forEach((b, i) => {
      const [v1, v2, r1, r2] = beams[i]
      expect([vertices[v1], vertices[v2], 2 * r1, 2 * r2]).toEqual([[...(nodeOf.get(b.from)?.at ?? [])], [...(nodeOf.get(b.to)?.at ?? [])], b.fromDiameterMm, b.toDiameterMm])
    })
    // who does not know lattices is not kept from the rest
    expect(xml).not.toMatch(/requiredextensions/)
  })

  it('is read by the reference implementation in its strict mode, every beam of the lattice with it (Reference library: lib3mf of the 3MF Consortium)', async () => {
    const { warnings, items, objects } = await readByReference(await written())
    expect([warnings, items, objects.reduce((sum, o) => sum + o.beams, 0)]).toEqual([0, job.copies.length, job.beams.length])
    expect(objects.filter(o => o.triangles > 0).every(o => o.closed)).toBe(true)
  })

  it('is shown by a reader that knows nothing of jobs, every copy where it stands', async () => {
    const model = await readModel(await written()), want = expected(), got = wholeOf(model)
    expect(volumeOf(got)).toBeCloseTo(volumeOf(want), 2)
    const [a, b] = [boundsOf(got.positions), boundsOf(want.positions)]
    for (let c = 0; c < 3; c++) expect([a.min[c], a.max[c]]).toEqual([expect.closeTo(b.min[c], 3), expect.closeTo(b.max[c], 3)])
    expect(model.notes).toContainEqual({ kind: 'beams', count: job.beams.length })
  })

  describe('by three’s loader', () => {
    vi.stubGlobal('DOMParser', DOMParser)
    afterAll(() => vi.unstubAllGlobals())
    it('has the same size', async () => {
      const bytes = await written(), group = new ThreeMFLoader().parse(bytes.buffer as ArrayBuffer), want = boundsOf(expected().positions)
      group.updateMatrixWorld(true)
      // the loader lays the build on its side for a page
      const found = new Box3().setFromObject(group, true)
      expect([found.max.x - found.min.x, found.max.y - found.min.y, found.max.z - found.min.z].sort((x, y) => x - y)).toEqual([0, 1, 2].map(c => want.max[c] - want.min[c]).sort((x, y) => x - y).map(v => expect.closeTo(v, 3) as number))
    })
  })
})
