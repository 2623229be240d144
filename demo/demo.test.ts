import { readFileSync } from 'node:fs'
import Module from 'manifold-3d'
import { describe, expect, it } from 'vitest'
import { recognise } from '../core/built-in'
import { BufferAttribute, BufferGeometry, Vector3 } from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import { finishPart, type Finished, type FinishMemory } from '../core/finish'
import { hollowed } from '../core/hollow'
import { boundsOf, findCrossings, NO_SOURCE, prepareMesh, readModel, triangleArea, volumeOf, wholeOf, type Mesh } from '../core/mesh'
import { DEFAULT_SETTINGS } from '../core/contract'
import { DEFAULT_POSE, motionOfPose, standOf, upOfTilt } from '../core/pose'
import { copyRow, partRow } from '../core/testing/jobs'
import { verdictOf } from '../core/proof'
import { ModelScan } from '../core/scan'
import { demoStl } from '../server'
import { DEMO_JOBS, DEMO_VERSIONS, marksOf, type DemoModel, type DemoPlan } from './index'
import { polygonize } from './sculpt/polygonize'
import { limb, mass } from './sculpt/field'

const raster = { pixelMm: 0.05, layerMm: 0.05 }

describe('the demo models', () => {
  it.each(DEMO_JOBS.filter(j => !j.again))('$name is one closed manifold shell of printable size', async job => {
    const source = wholeOf(await readModel(readFileSync(await demoStl(job.model))))
    const { mesh, report } = prepareMesh(source)
    // the buoy brings its supports, each a shell of its own
    const shells = job.model === 'buoy' ? report.shells : 1
    expect(report).toMatchObject({ unclosedEdges: 0, shells, duplicateTriangles: 0, turnedShells: 0, sheets: 0 })
    expect(report.triangles).toBeGreaterThanOrEqual(job.model === 'bracket' ? 10000 : job.model === 'buoy' ? 50000 : 80000)
    expect(report.triangles).toBeLessThanOrEqual(500000)
    expect(report.sizeMm[2]).toBeGreaterThanOrEqual(job.model === 'lamp' ? 21 : job.model === 'bracket' ? 35 : 40)
    expect(report.sizeMm[2]).toBeLessThanOrEqual(90)
    // Reference library: manifold-3d takes only closed, oriented 2-manifolds, and agrees on the volume
    const wasm = await Module()
    wasm.setup()
    const solid = new wasm.Manifold(new wasm.Mesh({ numProp: 3, vertProperties: mesh.positions, triVerts: mesh.triangles }))
    // what overlaps counts twice in the one and once in the other
    if (job.model !== 'buoy') expect(solid.volume() / report.volumeMm3).toBeCloseTo(1, 4)
    // layer areas at fifty heights
    const stand = motionOfPose(mesh.positions, job.pose, 0.05)
    const result = new ModelScan(mesh, raster, stand).runTo('graph')
    const posed = solid.transform([stand[0], stand[4], stand[8], 0, stand[1], stand[5], stand[9], 0, stand[2], stand[6], stand[10], 0, stand[3], stand[7], stand[11], 1])
    let strictly = 0
    for (let i = 0; i < 50; i++) {
      const k = 101 + Math.floor(((result.layerCount - 104) * i) / 50)
      const cut = posed.slice((k + 0.5) * 0.05)
      const outline = cut.toPolygons().reduce((sum, p) => sum + p.reduce((l, q, j) => l + Math.hypot(q[0] - p[(j + 1) % p.length][0], q[1] - p[(j + 1) % p.length][1]), 0), 0)
      const off = Math.abs(result.areaMm2[k] - cut.area())
      // half a percent; where a section is so small that a few pixels are more, pixels of its outline fall in or out like coins
      // straight edges along the grid fall in or out as a whole, half a pixel wide
      expect(off).toBeLessThanOrEqual(Math.max(0.005 * cut.area(), 3 * Math.sqrt(outline / 0.05) * 0.05 ** 2, job.model === 'bracket' ? 0.025 * outline : 0))
      if (off <= 0.005 * cut.area()) strictly++
      cut.delete()
    }
    // bars of a few pixels each are never that near
    expect(strictly).toBeGreaterThanOrEqual(job.model === 'lamp' ? 30 : job.model === 'bracket' || job.model === 'buoy' ? 40 : 49)
    const islands = result.islands.filter(i => i.state === 'open').length
    if (job.model === 'heron') expect(islands).toBeGreaterThanOrEqual(30)
    if (job.model === 'kelp') expect(islands).toBeGreaterThanOrEqual(60)
    if (job.model === 'lamp') expect(islands).toBeGreaterThanOrEqual(10)
    if (job.model === 'bell') expect(result.cups[0]).toMatchObject({ ends: 'vent' })
    if (job.model === 'bell') expect(result.cups[0].volumeMm3).toBeGreaterThan(10000)
  }, 120000)
})

