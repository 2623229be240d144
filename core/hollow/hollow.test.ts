import Module from 'manifold-3d'
import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import { beforeAll, describe, expect, it } from 'vitest'
import { buildTree, findCrossings, joinTrees, NearestTree, isClosed, joinMeshes, NO_SOURCE, prepareMesh, volumeOf, type Mesh } from '../mesh'
import { standOf } from '../pose'
import { DEFAULT_SETTINGS } from '../contract'
import { ModelScan } from '../scan'
import { bunnyMesh } from '../testing/bunny'
import { random as randomOf } from '../testing/random'
import { box, lathe, moved, reversed, sphere } from '../testing/shapes'
import { hollowed, HollowError, innerWall } from './index'

// Distances are asked of three-mesh-bvh, bodies built by manifold-3d: neither has a part in hollowing.
// Open data set: Stanford bunny (Stanford 3D Scanning Repository), as the npm package "bunny" carries it.
let wasm: Awaited<ReturnType<typeof Module>>
beforeAll(async () => {
  wasm = await Module()
  wasm.setup()
})

function distancesTo(mesh: Mesh): (x: number, y: number, z: number) => number {
  const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(mesh.positions, 3)).setIndex(new BufferAttribute(mesh.triangles.slice(), 1))
  const tree = new MeshBVH(geometry), at = new Vector3(), hit = { point: new Vector3(), distance: 0, faceIndex: 0 }
  return (x, y, z) => tree.closestPointToPoint(at.set(x, y, z), hit)?.distance ?? NaN
}
/** Walls in mm at the corners, the middles of edges and of faces of an inner wall. */
function wallsOf(skin: Mesh, inner: Mesh): { least: number; most: number; meanError: (wallMm: number) => number } {
  const far = distancesTo(skin), { positions: p, triangles: t } = inner, middles: number[] = []
  let least = Infinity, most = 0
  const look = (i: number, u: number, v: number, w: number): number => {
    const at = (a: number): number => u * p[3 * t[i] + a] + v * p[3 * t[i + 1] + a] + w * p[3 * t[i + 2] + a], d = far(at(0), at(1), at(2))
    least = Math.min(least, d)
    most = Math.max(most, d)
    return d
  }
  for (let i = 0; i < t.length; i += 3) {
    look(i, 1, 0, 0)
    for (const [u, v, w] of [[0.5, 0.5, 0], [0, 0.5, 0.5], [0.5, 0, 0.5]]) look(i, u, v, w)
    middles.push(look(i, 1 / 3, 1 / 3, 1 / 3))
  }
  return { least, most, meanError: wallMm => middles.reduce((sum, d) => sum + Math.abs(d - wallMm), 0) / middles.length }
}
function solidOf(mesh: Mesh) {
  return new wasm.Manifold(new wasm.Mesh({ numProp: 3, vertProperties: mesh.positions, triVerts: mesh.triangles }))
}
/** A wedge: two faces of 40 mm that meet under an angle. */
function wedge(angleDeg: number): Mesh {
  const a = (angleDeg * Math.PI) / 180, corners = [[0, 0], [40, 0], [40 * Math.cos(a), 40 * Math.sin(a)]]
  return {
    positions: Float32Array.from([0, 30].flatMap(y => corners.flatMap(([x, z]) => [x, y, z]))),
    triangles: Uint32Array.from([0, 1, 2, 3, 5, 4, 0, 3, 4, 0, 4, 1, 1, 4, 5, 1, 5, 2, 2, 5, 3, 2, 3, 0]),
  }
}

