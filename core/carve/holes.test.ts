import Module from 'manifold-3d'
import { beforeAll, describe, expect, it } from 'vitest'
import { hollowed } from '../hollow'
import { isClosed, joinMeshes, NearestTree, NO_SOURCE, prepareMesh, readModel, volumeOf, wholeOf, writeStl, type Mesh, type Vec3 } from '../mesh'
import { standOf } from '../pose'
import { ModelScan } from '../scan'
import { bunnyMesh } from '../testing/bunny'
import { box, reversed, sphere } from '../testing/shapes'
import { CarveError, drilled, plugOf, type Hole } from './index'

// Beside booleans of manifold-3d on bodies of its own making, closed forms, and the scan.
let wasm: Awaited<ReturnType<typeof Module>>
beforeAll(async () => {
  wasm = await Module()
  wasm.setup()
})
const hole = (at: Vec3, into: Vec3, diameterMm: number, more: Partial<Hole> = {}): Hole => ({ at, into, diameterMm, endDiameterMm: diameterMm, depthMm: null, ...more })
/** Corners less edges and faces: 2 for a ball, 2 less for each handle, 2 more for each closed space. */
function euler(mesh: Mesh): number {
  const { positions, triangles } = prepareMesh(mesh).mesh
  return positions.length / 3 - triangles.length / 2 + triangles.length / 3
}
const scanned = (mesh: Mesh) => new ModelScan(mesh, { pixelMm: 0.05, layerMm: 0.05 }, standOf(mesh.positions, { tiltXDeg: 0, tiltYDeg: 0, liftMm: 5 }, 0.05)).runToEnd()

describe('a round hole', () => {
  it('takes away what its diameter and depth come to, and makes a handle where it goes through', async () => {
    const cube = box([0, 0, 0], [10, 10, 10]), blind = await drilled(cube, [hole([5, 5, 10], [0, 0, -1], 3, { depthMm: 4 })]), through = await drilled(cube, [hole([5, 5, 10], [0, 0, -1], 3)])
    // a polygon of 64 sides around a circle is larger than it by 0.08 %
    expect((1000 - volumeOf(blind)) / (Math.PI * 2.25 * 4)).toBeCloseTo(1, 2)
    expect((1000 - volumeOf(through)) / (Math.PI * 2.25 * 10)).toBeCloseTo(1, 2)
    expect([euler(blind), euler(through), isClosed(blind), isClosed(through)]).toEqual([2, 0, true, true])
  })

  it('tapers between two diameters', async () => {
    const cut = 1000 - volumeOf(await drilled(box([0, 0, 0], [10, 10, 10]), [hole([5, 5, 10], [0, 0, -1], 4, { endDiameterMm: 2, depthMm: 6 })]))
    // closed form of a cone cut off: π h / 12 · (D² + D d + d²)
    expect(cut / ((Math.PI * 6 * (16 + 8 + 4)) / 12)).toBeCloseTo(1, 2)
  })

  it('aslant takes what the library takes of a cylinder of its own', async () => {
    const cube = box([-10, -10, -10], [10, 10, 10]), a = Math.PI / 5, into: Vec3 = [Math.sin(a), 0, -Math.cos(a)], ours = await drilled(cube, [hole([-2, 1, 10], into, 2)])
    const rod = wasm.Manifold.cylinder(80, 1 / Math.cos(Math.PI / 64), 1 / Math.cos(Math.PI / 64), 64, true).rotate([0, (180 * -a) / Math.PI, 0]).translate([-2, 1, 10]), theirs = wasm.Manifold.cube([20, 20, 20], true).subtract(rod)
    expect(volumeOf(ours)).toBeCloseTo(theirs.volume(), 2)
  })

  it('keeps which triangle of the file skin comes from; its own sides come from none', async () => {
    const bunny = prepareMesh(bunnyMesh()).mesh, { positions, triangles, from } = await drilled(bunny, [hole([0, 0, 20], [1, 0, 0], 3)])
    const made = Array.from(from ?? []).filter(f => f === NO_SOURCE).length
    expect(made).toBeGreaterThan(60)
    for (let i = 0; i < triangles.length / 3; i++) {
      const own = from?.[i] ?? NO_SOURCE
      if (own === NO_SOURCE) continue
      // a piece of a face lies in the plane of that face
      const corner = (m: Mesh, t: number, c: number): Vec3 => [0, 1, 2].map(k => m.positions[3 * m.triangles[3 * t + c] + k]) as unknown as Vec3
      const [p, q, r] = [0, 1, 2].map(c => corner(bunny, own, c)), n = [0, 1, 2].map(k => (q[(k + 1) % 3] - p[(k + 1) % 3]) * (r[(k + 2) % 3] - p[(k + 2) % 3]) - (q[(k + 2) % 3] - p[(k + 2) % 3]) * (r[(k + 1) % 3] - p[(k + 1) % 3]))
      for (let c = 0; c < 3; c++) {
        const v = corner({ positions, triangles }, i, c)
        expect(Math.abs(n.reduce((sum, x, k) => sum + x * (v[k] - p[k]), 0)) / Math.hypot(...n)).toBeLessThan(1e-4)
      }
    }
  })

  it('is refused where it meets nothing, and where the mesh bounds no body', async () => {
    const cube = box([0, 0, 0], [10, 10, 10])
    await expect(drilled(cube, [hole([20, 5, 10], [0, 0, -1], 3)])).rejects.toMatchObject({ code: 'misses' })
    await expect(drilled({ ...cube, triangles: cube.triangles.slice(3) }, [hole([5, 5, 10], [0, 0, -1], 3)])).rejects.toBeInstanceOf(CarveError)
  })
})

