import bunny from 'bunny'
import teapot from 'teapot'
import Module from 'manifold-3d'
import { Vector3 } from 'three'
import { klein, mobius } from 'three/addons/geometries/ParametricFunctions.js'
import { ParametricGeometry } from 'three/addons/geometries/ParametricGeometry.js'
import { TeapotGeometry } from 'three/addons/geometries/TeapotGeometry.js'
import { ExtendedTriangle } from 'three-mesh-bvh'
import { describe, expect, it } from 'vitest'
import { random } from '../../testing/random'
import { bowl, box, moved, reversed, sphere } from '../../testing/shapes'
import { decodeMesh, encodeMesh, findCrossings, joinMeshes, MENDED, NO_SOURCE, prepareMesh, volumeOf, weldVertices, type FaultKind, type Mesh, type PreparedMesh } from '../index'

const ball = sphere([1, 2, 3], 5, 32)
const faces = (m: Mesh): number => m.triangles.length / 3
/** The same triangles, some of them turned. */
function turned(m: Mesh, which: readonly number[]): Mesh {
  const triangles = m.triangles.slice()
  for (const i of which) [triangles[3 * i + 1], triangles[3 * i + 2]] = [triangles[3 * i + 2], triangles[3 * i + 1]]
  return { positions: m.positions, triangles }
}
const without = (m: Mesh, which: readonly number[]): Mesh => ({ positions: m.positions, triangles: m.triangles.filter((_, i) => !which.includes(Math.floor(i / 3))) })
const countsOf = ({ faults }: PreparedMesh): Partial<Record<FaultKind, number>> => Object.fromEntries(faults.map(f => [f.kind, f.count]))
const checked = (m: Mesh): PreparedMesh => prepareMesh(m, { crossings: true })

const wasm = await Module()
wasm.setup()
/** Whether a general-purpose library takes it for a solid (reference library: manifold-3d 3.5). */
function isSolid(m: Mesh): boolean {
  try {
    const solid = new wasm.Manifold(new wasm.Mesh({ numProp: 3, vertProperties: m.positions, triVerts: m.triangles }))
    const sound = solid.status() === 'NoError'
    solid.delete()
    return sound
  } catch {
    return false
  }
}

describe('a sound mesh', () => {
  it.each<[string, Mesh]>([['a ball', ball], ['a bowl', bowl(8, 1, 10, 2, 0, 48)], ['two boxes apart', joinMeshes([box([0, 0, 0], [1, 1, 1]), box([3, 0, 0], [4, 1, 1])])]])('has no fault: %s', (_, m) => {
    const prepared = checked(m)
    expect([prepared.faults, prepared.asCame, prepared.report.crossingPairs]).toEqual([[], null, 0])
    expect(isSolid(prepared.mesh)).toBe(true)
  })
})