describe('the nearest point of a surface', () => {
  it('is what another search finds, with hints or without, and nothing where nothing is near', () => {
    const mesh = bunnyMesh(), tree = new NearestTree(mesh), far = distancesTo(mesh), random = randomOf(5)
    let hint = -1
    for (let n = 0; n < 3000; n++) {
      const [x, y, z] = [60 * random() - 30, 60 * random() - 30, 50 * random() - 5]
      tree.ask(x, y, z, hint)
      expect(tree.distance).toBeCloseTo(far(x, y, z), 4)
      expect(Math.hypot(tree.x - x, tree.y - y, tree.z - z)).toBeCloseTo(tree.distance, 6)
      hint = tree.at
    }
    tree.ask(200, 0, 0, -1, 5)
    expect([tree.at, tree.distance]).toEqual([-1, 5])
  })
  it('is the same where the two halves of the tree were built by themselves', () => {
    const mesh = bunnyMesh(), whole = new NearestTree(mesh), halves = new NearestTree(joinTrees(buildTree(mesh, 0), buildTree(mesh, 1))), random = randomOf(6)
    for (let n = 0; n < 2000; n++) {
      const [x, y, z] = [60 * random() - 30, 60 * random() - 30, 50 * random() - 5], told = [whole, halves].map(tree => {
        tree.ask(x, y, z)
        return [tree.distance, tree.at, tree.x, tree.y, tree.z, tree.winding(x, y, z)]
      })
      expect(told[1]).toEqual(told[0])
    }
  })
  it('lies around what is within, by how often a ray goes through it (Reference library: three-mesh-bvh)', () => {
    const mesh = joinMeshes([bunnyMesh(), reversed(sphere([0, 0, 15], 3, 32))]), tree = new NearestTree(mesh), random = randomOf(8)
    const theirs = new MeshBVH(new BufferGeometry().setAttribute('position', new BufferAttribute(mesh.positions, 3)).setIndex(new BufferAttribute(mesh.triangles.slice(), 1)))
    let within = 0
    for (let n = 0; n < 3000; n++) {
      const [x, y, z] = [60 * random() - 30, 60 * random() - 30, 50 * random() - 5]
      const winding = theirs.raycast(new Ray(new Vector3(x, y, z), new Vector3(0, 1, 0)), DoubleSide).reduce((sum, hit) => sum + ((hit.face?.normal.y ?? 0) > 0 ? 1 : -1), 0)
      expect(tree.winding(x, y, z)).toBe(winding)
      within += winding
    }
    expect(within).toBeGreaterThan(200)
  })
})

