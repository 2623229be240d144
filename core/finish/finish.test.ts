import { describe, expect, it } from 'vitest'
import { AS_MADE, type HollowStep, type Recipe, type SourcePoint } from '../contract'
import { areaOf, boundsOf, joinMeshes, NO_SOURCE, prepareMesh, volumeOf, type Mesh, type Vec3 } from '../mesh'
import { standOf } from '../pose'
import { ModelScan } from '../scan'
import { box, lathe, reversed, sphere } from '../testing/shapes'
import { boreAt, drainWays, finishKey, finishPart, finishParts, isFinished, opensBest, opensChamber, stepPoint, type FinishMemory } from './index'

const cube = box([0, 0, 0], [20, 20, 20]), hollow: HollowStep = { on: true, wallMm: 2, cellMm: 0.5, carries: null }
const hole = (at: readonly [number, number, number], on = true): Recipe['holes'][number] => ({ id: `hole at ${at.join()}`, on, at: at as SourcePoint, into: [0, 0, 1], diameterMm: 2, endDiameterMm: 2, depthMm: 4 })
const recipe = (more: Partial<Recipe>): Recipe => ({ ...AS_MADE, ...more })

describe('what a recipe makes of a source', () => {
  it('is the source itself where nothing is asked for, and where every step is switched off', async () => {
    expect((await finishPart(cube, AS_MADE)).mesh).toBe(cube)
    const off = recipe({ hollow: { ...hollow, on: false }, holes: [hole([10, 10, 0], false)] })
    expect((await finishPart(cube, off)).mesh).toBe(cube)
    expect([isFinished(off), finishKey(off)]).toEqual([false, finishKey(AS_MADE)])
  })

  it('is hollowed by a wall in millimetres however large it is, then drilled', async () => {
    const { mesh, hollow: told } = await finishPart(cube, recipe({ scale: [2, 1, 1], hollow, holes: [hole([10, 10, 0])] }))
    // closed form: 40 × 20 × 20 less 36 × 16 × 16 but for what is cut off its edges, less a hole of 2 mm through 2 mm
    expect(told?.solidMm3).toBeCloseTo(16000, 2)
    expect(volumeOf(mesh) / (16000 - 36 * 256 - 2 * Math.PI)).toBeCloseTo(1, 2)
    // the hole went along: 10 of the file is 20 of the part
    const { positions: p } = mesh, rim = Array.from({ length: p.length / 3 }, (_, i) => p.subarray(3 * i, 3 * i + 3)).filter(v => v[2] === 0 && Math.hypot(v[0] - 20, v[1] - 10) < 1.1)
    // its 64 corners, and where it cuts the edge between two faces
    expect(rim.length).toBe(66)
  })

  it('is the mirror image where the part is mirrored, holes and all', async () => {
    const skew = recipe({ hollow, holes: [{ ...hole([3, 10, 0]), into: [0.6, 0, 0.8] }] }), plain = await finishPart(cube, skew), mirrored = await finishPart(cube, { ...skew, mirrored: true })
    expect(volumeOf(mirrored.mesh)).toBeCloseTo(volumeOf(plain.mesh), 0)
    expect(areaOf(mirrored.mesh)).toBeCloseTo(areaOf(plain.mesh), 0)
    expect(boundsOf(mirrored.mesh.positions).min[0]).toBeCloseTo(-20, 5)
  })

  it('takes a hollow that was made before for other holes, and makes another for another wall', async () => {
    const memory: FinishMemory = { hollow: null, cut: null }, after = async (more: Partial<Recipe>): Promise<FinishMemory['hollow']> => {
      await finishPart(cube, recipe(more), { memory })
      return memory.hollow
    }
    const first = await after({ hollow }), drilled = await after({ hollow, holes: [hole([10, 10, 0])] }), thicker = await after({ hollow: { ...hollow, wallMm: 3 } })
    expect([drilled?.made === first?.made, thicker?.made === first?.made]).toEqual([true, false])
  })

  it('tells its progress step by step, and has a key that changes with every step', async () => {
    const steps: string[] = []
    await finishPart(cube, recipe({ hollow, holes: [hole([10, 10, 0])] }), { onProgress: step => steps.at(-1) === step || steps.push(step) })
    expect(steps).toEqual(['hollow', 'holes'])
    const all = [recipe({}), recipe({ hollow }), recipe({ hollow: { ...hollow, wallMm: 3 } }), recipe({ hollow: { ...hollow, carries: { up: [0, 0, 1], slopeDeg: 45, flapMm: 1 } } }), recipe({ hollow, holes: [hole([10, 10, 0])] }), recipe({ holes: [hole([10, 10, 0])] }), recipe({ hollow, scale: [2, 1, 1] })]
    expect(new Set(all.map(finishKey)).size).toBe(all.length)
  })

  it('is cut last: the two sides of one step are all of it, each with the holes that it has', async () => {
    const cut: Recipe['cuts'][number] = { id: 'cut', at: [0, 0, 8] as SourcePoint, normal: [0, 0, 1], keeps: 'below', whole: [], pegs: null }, holes = [hole([10, 10, 0])]
    const whole = await finishPart(cube, recipe({ hollow, holes })), below = await finishPart(cube, recipe({ hollow, holes, cuts: [cut] })), above = await finishPart(cube, recipe({ hollow, holes, cuts: [{ ...cut, keeps: 'above' }] }))
    expect(volumeOf(below.mesh) + volumeOf(above.mesh)).toBeCloseTo(volumeOf(whole.mesh), 1)
    // the other side of a cut that was made is there already
    const memory: FinishMemory = { hollow: null, cut: null }, once = await finishPart(cube, recipe({ hollow, holes, cuts: [cut] }), { memory })
    expect([once.mesh, (await finishPart(cube, recipe({ hollow, holes, cuts: [{ ...cut, keeps: 'above' }] }), { memory })).mesh]).toEqual([memory.cut?.made.below, memory.cut?.made.above])
    expect([boundsOf(below.mesh.positions).max[2], boundsOf(above.mesh.positions).min[2]]).toEqual([8, 8])
    expect([below.elsewhere, above.elsewhere, whole.elsewhere]).toEqual([[], [0], []])
    // mirrored and scaled, the plane goes along; the same part has the same key
    const mirrored = await finishPart(cube, recipe({ scale: [1, 1, 2], mirrored: true, cuts: [{ ...cut, at: [5, 0, 0] as SourcePoint, normal: [1, 0, 0] }] }))
    expect([volumeOf(mirrored.mesh), boundsOf(mirrored.mesh.positions).min[0]]).toEqual([expect.closeTo(5 * 20 * 40, 1), expect.closeTo(-5, 5)])
    expect(new Set([recipe({}), recipe({ cuts: [cut] }), recipe({ cuts: [{ ...cut, keeps: 'above' }] }), recipe({ cuts: [cut, { ...cut, id: 'next', at: [0, 0, 4] as SourcePoint }] })].map(finishKey)).size).toBe(4)
  })

  it('stays whole where a piece of the section is left, and has its pegs and sockets', async () => {
    const legs = joinMeshes([box([0, 0, 10], [30, 10, 14]), box([1, 1, 0], [9, 9, 11]), box([21, 1, 0], [29, 9, 11])]), pegs: NonNullable<Recipe['cuts'][number]['pegs']> = { shape: 'round', diameterMm: 3, endDiameterMm: 3, depthMm: 2, clearanceMm: 0.1, wallMm: 1, at: [[5, 5, 5] as SourcePoint] }
    const cut: Recipe['cuts'][number] = { id: 'leg', at: [0, 0, 5] as SourcePoint, normal: [0, 0, 1], keeps: 'below', whole: [[25, 5, 5] as SourcePoint], pegs }
    const below = (await finishPart(legs, recipe({ cuts: [cut] }))).mesh, above = (await finishPart(legs, recipe({ cuts: [{ ...cut, keeps: 'above' }] }))).mesh
    // one leg below the slit with a peg of 2 mm; the other stays with the top
    expect(volumeOf(below)).toBeCloseTo(64 * 4.99 + Math.PI * 2.25 * 2, 0)
    expect(boundsOf(below.positions).max[0]).toBeCloseTo(9, 5)
    expect([boundsOf(above.positions).min[2], boundsOf(below.positions).max[2]]).toEqual([0, expect.closeTo(7, 1)])
    await expect(finishPart(legs, recipe({ cuts: [{ ...cut, at: [0, 0, -1] as SourcePoint }] }))).rejects.toMatchObject({ code: 'misses' })
  })

  it('is the plug of a hole where that is asked for, which is drilled and cut like any part', async () => {
    const plug = { hole: { ...hole([10, 10, 0]), diameterMm: 4, endDiameterMm: 4 }, clearanceMm: 0.2 }, cut: Recipe['cuts'][number] = { id: 'cut', at: [0, 0, 1] as SourcePoint, normal: [0, 0, 1], keeps: 'below', whole: [], pegs: null }
    const { mesh, hollow: told } = await finishPart(cube, recipe({ hollow, plug })), half = await finishPart(cube, recipe({ hollow, plug, cuts: [cut] })), bored = await finishPart(cube, recipe({ hollow, plug, holes: [hole([10, 10, 0])] }))
    // closed forms: a rod of 3.6 mm through a wall of 2 mm, half of it, and what a hole of 2 mm takes of it
    expect([told, volumeOf(mesh) / (Math.PI * 1.8 ** 2 * 2), volumeOf(half.mesh) / (Math.PI * 1.8 ** 2), (volumeOf(mesh) - volumeOf(bored.mesh)) / (2 * Math.PI)]).toEqual([null, expect.closeTo(1, 2), expect.closeTo(1, 2), expect.closeTo(1, 2)])
    expect(finishKey(recipe({ hollow, plug }))).not.toBe(finishKey(recipe({ hollow })))
  })

  it('of several parts is made before they are asked for', async () => {
    const part = (id: string, r: Recipe) => ({ id, recipe: r }) as Parameters<Awaited<ReturnType<typeof finishParts>>>[0]
    const parts = [part('plain', recipe({ scale: [2, 2, 2] })), part('hollow', recipe({ hollow }))], meshOf = await finishParts(parts, () => cube)
    expect(volumeOf(meshOf(parts[0]))).toBeCloseTo(64000, 1)
    expect(volumeOf(meshOf(parts[1])) / (8000 - 4096)).toBeCloseTo(1, 1)
  })
})

