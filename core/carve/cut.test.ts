import Module from 'manifold-3d'
import { STLLoader } from 'three/addons/loaders/STLLoader.js'
import { beforeAll, describe, expect, it } from 'vitest'
import { areaOf, isClosed, joinMeshes, NO_SOURCE, prepareMesh, readModel, volumeOf, wholeOf, writeStl, type Mesh, type Vec3 } from '../mesh'
import { hollowed } from '../hollow'
import { bunnyMesh } from '../testing/bunny'
import { random as randomOf } from '../testing/random'
import { box, knot, lathe, moved, sphere } from '../testing/shapes'
import { motionOfPose } from '../pose'
import { cutBy, leaned, leansOf, piecesAt, planeThrough, sectionOf, type Plane } from './index'

// Volumes by closed forms and by manifold-3d trimming the same bodies; every part is read again as a file.
let wasm: Awaited<ReturnType<typeof Module>>
beforeAll(async () => {
  wasm = await Module()
  wasm.setup()
})
const level = (offsetMm: number): Plane => ({ normal: [0, 0, 1], offsetMm })
async function soundly(mesh: Mesh): Promise<ReturnType<typeof prepareMesh>['report']> {
  const file = writeStl(mesh, 'part'), { report } = prepareMesh(wholeOf(await readModel(file)))
  // by two other readers: the loader of three, whose corners manifold-3d merges to a body of the same volume
  const theirs = new STLLoader().parse(file.slice().buffer as ArrayBuffer).attributes.position.array as Float32Array, soup = new wasm.Mesh({ numProp: 3, vertProperties: Float32Array.from(theirs), triVerts: Uint32Array.from({ length: theirs.length / 3 }, (_, i) => i) })
  expect(soup.merge()).toBe(true)
  const body = new wasm.Manifold(soup)
  expect([theirs.length / 9, body.volume() / volumeOf(mesh)]).toEqual([mesh.triangles.length / 3, expect.closeTo(1, 4)])
  body.delete()
  expect([report.unclosedEdges, report.turnedShells, report.tooDamaged]).toEqual([0, 0, false])
  return report
}
/** A fork: two prongs of 4 by 4 mm on one handle. */
function fork(): Mesh {
  const body = [box([0, 0, 0], [20, 4, 6]), box([0, 0, 5], [4, 4, 30]), box([16, 0, 5], [20, 4, 30])].map(m => new wasm.Manifold(new wasm.Mesh({ numProp: 3, vertProperties: m.positions, triVerts: m.triangles }))).reduce((a, b) => a.add(b)).getMesh()
  return { positions: body.vertProperties, triangles: body.triVerts }
}

describe('the section of a part', () => {
  it('is its pieces, largest first, each with its outline and holes', async () => {
    const pipe = prepareMesh(lathe([[4, 0], [6, 0], [6, 10], [4, 10], [4, 0]], 96)).mesh, both = joinMeshes([pipe, moved(sphere([0, 0, 5], 3, 64), [20, 0, 0])]), [ring, disc, ...more] = await sectionOf(both, level(5))
    expect(more).toEqual([])
    // closed forms: π (36 − 16), π 9, less what polygons of 96 and 64 sides cut off
    expect([ring.areaMm2 / (20 * Math.PI), disc.areaMm2 / (9 * Math.PI)]).toEqual([expect.closeTo(1, 2), expect.closeTo(1, 2)])
    expect([ring.loops.length, disc.loops.length]).toEqual([2, 1])
    expect(ring.loops.flat().every(p => Math.abs(p[2] - 5) < 1e-6)).toBe(true)
  })
  it('is nothing where the plane does not meet the part', async () => {
    expect(await sectionOf(box([0, 0, 0], [1, 1, 1]), level(7))).toEqual([])
  })
})