describe('an inner wall', () => {
  it('of a ball is a ball', async () => {
    const ball = sphere([0, 0, 0], 10, 128), inner = await innerWall(ball, 2, 0.4), { least, meanError } = wallsOf(ball, inner)
    // closed form: 4/3 · π · 8³
    expect(-volumeOf(inner)).toBeGreaterThan(0.997 * (4 / 3) * Math.PI * 512)
    expect(-volumeOf(inner)).toBeLessThan((4 / 3) * Math.PI * 512)
    expect(least).toBeGreaterThanOrEqual(2)
    expect(meanError(2)).toBeLessThan(0.004)
  })

  it('of a box is a box, its corners cut by no more than a cell', async () => {
    const cube = box([0, 0, 0], [20.03, 20.03, 20.03]), inner = await innerWall(cube, 2, 0.4), { least, meanError } = wallsOf(cube, inner)
    // closed form: 16.03³; what is cut off lies along twelve edges
    expect(-volumeOf(inner)).toBeLessThan(16.03 ** 3)
    expect(-volumeOf(inner)).toBeGreaterThan(16.03 ** 3 - 12 * 16.03 * 0.4 ** 2)
    expect(least).toBeGreaterThanOrEqual(2)
    expect(meanError(2)).toBeLessThan(0.01)
  })

  it('of a ring is a ring', async () => {
    const ring = lathe([...Array.from({ length: 65 }, (_, i): [number, number] => [14 + 6 * Math.sin(Math.PI * (i / 32)), -6 * Math.cos(Math.PI * (i / 32))])], 128)
    const solid = prepareMesh(ring).mesh, inner = await innerWall(solid, 1.5, 0.5)
    // closed form: 2 π² · 14 · 4.5²
    expect(-volumeOf(inner) / (2 * Math.PI ** 2 * 14 * 4.5 ** 2)).toBeCloseTo(1, 2)
    expect(wallsOf(solid, inner).least).toBeGreaterThanOrEqual(1.5)
  })

  it('of a wedge is a wedge that begins where the two walls meet', async () => {
    const solid = wedge(40), inner = await innerWall(solid, 2, 0.25), xs = inner.positions.filter((_, i) => i % 3 === 0)
    // closed form: along the bisector by wall / sin(half the angle)
    const tip = (2 / Math.sin((20 * Math.PI) / 180)) * Math.cos((20 * Math.PI) / 180)
    expect(Math.min(...xs)).toBeGreaterThanOrEqual(tip - 1e-3)
    expect(Math.min(...xs)).toBeLessThan(tip + 0.5)
    expect(wallsOf(solid, inner).least).toBeGreaterThanOrEqual(2)
  })

  it('of the bunny is nowhere thinner than asked, closed, and runs through nothing', async () => {
    const bunny = prepareMesh(bunnyMesh()).mesh, inner = await innerWall(bunny, 2, 0.4), { least, meanError } = wallsOf(bunny, inner)
    expect(least).toBeGreaterThanOrEqual(2)
    expect(meanError(2)).toBeLessThan(0.012)
    expect(isClosed(inner)).toBe(true)
    expect(findCrossings(joinMeshes([bunny, inner]), 10).pairs).toBe(0)
    const shell = solidOf(joinMeshes([bunny, inner]))
    expect(shell.status()).toBe('NoError')
    expect(shell.volume()).toBeCloseTo(volumeOf(bunny) + volumeOf(inner), 1)
    shell.delete()
  })
})

describe('a part that is hollowed', () => {
  it('keeps the numbers of its skin, and says what was taken out of where', async () => {
    const cube = box([0, 0, 0], [20, 20, 20]), { mesh, chambers, hollowMm3, solidMm3 } = await hollowed(cube, { wallMm: 2, cellMm: 0.5 })
    expect(Array.from(mesh.from?.subarray(0, 13) ?? [])).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, NO_SOURCE])
    expect(Array.from(mesh.triangles.subarray(0, 36))).toEqual(Array.from(cube.triangles))
    expect(solidMm3).toBeCloseTo(8000, 3)
    expect(volumeOf(mesh)).toBeCloseTo(solidMm3 - hollowMm3, 1)
    expect(chambers).toHaveLength(1)
    expect(chambers[0].box.min.every(v => Math.abs(v - 2) < 0.01)).toBe(true)
  })

  it('falls into chambers where it narrows; one that is too small stays solid', async () => {
    const profile: [number, number][] = [[0, 0], [8, 0], [8, 16], [1.9, 19], [1.9, 22], [6, 25], [6, 35], [1.9, 37], [1.9, 38], [2.8, 39], [2.8, 43.6], [0, 43.6]]
    const { chambers, leftSolid } = await hollowed(lathe(profile, 96), { wallMm: 2, cellMm: 0.4 })
    expect(chambers.map(c => c.box.min[2] > 20)).toEqual([false, true])
    expect(chambers[0].volumeMm3).toBeGreaterThan(chambers[1].volumeMm3)
    expect(leftSolid.count).toBe(1)
    expect(leftSolid.volumeMm3).toBeGreaterThan(1)
  })

  it('takes a closed space in that would lie loose in the hollow', async () => {
    const { mesh, chambers } = await hollowed(joinMeshes([sphere([0, 0, 0], 12, 64), reversed(sphere([0, 0, 0], 3, 32))]), { wallMm: 2, cellMm: 0.5 })
    expect(chambers).toHaveLength(1)
    expect(chambers[0].volumeMm3 / ((4 / 3) * Math.PI * 1000)).toBeCloseTo(1, 1)
    expect(prepareMesh(mesh).report.shells).toBe(2)
  })

  it('is refused with what helps where it is too thin, open, or the cells are too coarse', async () => {
    const code = (made: Promise<unknown>): Promise<string> => made.then(() => 'none', (error: unknown) => (error instanceof HollowError ? error.code : 'none'))
    const cube = box([0, 0, 0], [10, 10, 3])
    expect(await code(hollowed(cube, { wallMm: 2, cellMm: 0.4 }))).toBe('too-thin')
    expect(await code(hollowed({ ...cube, triangles: cube.triangles.slice(3) }, { wallMm: 1, cellMm: 0.2 }))).toBe('not-closed')
    expect(await code(hollowed(cube, { wallMm: 1, cellMm: 0.6 }))).toBe('coarse')
  })
})