describe('what opens a chamber', () => {
  const told = async (more: Partial<Recipe>) => (await finishPart(cube, recipe({ hollow, ...more }))).openings.map(o => [o.count, o.holes.length])
  const cut: Recipe['cuts'][number] = { id: 'cut', at: [0, 0, 10] as SourcePoint, normal: [0, 0, 1], keeps: 'below', whole: [], pegs: null }
  it('is counted by what goes into it: none, some, one right through; one that ends in the wall opens nothing', async () => {
    expect([await told({}), await told({ holes: [hole([10, 10, 0]), hole([6, 6, 0])] }), await told({ holes: [{ ...hole([10, 10, 0]), depthMm: null }] }), await told({ holes: [{ ...hole([10, 10, 0]), depthMm: 1 }, hole([4, 4, 0], false)] })]).toEqual([[[0, 0]], [[2, 2]], [[2, 1]], [[0, 0]]])
    const [{ at }] = (await finishPart(cube, recipe({ hollow }))).openings
    expect(at.map(v => Math.abs(v - 10) < 0.1)).toEqual([true, true, true])
  })
  it('is not told of one that a cut opened, nor of one on the other side', async () => {
    const dumbbell = joinMeshes([box([0, 0, 0], [12, 12, 12]), box([5, 5, 11], [7, 7, 20]), box([0, 0, 19], [12, 12, 31])]), of = async (z: number, keeps: 'above' | 'below') => (await finishPart(dumbbell, recipe({ hollow, cuts: [{ ...cut, at: [0, 0, z] as SourcePoint, keeps }] }))).openings.length
    expect([await told({ cuts: [cut] }), await of(16, 'below'), await of(16, 'above'), await of(6, 'below'), await of(6, 'above')]).toEqual([[], 1, 1, 0, 1])
  })
})

