import Module from 'manifold-3d'
import { beforeAll, describe, expect, it } from 'vitest'
import { isClosed, NearestTree, volumeOf, type Mesh, type Vec3 } from '../mesh'
import { box } from '../testing/shapes'
import { CutTrial, cutBy, pegPlaces, sectionOf, type PegSizes, type Plane } from './index'

// Closed forms, the library's own booleans, and distances between peg and socket.
let wasm: Awaited<ReturnType<typeof Module>>
beforeAll(async () => {
  wasm = await Module()
  wasm.setup()
})
const plane: Plane = { normal: [0, 0, 1], offsetMm: 10 }, block = box([0, 0, 0], [20, 12, 20])
const sizes = (more: Partial<PegSizes> = {}): PegSizes => ({ shape: 'round', diameterMm: 4, endDiameterMm: 4, depthMm: 5, clearanceMm: 0.1, ...more })
const cutWith = (at: readonly Vec3[], s: PegSizes, wallMm = 1, mesh = block) => cutBy(mesh, plane, { pegs: { ...s, at, wallMm } })
/** Corners of a mesh that lie strictly between two heights. */
const between = ({ positions: p }: Mesh, low: number, high: number): Vec3[] => Array.from({ length: p.length / 3 }, (_, i): Vec3 => [p[3 * i], p[3 * i + 1], p[3 * i + 2]]).filter(v => v[2] > low && v[2] < high)

describe('pegs and sockets', () => {
  it('take and give what they come to, and leave closed parts', async () => {
    const { above, below } = await cutWith([[6, 6, 10], [14, 6, 10]], sizes())
    expect((volumeOf(below) - 2400) / (2 * Math.PI * 4 * 5)).toBeCloseTo(1, 2)
    expect((2400 - volumeOf(above)) / (2 * Math.PI * 2.1 ** 2 * 5.1)).toBeCloseTo(1, 2)
    expect([isClosed(above), isClosed(below)]).toEqual([true, true])
  })

  it('fit with the clearance: no point of a peg is nearer to its socket, and none much farther', async () => {
    for (const s of [sizes(), sizes({ endDiameterMm: 3 }), sizes({ shape: 'keyed', clearanceMm: 0.15 })]) {
      const { above, below } = await cutWith([[10, 6, 10]], s), socket = new NearestTree(above), distances = between(below, 10.2, 16).map(v => {
        socket.ask(...v)
        return socket.distance
      })
      expect(distances.length).toBeGreaterThan(30)
      expect(Math.min(...distances)).toBeGreaterThan(0.9 * s.clearanceMm)
      expect(Math.max(...distances)).toBeLessThan(1.6 * s.clearanceMm)
    }
  })

  it('go together one way only where they are keyed', async () => {
    const { above, below } = await cutWith([[10, 6, 10]], sizes({ shape: 'keyed' })), solid = (m: Mesh) => new wasm.Manifold(new wasm.Mesh({ numProp: 3, vertProperties: m.positions, triVerts: m.triangles }))
    const upper = solid(above), lower = solid(below), turned = lower.translate([-10, -6, 0]).rotate([0, 0, 180]).translate([10, 6, 0])
    expect(upper.intersect(lower).volume()).toBeLessThan(1e-3)
    expect(upper.intersect(turned).volume()).toBeGreaterThan(1)
  })

  it('are placed where the skin is farthest, apart from each other, and no nearer to the skin than a wall', async () => {
    const [piece] = await sectionOf(block, plane), [one] = pegPlaces(block, plane, [piece], sizes(), 1, 1), two = pegPlaces(block, plane, [piece], sizes(), 1, 2)
    // the end of the socket is 4.9 mm below the top: no side is nearer
    expect(Math.min(one[0], 20 - one[0], one[1], 12 - one[1])).toBeGreaterThanOrEqual(4.8)
    // two sockets, and a wall between them
    expect(Math.hypot(two[0][0] - two[1][0], two[0][1] - two[1][1])).toBeGreaterThanOrEqual(5.2)
    for (const at of pegPlaces(block, plane, [piece], sizes(), 1, 9)) {
      expect(Math.min(at[0], 20 - at[0], at[1], 12 - at[1])).toBeGreaterThanOrEqual(3.1 - 1e-6)
      // room for what is proposed is room for what is made
      await cutWith([at], sizes())
    }
    // the middle of a ring is empty
    const made = wasm.Manifold.cylinder(20, 12, 12, 64).subtract(wasm.Manifold.cylinder(60, 6, 6, 64, true)).getMesh(), pipe: Mesh = { positions: made.vertProperties, triangles: made.triVerts }
    const places = pegPlaces(pipe, plane, (await sectionOf(pipe, plane)).slice(0, 1), sizes({ diameterMm: 3, endDiameterMm: 3 }), 1, 3)
    expect(places.map(p => Math.abs(Math.hypot(p[0], p[1]) - 9) < 0.5)).toEqual([true, true, true])
  })

  it('are refused where there is no wall beside a socket, and where two would meet', async () => {
    await expect(cutWith([[2.5, 6, 10]], sizes())).rejects.toMatchObject({ code: 'no-room' })
    await expect(cutWith([[10, 6, 10]], sizes({ depthMm: 9.5 }))).rejects.toMatchObject({ code: 'no-room' })
    // far from all skin, and on none of it
    await expect(cutWith([[40, 6, 10]], sizes())).rejects.toMatchObject({ code: 'no-room', message: 'Peg 1 stands beside what is cut. Move it.' })
    // a long one that comes out of the top, and would end in the air
    await expect(cutWith([[10, 6, 10]], sizes({ diameterMm: 1, endDiameterMm: 1, depthMm: 40 }), 0.1)).rejects.toMatchObject({ code: 'no-room' })
    await expect(cutWith([[10, 6, 10], [12, 6, 10]], sizes())).rejects.toMatchObject({ code: 'no-room' })
    const [narrow] = await sectionOf(box([0, 0, 0], [5, 5, 20]), plane)
    const post = box([0, 0, 0], [5, 5, 20])
    expect(pegPlaces(post, plane, [narrow], sizes(), 1, 1)).toEqual([])
    // smaller ones are proposed for which there is room
    const trial = await CutTrial.of(post), [piece] = trial.section(plane), fits = trial.fitting(plane, [piece], { ...sizes(), wallMm: 1 }, 1)
    if (!fits) throw new Error('Nothing fits.')
    expect([fits.diameterMm < 4, fits.diameterMm > 2, fits.depthMm > fits.diameterMm]).toEqual([true, true, true])
    await cutWith(trial.places(plane, [piece], fits, fits.wallMm, 1), fits, fits.wallMm, post)
    expect(trial.fitting(plane, [piece], { ...sizes(), wallMm: 1 }, 60)).toBeNull()
    trial.free()
  })
})