describe('a hollow that carries itself', () => {
  const carrying = { slopeDeg: DEFAULT_SETTINGS.slopeDeg, flapMm: DEFAULT_SETTINGS.flapMm, up: [0, 0, 1] as const }
  /** What begins in the air or juts out too far within the box of the hollow, by the scan. */
  const inside = (mesh: Mesh, margin: number): { islands: number; ledges: number } => {
    const scan = new ModelScan(mesh, { pixelMm: 0.05, layerMm: 0.05 }, standOf(mesh.positions, { tiltXDeg: 0, tiltYDeg: 0, liftMm: 0 }, 0.05)).runToEnd()
    const within = ([x, y, z]: readonly number[]): boolean => Math.abs(x) < margin && Math.abs(y) < margin && z > 1
    return { islands: scan.islands.filter(i => within(i.aim)).length, ledges: scan.ledges.filter(l => within(l.at)).length }
  }

  it('has a roof instead of a flat ceiling, and no ledge that the scan would find', async () => {
    const cube = box([-12, -12, 0], [12, 12, 24]), plain = await hollowed(cube, { wallMm: 2, cellMm: 0.3 }), shaped = await hollowed(cube, { wallMm: 2, cellMm: 0.3, carrying })
    expect(inside(plain.mesh, 10.5).ledges).toBeGreaterThan(0)
    expect(inside(shaped.mesh, 10.5)).toEqual({ islands: 0, ledges: 0 })
    // a roof at 45° over a square of 20 mm takes a pyramid less than this
    expect(plain.hollowMm3 - shaped.hollowMm3).toBeLessThan(20 ** 3 - 20 ** 2 * 10 / 3)
    expect(wallsOf(cube, { positions: shaped.mesh.positions, triangles: shaped.mesh.triangles.slice(36) }).least).toBeGreaterThanOrEqual(2)
  })

  it('leads what hangs into it down to a wall', async () => {
    // a dent from above comes down into the hollow as a peg
    const cube = solidOf(box([-15, -15, 0], [15, 15, 30])), dent = solidOf(moved(lathe([[0, 0], [3, 3], [3, 20], [0, 20]], 48), [4, 0, 16]))
    const cut = cube.subtract(dent).getMesh(), mesh: Mesh = { positions: cut.vertProperties, triangles: cut.triVerts }
    expect(inside((await hollowed(mesh, { wallMm: 2, cellMm: 0.3 })).mesh, 12.5).islands).toBeGreaterThan(0)
    expect(inside((await hollowed(mesh, { wallMm: 2, cellMm: 0.3, carrying })).mesh, 12.5)).toEqual({ islands: 0, ledges: 0 })
  })

  it('of another way up is the same turned', async () => {
    const cube = box([-12, -12, -12], [12, 12, 12]), up = await hollowed(cube, { wallMm: 2, cellMm: 0.4, carrying }), aside = await hollowed(cube, { wallMm: 2, cellMm: 0.4, carrying: { ...carrying, up: [0, -1, 0] } })
    expect(aside.hollowMm3 / up.hollowMm3).toBeCloseTo(1, 2)
  })
})