describe('known damage', () => {
  it.each<[string, Mesh, Partial<Record<FaultKind, number>>, number]>([
    ['five faces turned', turned(ball, [3, 100, 101, 200, 400]), { flipped: 5 }, volumeOf(ball)],
    ['a third of the faces turned', turned(ball, Array.from({ length: Math.floor(faces(ball) / 3) }, (_, i) => i)), { flipped: Math.floor(faces(ball) / 3) }, volumeOf(ball)],
    ['all of it inside out', reversed(ball), { 'inside-out': 1 }, volumeOf(ball)],
    ['one face missing', without(ball, [200]), { unclosed: 3 }, volumeOf(ball)],
    ['every face twice', joinMeshes([ball, ball]), { repeated: faces(ball) }, volumeOf(ball)],
    ['a few faces twice', { positions: ball.positions, triangles: Uint32Array.from([...ball.triangles, ...ball.triangles.subarray(0, 12)]) }, { repeated: 4 }, volumeOf(ball)],
    ['faces without a size', { positions: ball.positions, triangles: Uint32Array.from([...ball.triangles, 5, 5, 6, 7, 8, 8]) }, { collapsed: 2 }, volumeOf(ball)],
    ['a sheet beside it', joinMeshes([ball, { positions: Float32Array.from([20, 0, 0, 24, 0, 0, 24, 4, 0, 20, 4, 0]), triangles: Uint32Array.from([0, 1, 2, 0, 2, 3]) }]), { unclosed: 4, sheet: 1 }, volumeOf(ball)],
    ['a hollow in it', joinMeshes([ball, reversed(sphere([1, 2, 3], 2, 16))]), { cavity: 1 }, volumeOf(ball) - volumeOf(sphere([1, 2, 3], 2, 16))],
    ['solid within it', joinMeshes([ball, sphere([1, 2, 3], 2, 16)]), { within: 1 }, volumeOf(ball) + volumeOf(sphere([1, 2, 3], 2, 16))],
    // Published: an edge of four faces is what the 3MF Core Specification 1.3, 4.1.4, calls not manifold
    ['two boxes that share an edge', joinMeshes([box([0, 0, 0], [1, 1, 1]), box([1, 1, 0], [2, 2, 1])]), { 'many-faced': 1 }, 2],
  ])('is found, and mended where it is safe: %s', (_, m, counts, volume) => {
    const prepared = checked(m)
    expect(countsOf(prepared)).toEqual(counts)
    expect(volumeOf(prepared.mesh)).toBeCloseTo(volume, 2)
    // once mended there is nothing more to mend
    const again = checked(prepared.mesh)
    expect(again.faults.filter(f => MENDED.has(f.kind))).toEqual([])
    // what it was is kept
    const mends = Object.keys(counts).some(k => MENDED.has(k as FaultKind) && k !== 'collapsed')
    expect(prepared.asCame === null).toBe(!mends)
  })

  it('tells where it is', () => {
    const [flipped] = checked(turned(ball, [100])).faults, { positions: p, triangles: t } = ball
    const corners = [0, 1, 2].map(c => [0, 1, 2].map(x => p[3 * t[300 + c] + x]))
    const ends = Array.from({ length: 6 }, (_, i) => [...flipped.segments.subarray(3 * i, 3 * i + 3)])
    for (const corner of corners) expect(ends.filter(e => e.every((v, x) => v === corner[x]))).toHaveLength(2)
    const [open] = checked(without(ball, [100])).faults
    expect(open.segments).toHaveLength(18)
  })

  it('leaves what has one side only as it is', () => {
    for (const [name, make] of [['mobius', mobius], ['klein', klein]] as const) {
      const g = new ParametricGeometry((u: number, v: number, to: Vector3) => make(u, v, to), 24, 12)
      const { faults } = checked({ positions: Float32Array.from(g.attributes.position.array), triangles: Uint32Array.from(g.index?.array ?? []) })
      expect([name, faults.some(f => f.kind === 'flipped')]).toEqual([name, false])
    }
  })

  it('names the triangle of the file that each comes from', () => {
    const m = turned(without({ positions: ball.positions, triangles: Uint32Array.from([7, 7, 8, ...ball.triangles, ...ball.triangles.subarray(30, 36)]) }, [50]), [80])
    const { mesh, asCame } = checked(m)
    for (const made of [mesh, asCame as Mesh]) {
      const { from } = decodeMesh(encodeMesh(made).buffer as ArrayBuffer)
      expect(from).toHaveLength(faces(made))
      const points = (of: Mesh, i: number): string => [0, 1, 2].map(c => [...of.positions.subarray(3 * of.triangles[3 * i + c], 3 * of.triangles[3 * i + c] + 3)].join()).sort().join(' ')
      let known = 0
      from?.forEach((source, i) => {
        if (source === NO_SOURCE) return
        known++
        expect(points(made, i)).toBe(points(m, source))
      })
      // one hole was closed by one face
      expect(faces(made) - known).toBe(made === mesh ? 1 : 0)
    }
  })

  it('is any mixture of it: a ball with holes, turned faces and repeats has its volume again', () => {
    const r = random(11), whole = sphere([0, 0, 0], 6, 48)
    for (let round = 0; round < 25; round++) {
      const some = (n: number): number[] => Array.from({ length: n }, () => Math.floor(r() * faces(whole)))
      const gone = some(Math.floor(r() * 6)), m = turned(without(whole, gone), some(1 + Math.floor(r() * 40)).filter(i => i < faces(whole) - 8))
      const extra = Array.from({ length: 5 }, () => Math.floor(r() * faces(m))).flatMap(i => [...m.triangles.subarray(3 * i, 3 * i + 3)])
      const { mesh, report } = checked({ positions: m.positions, triangles: Uint32Array.from([...m.triangles, ...extra]) })
      expect(report.tooDamaged).toBe(false)
      expect(Math.abs(volumeOf(mesh) / volumeOf(whole) - 1)).toBeLessThan(2e-3)
      expect(isSolid(mesh)).toBe(true)
    }
  })
})