describe('a cut by a plane', () => {
  it('gives two closed parts with flat caps, whose volumes add up, and keeps where skin comes from', async () => {
    const { above, below, areaMm2 } = await cutBy(box([0, 0, 0], [10, 8, 6]), level(2))
    expect([areaMm2, volumeOf(above), volumeOf(below)]).toEqual([expect.closeTo(80, 3), expect.closeTo(320, 3), expect.closeTo(160, 3)])
    // two caps came to the skin
    expect(areaOf(above) + areaOf(below)).toBeCloseTo(2 * (80 + 60 + 48) + 160, 2)
    for (const part of [above, below]) {
      expect(isClosed(part)).toBe(true)
      const caps = Array.from(part.from ?? []).flatMap((f, i) => (f === NO_SOURCE ? [i] : []))
      expect(caps.length).toBeGreaterThan(1)
      for (const i of caps) for (let c = 0; c < 3; c++) expect(part.positions[3 * part.triangles[3 * i + c] + 2]).toBeCloseTo(2, 5)
    }
  })

  it('of random planes through the bunny and through a hollow ball is what the library trims, walls included', async () => {
    const random = randomOf(8), bodies = [prepareMesh(bunnyMesh()).mesh, (await hollowed(sphere([0, 0, 0], 9, 48), { wallMm: 1.5, cellMm: 0.5 })).mesh]
    for (let n = 0; n < 12; n++) {
      const mesh = bodies[n % 2], z = 2 * random() - 1, a = 2 * Math.PI * random(), s = Math.sqrt(1 - z * z), normal: Vec3 = [s * Math.cos(a), s * Math.sin(a), z]
      const middle: Vec3 = n % 2 === 0 ? [0, 0, 18] : [0, 0, 0], offsetMm = normal[0] * middle[0] + normal[1] * middle[1] + normal[2] * middle[2] + 6 * (random() - 0.5)
      const { above, below } = await cutBy(mesh, { normal, offsetMm }), body = new wasm.Manifold(new wasm.Mesh({ numProp: 3, vertProperties: mesh.positions, triVerts: mesh.triangles })), trimmed = body.trimByPlane(normal, offsetMm)
      expect(volumeOf(above)).toBeCloseTo(trimmed.volume(), 0)
      expect(volumeOf(above) + volumeOf(below)).toBeCloseTo(volumeOf(mesh), 0)
      await soundly(above)
      await soundly(below)
      for (const m of [body, trimmed]) m.delete()
    }
  })

  it('goes only through the pieces that are chosen, and costs a slit', async () => {
    const part = fork(), pieces = await sectionOf(part, level(20))
    expect(pieces.map(p => p.areaMm2)).toEqual([expect.closeTo(16, 4), expect.closeTo(16, 4)])
    const { above, below, areaMm2 } = await cutBy(part, level(20), { whole: [pieces[1].inside] })
    expect(areaMm2).toBeCloseTo(16, 4)
    // a prong of 10 mm less half the slit; the rest less the other half
    expect(volumeOf(above)).toBeCloseTo(16 * 10 - 0.16, 2)
    expect(volumeOf(above) + volumeOf(below)).toBeCloseTo(volumeOf(part) - 16 * 0.02, 2)
    expect((await soundly(above)).shells + (await soundly(below)).shells).toBe(2)
  })

  it('is refused where the part would stay one, where it misses, and where nothing is chosen', async () => {
    const strand = prepareMesh(knot(300, 24, 12, 7, 2.2, [0, 0, 20])).mesh, pieces = await sectionOf(strand, { normal: [1, 0, 0], offsetMm: 0 })
    expect(pieces.length).toBeGreaterThan(2)
    await expect(cutBy(strand, { normal: [1, 0, 0], offsetMm: 0 }, { whole: pieces.slice(1).map(p => p.inside) })).rejects.toMatchObject({ code: 'holds-together' })
    await expect(cutBy(strand, level(500))).rejects.toMatchObject({ code: 'misses' })
    await expect(cutBy(strand, { normal: [1, 0, 0], offsetMm: 0 }, { whole: pieces.map(p => p.inside) })).rejects.toMatchObject({ code: 'misses' })
  })
})

describe('a piece of a section', () => {
  it('is known again by a point inside it, after the plane was moved and where the point lies beside all', async () => {
    const part = fork(), pieces = await sectionOf(part, level(20)), later = await sectionOf(part, level(12))
    for (const [i, p] of pieces.entries()) expect([piecesAt(pieces, level(20), [p.inside]), later[piecesAt(later, level(12), [p.inside])[0]].inside[0] > 10]).toEqual([[i], p.inside[0] > 10])
    expect(pieces[piecesAt(pieces, level(20), [[40, 2, 20]])[0]].inside[0]).toBeGreaterThan(10)
    // the middle of a ring is not in it
    const pipe = prepareMesh(lathe([[4, 0], [6, 0], [6, 10], [4, 10], [4, 0]], 96)).mesh, [ring] = await sectionOf(pipe, level(5)), far = Math.hypot(ring.inside[0], ring.inside[1])
    expect(far > 4 && far < 6).toBe(true)
  })
})

describe('how a plane leans', () => {
  it('is told by two angles, as a tilt is', () => {
    for (const [x, y] of [[0, 0], [30, -20], [-75, 110], [12, -160]] as const) {
      const n = leaned(x, y), turned = motionOfPose(Float32Array.from([0, 0, 0, 1, 1, 1]), { tiltXDeg: x, tiltYDeg: y, turnDeg: 0, liftMm: 0 }, 0.05)
      expect(n).toEqual([turned[2], turned[6], turned[10]].map(v => expect.closeTo(v, 9)))
      expect(leansOf(n)).toEqual([expect.closeTo(x, 6), expect.closeTo(y, 6)])
    }
  })
})

describe('a plane through three points', () => {
  it('is where they lie, looking at who sees them counter-clockwise', () => {
    expect(planeThrough([0, 0, 3], [1, 0, 3], [0, 1, 3])).toEqual({ normal: [0, 0, 1], offsetMm: 3 })
    expect(planeThrough([0, 0, 0], [1, 1, 1], [2, 2, 2])).toBeNull()
  })
})