describe('the best way out of a space', () => {
  const ways: Vec3[] = [[1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1], [0, 0, -1]]
  it('goes through the thinnest wall, where the skin may be drilled', async () => {
    // closed form: from a point 3 mm off one side of a room that lies aside, the wall there is 2 mm, elsewhere more
    const room = joinMeshes([box([0, 0, 0], [20, 20, 20]), reversed(box([2, 6, 6], [14, 14, 14]))])
    const out = opensBest(room, [5, 10, 10], ways, 2, { costOf: () => 1 }), dear = opensBest(room, [5, 10, 10], ways, 2, { costOf: face => (areaFacing(room, face) ? Infinity : 1) })
    expect([out?.at, out?.into.map(v => v + 0), out?.wallMm, out?.depthMm]).toEqual([[0, 10, 10].map(v => expect.closeTo(v, 5)), [1, 0, 0], expect.closeTo(2, 5), expect.closeTo(3, 5)])
    expect([dear?.wallMm, opensBest(room, [5, 10, 10], ways, 2, { costOf: () => Infinity })]).toEqual([expect.closeTo(6, 5), null])
    // solid all along, or a second wall behind the first, is no way out
    const behind = joinMeshes([room, box([-5, 0, 0], [-3, 20, 20])])
    expect(opensBest(behind, [5, 10, 10], ways, 2, { costOf: () => 1 })?.wallMm).toBeCloseTo(6, 5)
  })
  it('drains a pool: drilled there, it is none any more by the scan', async () => {
    // a bell that stands on the plate: as it hangs from there its inside is a bowl
    const dome = prepareMesh(lathe([[6, 0], [8, 0], [8, 10], [0, 12], [0, 10], [6, 8], [6, 0]], 64)).mesh, scan = (mesh: Mesh) => new ModelScan(mesh, { pixelMm: 0.1, layerMm: 0.1 }, standOf(mesh.positions, { tiltXDeg: 0, tiltYDeg: 0, liftMm: 5 }, 0.1)).runToEnd().pools
    const [pool, ...more] = scan(dome), from = pool.at, out = opensBest(dome, [from[0], from[1], 9.5], drainWays([0, 0, 1]), 2.5, { costOf: () => 1 })
    expect([more, pool.volumeMm3 > 500, (out?.at[2] ?? 0) > 9]).toEqual([[], true, true])
    if (!out) return
    const { mesh } = await finishPart(dome, recipe({ holes: [{ id: 'drain', on: true, at: out.at as SourcePoint, into: [...out.into], diameterMm: 2.5, endDiameterMm: 2.5, depthMm: out.depthMm }] }))
    expect(scan(mesh).reduce((sum, p) => sum + p.volumeMm3, 0)).toBeLessThan(0.05 * pool.volumeMm3)
  })
  it('opens a chamber once more at the end that is farther from what opens it, and never beside that', async () => {
    const coarse = { ...hollow, cellMm: 1 }, first = { ...hole([10, 10, 0]), diameterMm: 3, endDiameterMm: 3 }, { mesh, openings: [{ box: around }] } = await finishPart(box([0, 0, 0], [20, 20, 60]), recipe({ hollow: coarse, holes: [first] })), skin = (face: number): number => (mesh.from?.[face] === NO_SOURCE ? Infinity : 1)
    const out = opensChamber(mesh, around, [[10, 10, 0]], [0, 0, 1], 2, 3, skin)
    expect([(out?.at[2] ?? 0) > 50, out?.wallMm]).toEqual([true, expect.closeTo(2, 1)])
    expect(opensChamber(mesh, around, [[10, 10, 0]], [0, 0, 1], 2, 3, () => Infinity)).toBeNull()
    // with it, it is open twice
    if (out) expect((await finishPart(box([0, 0, 0], [20, 20, 60]), recipe({ hollow: coarse, holes: [first, { ...first, id: 'more', at: out.at as SourcePoint, into: [...out.into], depthMm: out.depthMm }] }))).openings[0].count).toBe(2)
  })
  /** Whether a face lies on the side x = 0. */
  const areaFacing = ({ positions: p, triangles: t }: Mesh, face: number): boolean => [0, 1, 2].every(c => p[3 * t[3 * face + c]] === 0)
})