describe('faces that cross', () => {
  /** All pairs one by one (reference library: three-mesh-bvh 0.9 ExtendedTriangle). */
  function byHand(m: Mesh): number {
    const triangle = (i: number): ExtendedTriangle => {
      const t = new ExtendedTriangle(...([0, 1, 2].map(c => new Vector3().fromArray(m.positions, 3 * m.triangles[3 * i + c])) as [Vector3, Vector3, Vector3]))
      t.needsUpdate = true
      return t
    }
    const all = Array.from({ length: faces(m) }, (_, i) => triangle(i))
    let pairs = 0
    for (let i = 0; i < all.length; i++) {
      for (let j = i + 1; j < all.length; j++) {
        const near = [0, 1, 2].some(a => [0, 1, 2].some(b => m.triangles[3 * i + a] === m.triangles[3 * j + b]))
        if (!near && all[i].intersectsTriangle(all[j])) pairs++
      }
    }
    return pairs
  }

  it('are as many as another library finds pair by pair', () => {
    const r = random(5)
    for (let round = 0; round < 6; round++) {
      const at = (): [number, number, number] => [4 * r() - 2, 4 * r() - 2, 4 * r() - 2]
      const m = joinMeshes([sphere(at(), 2 + r(), 12), moved(box([-1, -1, -1], [1, 2, 1.5]), at()), sphere(at(), 1.5, 10)])
      expect(findCrossings(m, 10).pairs).toBe(byHand(m))
    }
  })

  it('lie where both faces are', () => {
    const a = box([0, 0, 0], [4, 4, 1]), m = joinMeshes([a, moved(a, [1.3, 1.7, 0.45])]), { pairs, segments } = findCrossings(m, 1000)
    expect(pairs).toBeGreaterThan(8)
    for (let i = 0; i < segments.length; i += 3) {
      const on = (by: readonly number[]): boolean => [0, 1, 2].some(c => [0, a.positions[3 * 7 + c]].some(v => Math.abs(segments[i + c] - by[c] - v) < 1e-5))
      expect(on([0, 0, 0]) && on([1.3, 1.7, 0.45])).toBe(true)
    }
  })

  it('are none where faces only touch, share a corner, or lie in one plane', () => {
    const one = box([0, 0, 0], [2, 2, 2])
    for (const by of [[2, 0, 0], [2, 2, 2], [2, 1, 0.5], [0, 0, 2]] as const) expect(findCrossings(joinMeshes([one, moved(one, by)]), 10).pairs).toBe(0)
    expect(findCrossings(weldVertices(joinMeshes([one, moved(one, [2, 2, 0])])), 10).pairs).toBe(0)
  })
})

describe('real meshes', () => {
  // Open data sets: the Stanford bunny (npm bunny), sound; the Utah teapot (npm teapot), with holes, and as three 0.187 makes it of patches
  const patches = new TeapotGeometry(5, 8)
  const of = ({ positions, cells }: { readonly positions: readonly (readonly number[])[]; readonly cells: readonly (readonly number[])[] }): Mesh => ({ positions: Float32Array.from(positions.flat()), triangles: Uint32Array.from(cells.flat()) })
  it.each<[string, Mesh, boolean]>([
    ['the bunny', of(bunny), false], ['the teapot', of(teapot), true],
    ['the teapot in patches', { positions: Float32Array.from(patches.attributes.position.array), triangles: Uint32Array.from(patches.index?.array ?? []) }, true],
  ])('come out closed: %s', (_, m, open) => {
    const prepared = checked(m)
    expect((countsOf(prepared).unclosed ?? 0) > 0).toBe(open)
    expect(checked(prepared.mesh).report.unclosedEdges).toBe(0)
    expect(volumeOf(prepared.mesh)).toBeGreaterThan(0)
  })
})