describe('the signal buoy', () => {
  it('brings supports of its own, on a raft, whose tips are too thin to carry it', async () => {
    const { mesh } = prepareMesh(wholeOf(await readModel(readFileSync(await demoStl('buoy'))))), { supports, raft, model } = recognise(mesh)
    expect(supports.length).toBeGreaterThan(30)
    expect(supports.every(s => Math.abs(s.tip.diameterMm - 0.25) < 0.025 && s.end.on === 'plate')).toBe(true)
    expect([raft?.whole, model.length < mesh.triangles.length / 3]).toEqual([true, true])
  })
})

describe('what is proved', () => {
  const begun = async (model: DemoModel): Promise<DemoPlan> => JSON.parse(readFileSync(`${await demoStl(model)}.plan`, 'utf8')) as DemoPlan
  const bad = ({ checks }: DemoPlan): string[] => (checks ?? []).flatMap(c => (c.state === 'bad' ? [c.kind] : []))
  it('is the bell on its stilts: what is left was waived with a reason', async () => {
    const plan = await begun('bell-held'), waivers = (plan.waived ?? []).map(w => ({ ...w, id: 'w', part: 'part' }))
    expect(verdictOf(plan.checks ?? [], waivers)).toMatchObject({ ready: true, verdict: expect.stringMatching(/^Ready to print\. /) as string })
    expect(bad(plan).sort()).toEqual(waivers.map(w => w.check).sort())
  }, 120000)
  it('is the buoy without its supports as they came, and fails for the tips that came with it', async () => {
    const plan = await begun('buoy-lifted'), { report } = prepareMesh(wholeOf(await readModel(readFileSync(await demoStl('buoy-lifted')))))
    expect([report.unclosedEdges, plan.raft?.kind]).toEqual([0, 'plate'])
    expect(bad(plan)).toEqual(expect.arrayContaining(['tips', 'carriers']))
    expect(verdictOf(plan.checks ?? []).verdict).toMatch(/tips carry more than they can; the weakest is that of stilt/)
  }, 60000)
})

describe('the crank bracket', () => {
  const read = async (): Promise<Mesh> => wholeOf(await readModel(readFileSync(await demoStl('bracket'))))
  it('has true bores, marked off-limits, and a flat underside, spare', async () => {
    const mesh = await read(), marks = marksOf('bracket', mesh), area = (worth: string): number => marks.find(m => m.worth === worth)?.faces.reduce((sum, f) => sum + triangleArea(mesh, f), 0) ?? 0
    // Closed form: the crank's bore over the length of the boss between its chamfers, less keyway and grub screw, and four screw holes of 2.8 mm
    const keyway = 2 * 5 * Math.asin(1.5 / 5)
    expect(area('off-limits')).toBeGreaterThan((10 * Math.PI - keyway) * 17 - 12 + 4 * 2.1 * 2 * Math.PI * 2.8 - 1)
    expect(area('off-limits')).toBeLessThan((10 * Math.PI - keyway) * 18.3 + 4 * 2.1 * 2 * Math.PI * 2.82 + 1)
    // 48 × 28 with corners of 4 mm, less the holes
    expect(area('spare')).toBeCloseTo(48 * 28 - (4 - Math.PI) * 16 - 4 * Math.PI * 2.1 ** 2, 0)
  })
  it('stands true to a hundredth of a millimetre in its bores', async () => {
    const mesh = await read(), [bore] = marksOf('bracket', mesh).filter(m => m.worth === 'off-limits')
    for (const f of bore.faces) {
      const [x, , z] = [0, 1, 2].map(d => mesh.positions[3 * mesh.triangles[3 * f] + d]), r = Math.hypot(x, z - 27)
      if (r < 8) expect(r).toBeCloseTo(5, 2)
    }
  })
})