describe('a hollow ball', () => {
  let shell: Mesh
  beforeAll(async () => {
    shell = (await hollowed(sphere([0, 0, 0], 8, 64), { wallMm: 1.5, cellMm: 0.4 })).mesh
  })
  const low = hole([0, 0, -8], [0, 0, 1], 2, { depthMm: 3 }), high = hole([0, 0, 8], [0, 0, -1], 2, { depthMm: 3 })

  it('is a closed space without holes, pulls with one at its top, and is nothing with one at its bottom, by the scan', async () => {
    const kinds = (mesh: Mesh) => scanned(mesh).cups.map(c => c.ends)
    expect(kinds(shell)).toEqual(['closed'])
    expect(kinds(await drilled(shell, [high]))).toEqual(['vent'])
    expect(kinds(await drilled(shell, [low]))).toEqual([])
    expect(kinds(await drilled(shell, [low, high]))).toEqual([])
  })

  it('read again has one skin, a handle for the second hole, and the volume it should have', async () => {
    const open = await drilled(shell, [low, high]), again = prepareMesh(wholeOf(await readModel(writeStl(open, 'ball'))))
    expect([again.report.unclosedEdges, again.report.shells, euler(open)]).toEqual([0, 1, 0])
    const ball = new wasm.Manifold(new wasm.Mesh({ numProp: 3, vertProperties: open.positions, triVerts: open.triangles }))
    expect([ball.status(), ball.genus()]).toEqual(['NoError', 1])
    expect(ball.volume()).toBeCloseTo(again.report.volumeMm3, 1)
    expect(volumeOf(joinMeshes([shell])) - ball.volume()).toBeCloseTo(2 * Math.PI * 1.5, 0)
  })
})

describe('the plug of a hole', () => {
  it('is what the hole takes out of the wall, smaller by the clearance, and fits in it', async () => {
    const room = joinMeshes([box([0, 0, 0], [20, 20, 20]), reversedBox([3, 3, 3], [17, 17, 17])]), through = hole([10, 10, 0], [0, 0, 1], 4)
    for (const h of [through, { ...through, endDiameterMm: 3, depthMm: 4 }]) {
      const plug = await plugOf(room, h, 0.15), drilledRoom = await drilled(room, [h]), solid = (m: Mesh) => new wasm.Manifold(new wasm.Mesh({ numProp: 3, vertProperties: m.positions, triVerts: m.triangles }))
      // closed form: a rod, or a cone cut off, through 3 mm of wall
      const end = 3.7 + (3 / (h.depthMm ?? 1)) * (h.endDiameterMm - h.diameterMm)
      expect(volumeOf(plug) / ((Math.PI * 3 * (3.7 ** 2 + 3.7 * end + end ** 2)) / 12)).toBeCloseTo(1, 2)
      expect([euler(plug), isClosed(plug), solid(plug).intersect(solid(drilledRoom)).volume()]).toEqual([2, true, expect.closeTo(0, 6)])
      // no point of its side is nearer to the hole than the clearance
      const skin = new NearestTree(drilledRoom), { positions: p } = plug
      const sides = Array.from({ length: p.length / 3 }, (_, i) => i).filter(i => p[3 * i + 2] > 0.1 && p[3 * i + 2] < 2.9)
      for (const i of sides) {
        skin.ask(p[3 * i], p[3 * i + 1], p[3 * i + 2])
        expect(skin.distance).toBeGreaterThan(0.13)
      }
    }
    await expect(plugOf(room, through, 2)).rejects.toMatchObject({ code: 'nothing-left' })
    await expect(plugOf(room, hole([40, 40, 0], [0, 0, 1], 4), 0.1)).rejects.toMatchObject({ code: 'misses' })
  })
  const reversedBox = (min: Vec3, max: Vec3): Mesh => reversed(box(min, max))
})