describe('a hole that is proposed', () => {
  const shell = (mesh: Mesh) => finishPart(mesh, recipe({ hollow }))
  it('goes straight into the skin near a point, just through the wall', async () => {
    const { at, into, depthMm } = boreAt((await shell(cube)).mesh, [10.3, 9.8, -1], 2)
    expect(at.map(v => Number(v.toFixed(4)))).toEqual([10.3, 9.8, 0])
    expect(into.map(v => Math.round(v) + 0)).toEqual([0, 0, 1])
    // the wall, and half a diameter beyond it
    expect(depthMm).toBeCloseTo(3, 2)
  })
  it('goes through the whole of what is solid', () => {
    expect(boreAt(cube, [10, 10, 20.5], 2).depthMm).toBeNull()
  })
  it('goes the way that is asked for', async () => {
    const { mesh } = await shell(sphere([0, 0, 0], 10, 48)), { into, depthMm } = boreAt(mesh, [3, 0, -10], 1, [0, 0, 1])
    expect(into).toEqual([0, 0, 1])
    expect(depthMm).toBeGreaterThan(2.5)
  })
  it('comes back as it was kept', () => {
    expect(stepPoint([-4, 3, 2], [-2, 1, 0.5])).toEqual([2, 3, 4])
  })
  it('leaves no skin that claims to come from the file where there is none', async () => {
    const { mesh } = await finishPart(cube, recipe({ hollow, holes: [hole([10, 10, 0])] })), own = Array.from(mesh.from ?? [])
    expect(Math.max(...own.filter(f => f !== NO_SOURCE))).toBe(11)
  })
})