describe('the heron', () => {
  it('has its head, breast and upper wings prized, its post spare', async () => {
    const mesh = wholeOf(await readModel(readFileSync(await demoStl('heron')))), marks = marksOf('heron', mesh)
    const heights = (worth: string): number[] => (marks.find(m => m.worth === worth)?.faces ?? []).map(f => mesh.positions[3 * mesh.triangles[3 * f] + 2])
    expect(Math.max(...sampled(heights('spare')))).toBeLessThan(15)
    expect(Math.min(...sampled(heights('prized')))).toBeGreaterThan(29)
    expect(heights('prized').length).toBeGreaterThan(80000)
    expect(marks.some(m => m.worth === 'off-limits')).toBe(false)
  })
  const sampled = (values: readonly number[]): number[] => values.filter((_, i) => i % 50 === 0)
})

describe('a demo model that is hollowed', () => {
  const MODELS: readonly [DemoModel, number][] = [['heron', 1.5], ['kelp', 0.8], ['bracket', 2]]
  it.each(MODELS)('%s is nowhere thinner than its wall of %f mm, and about that everywhere (another nearest-point search: three-mesh-bvh)', async (model, wallMm) => {
    const { mesh } = prepareMesh(wholeOf(await readModel(readFileSync(await demoStl(model))))), { mesh: made, chambers, hollowMm3, solidMm3 } = await hollowed(mesh, { wallMm, cellMm: 0.4 }), { positions: p, triangles: t, from } = made
    const tree = new MeshBVH(new BufferGeometry().setAttribute('position', new BufferAttribute(mesh.positions, 3)).setIndex(new BufferAttribute(mesh.triangles.slice(), 1))), target = { point: new Vector3(), distance: 0, faceIndex: 0 }, at = new Vector3()
    let least = Infinity, sum = 0, count = 0
    for (let i = 0; i < t.length / 3; i++) {
      if (from?.[i] !== NO_SOURCE || i % 5) continue
      const middle = [0, 1, 2].map(a => (p[3 * t[3 * i] + a] + p[3 * t[3 * i + 1] + a] + p[3 * t[3 * i + 2] + a]) / 3), d = tree.closestPointToPoint(at.set(middle[0], middle[1], middle[2]), target)?.distance ?? NaN
      least = Math.min(least, d)
      sum += Math.abs(d - wallMm)
      count++
    }
    expect([chambers.length > 0, count > 100, volumeOf(made) / (solidMm3 - hollowMm3)]).toEqual([true, true, expect.closeTo(1, 3)])
    expect(least).toBeGreaterThanOrEqual(wallMm)
    expect(sum / count).toBeLessThan(0.03)
  })
  it.each([['bracket', 2, 0], ['bell', 1, 0], ['bracket', 2, 35]] as const)('%s, wall %f mm and tilted by %f°, carries itself where that is asked for: by the scan next to nothing hangs inside, and no side runs through another', async (model, wallMm, tiltXDeg) => {
    const { mesh } = prepareMesh(wholeOf(await readModel(readFileSync(await demoStl(model))))), pose = { tiltXDeg, tiltYDeg: 0, liftMm: 5 }, { slopeDeg, flapMm } = DEFAULT_SETTINGS
    const raster = { pixelMm: 0.1, layerMm: 0.1 }, hanging = (of: Mesh): number => new ModelScan(of, raster, standOf(of.positions, pose, raster.pixelMm)).runToEnd().ledges.reduce((sum, l) => sum + l.areaMm2, 0)
    const solid = hanging(mesh), plain = await hollowed(mesh, { wallMm, cellMm: 0.4 }), carries = await hollowed(mesh, { wallMm, cellMm: 0.4, carrying: { up: upOfTilt(pose), slopeDeg, flapMm } })
    expect(hanging(plain.mesh) - solid).toBeGreaterThan(40)
    expect(hanging(carries.mesh) - solid).toBeLessThan(0.15 * (hanging(plain.mesh) - solid))
    expect([carries.hollowMm3 > 0.4 * plain.hollowMm3, findCrossings(carries.mesh, 1).pairs - findCrossings(mesh, 1).pairs]).toEqual([true, 0])
  })
  it('lamp says that it is too thin', async () => {
    const { mesh } = prepareMesh(wholeOf(await readModel(readFileSync(await demoStl('lamp')))))
    await expect(hollowed(mesh, { wallMm: 2, cellMm: 0.4 })).rejects.toThrow(/^Nowhere is the part thick enough for walls of 2 mm/)
  })
})

describe('versions of demo jobs', () => {
  const made = async (model: DemoModel): Promise<Finished[]> => {
    const source = prepareMesh(wholeOf(await readModel(readFileSync(await demoStl(model))))).mesh, version = DEMO_VERSIONS.find(v => v.model === model), memory: FinishMemory = { hollow: null, cut: null }, out: Finished[] = []
    for (const part of version?.made(partRow(), copyRow()).parts ?? []) out.push(await finishPart(source, part.recipe, { memory }))
    return out
  }
  it('have the bell hollowed to its wall everywhere, and open twice, so that nothing of it is sealed', async () => {
    const [{ mesh, openings }] = await made('bell')
    expect(openings.map(o => o.count)).toEqual([2])
    // by another nearest-point search: from the inner wall to the skin that comes from the file
    const { positions: p, triangles: t, from } = mesh, own = Array.from({ length: t.length / 3 }, (_, i) => i).filter(i => from?.[i] !== NO_SOURCE), skin = new BufferGeometry().setAttribute('position', new BufferAttribute(p.slice(), 3)).setIndex(new BufferAttribute(Uint32Array.from(own.flatMap(i => [t[3 * i], t[3 * i + 1], t[3 * i + 2]])), 1)), tree = new MeshBVH(skin), target = { point: new Vector3(), distance: 0, faceIndex: 0 }
    const rims = DEMO_VERSIONS[0].made(partRow(), copyRow()).parts[0].recipe.holes.map(h => h.at)
    let least = Infinity
    for (let i = 0; i < t.length / 3; i += 23) {
      if (from?.[i] !== NO_SOURCE) continue
      const v = 3 * t[3 * i], at = new Vector3(p[v], p[v + 1], p[v + 2])
      // the sides of holes reach the skin
      if (rims.some(r => at.distanceTo(new Vector3(...r)) < 4)) continue
      least = Math.min(least, tree.closestPointToPoint(at, target)?.distance ?? Infinity)
    }
    expect(least).toBeGreaterThan(0.799)
    const stand = motionOfPose(p, DEMO_JOBS.find(j => j.model === 'bell')?.pose ?? DEFAULT_POSE, 0.1) as never
    expect(new ModelScan(mesh, { pixelMm: 0.1, layerMm: 0.1 }, stand).runToEnd().cups.filter(c => c.ends === 'closed' && c.volumeMm3 > 5)).toEqual([])
  })
  it('have the heron in two, which are all of it but for pegs and sockets', async () => {
    const parts = await made('heron'), whole = volumeOf(prepareMesh(wholeOf(await readModel(readFileSync(await demoStl('heron'))))).mesh)
    expect(parts).toHaveLength(2)
    // two pegs of 1 mm and 2 mm, and sockets around them that are larger by the gap
    expect(parts.reduce((sum, f) => sum + volumeOf(f.mesh), 0) / whole).toBeCloseTo(1, 3)
    expect(parts.map(f => boundsOf(f.mesh.positions)).map(b => [b.min[2], b.max[2]].map(Math.round))).toEqual([[28, 62], [0, 30]])
  })
})

describe('sculpting', () => {
  it('gives a ball its volume and makes the same mesh every time', () => {
    const pieces = [mass([0.1, 0.2, 0.3], [4, 4, 4]), limb([0, 0, 3], [0, 0, 9], 1, 0.5, { blend: 0.5 })]
    const a = polygonize(pieces, 0.4), b = polygonize(pieces, 0.4)
    expect([...a.positions]).toEqual([...b.positions])
    expect(prepareMesh(a).report).toMatchObject({ unclosedEdges: 0, shells: 1 })
    const ball = prepareMesh(polygonize([mass([0.1, 0.2, 0.3], [4, 4, 4])], 0.3)).report.volumeMm3
    expect(ball / ((4 / 3) * Math.PI * 64)).toBeCloseTo(1, 1.7)
  })
})
