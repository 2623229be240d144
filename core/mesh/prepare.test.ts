import { describe, expect, it } from 'vitest'
import { bowl, box, reversed, sphere } from '../testing/shapes'
import { joinMeshes, prepareMesh, prepareSolid, volumeOf, weldVertices, type Mesh } from './index'

const soup = (m: Mesh): Mesh => ({ positions: Float32Array.from([...m.triangles].flatMap(v => [...m.positions.subarray(3 * v, 3 * v + 3)])), triangles: Uint32Array.from(m.triangles, (_, i) => i) })
const without = (m: Mesh, ...gone: number[]): Mesh => ({ positions: m.positions, triangles: m.triangles.filter((_, i) => !gone.includes(Math.floor(i / 3))) })

/** A box whose faces are cut into triangles one by one, each with points of its own on its edges, in a frame of any turn. */
function faceByFace(size: [number, number, number], random: () => number, turn: (p: [number, number, number]) => [number, number, number]): Mesh {
  const positions: number[] = [], triangles: number[] = []
  const put = (p: [number, number, number]): number => positions.push(...turn(p)) / 3 - 1
  for (const axis of [0, 1, 2]) {
    for (const side of [0, 1]) {
      const at = (u: number, v: number): [number, number, number] => {
        const p: [number, number, number] = [0, 0, 0]
        p[axis] = side * size[axis]
        p[(axis + 1) % 3] = u * size[(axis + 1) % 3]
        p[(axis + 2) % 3] = v * size[(axis + 2) % 3]
        return p
      }
      // around the face, with some points on every edge, as a fan about its middle
      const border: [number, number][] = []
      for (const [u0, v0, u1, v1] of [[0, 0, 1, 0], [1, 0, 1, 1], [1, 1, 0, 1], [0, 1, 0, 0]]) {
        const stops = [0, ...Array.from({ length: Math.floor(random() * 4) }, random)].sort((a, b) => a - b)
        for (const t of stops) border.push([u0 + (u1 - u0) * t, v0 + (v1 - v0) * t])
      }
      const ring = border.map(([u, v]) => put(at(u, v))), middle = put(at(0.5, 0.5))
      ring.forEach((a, i) => {
        const b = ring[(i + 1) % ring.length]
        if (side) triangles.push(middle, a, b)
        else triangles.push(middle, b, a)
      })
    }
  }
  return { positions: Float32Array.from(positions), triangles: Uint32Array.from(triangles) }
}

/** A repeatable sequence of numbers from 0 to 1. */
function numbers(seed: number): () => number {
  let s = seed
  return () => {
    s = (Math.imul(s, 1664525) + 1013904223) >>> 0
    return s / 2 ** 32
  }
}

describe('seams without width', () => {
  it('do not take a body that was cut into triangles face by face for sheets, in any frame', () => {
    for (let seed = 1; seed <= 60; seed++) {
      const random = numbers(seed), a = random() * 6, b = random() * 6, far = random() * 80
      const turn = ([x, y, z]: [number, number, number]): [number, number, number] => {
        const [p, q] = [x * Math.cos(a) - y * Math.sin(a), x * Math.sin(a) + y * Math.cos(a)]
        return [p * Math.cos(b) + z * Math.sin(b) + far, q - far, -p * Math.sin(b) + z * Math.cos(b)]
      }
      const { mesh, report } = prepareMesh(faceByFace([3, 4, 5], random, seed % 3 === 0 ? p => p : turn))
      expect([seed, report.sheets, report.shells, report.cappedLoops, report.tooDamaged]).toEqual([seed, 0, 1, 0, false])
      expect(volumeOf(mesh)).toBeCloseTo(60, 2)
      expect(prepareMesh(mesh).report.unclosedEdges).toBe(0)
    }
  })

  it('leave shells one: a cup with T-joints on its inner wall', () => {
    const cup = bowl(8, 1, 10, 2, 0, 48)
    // split three triangles of the inner wall at the middle of their longest edges, and not their neighbours
    const p = [...cup.positions], t: number[] = []
    const inner = [...Array(cup.triangles.length / 3).keys()].filter(i => [0, 1, 2].every(c => Math.abs(Math.hypot(p[3 * cup.triangles[3 * i + c]], p[3 * cup.triangles[3 * i + c] + 1]) - 7) < 1e-3))
    const split = new Set([inner[4], inner[21], inner[50]])
    for (let i = 0; i < cup.triangles.length / 3; i++) {
      const v = [0, 1, 2].map(c => cup.triangles[3 * i + c])
      if (!split.has(i)) {
        t.push(...v)
        continue
      }
      const long = [0, 1, 2].reduce((m, c) => (length(p, v[c], v[(c + 1) % 3]) > length(p, v[m], v[(m + 1) % 3]) ? c : m), 0)
      const [a, b, c] = [v[long], v[(long + 1) % 3], v[(long + 2) % 3]], middle = p.length / 3
      p.push(...[0, 1, 2].map(x => (p[3 * a + x] + p[3 * b + x]) / 2))
      t.push(a, middle, c, middle, b, c)
    }
    const { report } = prepareMesh({ positions: Float32Array.from(p), triangles: Uint32Array.from(t) })
    expect([report.unclosedEdges, report.zippedEdges, report.cappedLoops, report.shells, report.sheets, report.turnedShells]).toEqual([9, 3, 0, 1, 0, 0])
  })
})
const length = (p: readonly number[], a: number, b: number): number => Math.hypot(p[3 * a] - p[3 * b], p[3 * a + 1] - p[3 * b + 1], p[3 * a + 2] - p[3 * b + 2])

describe('vertices', () => {
  it('that nothing uses are dropped, so that they decide neither size nor place', () => {
    const ball = sphere([0, 0, 0], 5, 24)
    const sheet: Mesh = { positions: Float32Array.from([-40, -40, -60, 40, -40, -60, 40, 40, -60, -40, 40, -60]), triangles: Uint32Array.from([0, 1, 2, 0, 2, 3]) }
    const { mesh, report } = prepareMesh(joinMeshes([ball, sheet]))
    expect(report.sheets).toBe(1)
    report.sizeMm.forEach(v => expect(v).toBeCloseTo(10, 1))
    expect(mesh.positions.length / 3).toBe(ball.positions.length / 3)
    const far = prepareMesh({ positions: Float32Array.from([...ball.positions, 100, 80, 60]), triangles: Uint32Array.from([...ball.triangles, ball.positions.length / 3, ball.positions.length / 3, 0]) })
    expect(far.report.degenerateTriangles).toBe(1)
    far.report.sizeMm.forEach(v => expect(v).toBeCloseTo(10, 1))
  })
})

describe('what is without a thickness', () => {
  it('is refused: a line, a sheet, a sheet with two sides', () => {
    const triangle = (...v: number[]): Mesh => ({ positions: Float32Array.from(v), triangles: Uint32Array.from([0, 1, 2]) })
    expect(() => prepareSolid(triangle(0, 0, 0, 1, 1, 1, 2, 2, 2))).toThrow(/without a thickness/)
    expect(() => prepareSolid(triangle(0, 0, 0, 1, 0, 0, 0, 1, 0))).toThrow(/without a thickness/)
    const plate = triangle(0, 0, 0, 9, 0, 1, 0, 9, 2), ball = sphere([20, 0, 0], 2, 12)
    expect(prepareMesh(joinMeshes([plate, reversed(plate), ball])).report).toMatchObject({ sheets: 1, shells: 2 })
    // 0.01 mm is thin, and yet a thickness
    expect(prepareSolid(box([0, 0, 0], [50, 50, 0.01])).report.sheets).toBe(0)
  })
})

describe('shells within shells', () => {
  const outer = sphere([0, 0, 0], 5, 32), inner = sphere([0, 0, 0], 4, 32), core = sphere([0, 0, 0], 2, 32), hole = sphere([0, 0, 0], 1, 32)
  const hollow = volumeOf(outer) - volumeOf(inner)
  it.each<[string, Mesh[], number, number, number]>([
    ['a hollow part', [outer, reversed(inner)], hollow, 0, 1],
    ['a hollow part stored inside out, as by a mirrored export', [reversed(outer), inner], hollow, 2, 1],
    ['a solid within the cavity', [outer, reversed(inner), core], hollow + volumeOf(core), 0, 1],
    ['a solid within the cavity that faces inward', [outer, reversed(inner), reversed(core)], hollow + volumeOf(core), 1, 1],
    ['all of that inside out', [reversed(outer), inner, reversed(core)], hollow + volumeOf(core), 3, 1],
    ['four deep', [outer, reversed(inner), core, reversed(hole)], hollow + volumeOf(core) - volumeOf(hole), 0, 2],
    ['four deep, inside out', [hole, reversed(core), inner, reversed(outer)], hollow + volumeOf(core) - volumeOf(hole), 4, 2],
    ['a solid within a solid, which is no cavity', [outer, core], volumeOf(outer) + volumeOf(core), 0, 0],
    ['one part inside out, the other one not', [reversed(outer), inner, box([20, 0, 0], [22, 2, 2])], hollow + 8, 2, 1],
  ])('face the way they belong: %s', (_, meshes, volume, turned, cavities) => {
    const { report } = prepareMesh(joinMeshes(meshes))
    expect(report.volumeMm3).toBeCloseTo(volume, 2)
    expect([report.turnedShells, report.cavities]).toEqual([turned, cavities])
  })
  it('are thousands without trouble', () => {
    const bubbles: Mesh[] = []
    for (let i = 0; i < 20_000; i++) bubbles.push(reversed(box([i % 100, Math.floor(i / 100) % 100, 1 + Math.floor(i / 10_000) * 2], [(i % 100) + 0.5, (Math.floor(i / 100) % 100) + 0.5, 2 + Math.floor(i / 10_000) * 2])))
    const { report } = prepareMesh(joinMeshes([box([-1, -1, 0], [101, 101, 6]), ...bubbles]))
    expect([report.shells, report.cavities, report.turnedShells]).toEqual([20_001, 20_000, 0])
  })
})

describe('preparing a mesh', () => {
  it('welds a soup and takes −0 for 0', () => {
    expect(weldVertices(soup(box([0, 0, 0], [1, 1, 1]))).positions.length).toBe(24)
    const m = box([0, 0, 0], [1, 1, 1])
    const minus = { positions: Float32Array.from([...m.positions, ...m.positions.map(v => (v === 0 ? -0 : v))]), triangles: Uint32Array.from([...m.triangles, ...m.triangles.map(v => v + 8)]) }
    expect(weldVertices(minus).positions.length).toBe(24)
  })

  it('knows volumes (closed forms: box, sphere inscribed in its facets within half a percent)', () => {
    expect(prepareMesh(box([0, 0, 0], [2, 3, 4])).report.volumeMm3).toBeCloseTo(24, 5)
    expect(prepareMesh(sphere([5, 5, 5], 3, 128)).report.volumeMm3 / (36 * Math.PI)).toBeCloseTo(1, 2)
  })

  it('counts unclosed edges and closes the holes without a change of volume where they are flat', () => {
    const b = box([0, 0, 0], [2, 2, 2])
    const { mesh, report } = prepareMesh(without(b, 0, 1))
    expect([report.unclosedEdges, report.cappedLoops]).toEqual([4, 1])
    expect(volumeOf(mesh)).toBeCloseTo(8, 5)
    expect(prepareMesh(mesh).report.unclosedEdges).toBe(0)
  })

  it('closes several holes that share a vertex', () => {
    const s = sphere([0, 0, 0], 5, 16)
    const { mesh, report } = prepareMesh(without(s, 20, 21, 24, 25, 60, 100))
    expect(report.unclosedEdges).toBeGreaterThan(8)
    expect(prepareMesh(mesh).report.unclosedEdges).toBe(0)
  })

  it('turns inverted shells outward, keeps cavities, and tells them apart', () => {
    const outer = sphere([0, 0, 0], 5, 32), inner = reversed(sphere([0, 0, 0], 3, 32))
    expect(prepareMesh(joinMeshes([outer, inner])).report).toMatchObject({ cavities: 1, turnedShells: 0, shells: 2 })
    expect(prepareMesh(reversed(outer)).report).toMatchObject({ cavities: 0, turnedShells: 1 })
    // overlapping, not inside: an inverted solid
    expect(prepareMesh(joinMeshes([outer, reversed(sphere([5, 0, 0], 3, 32))])).report).toMatchObject({ cavities: 0, turnedShells: 1 })
  })

  it('says where a mesh is too damaged to trust', () => {
    const s = sphere([0, 0, 0], 5, 32)
    const some = Array.from({ length: 60 }, (_, i) => 40 + i * 14)
    expect(prepareMesh(without(s, ...some)).report.tooDamaged).toBe(true)
    expect(prepareMesh(without(s, 40)).report.tooDamaged).toBe(false)
  })

  it('drops triangles without an area and repeats', () => {
    const b = bowl(5, 1, 10, 2, 0, 16)
    const messy = { positions: b.positions, triangles: Uint32Array.from([...b.triangles, 0, 0, 1, ...b.triangles.subarray(0, 3)]) }
    const { report } = prepareMesh(messy)
    expect([report.degenerateTriangles, report.duplicateTriangles, report.unclosedEdges]).toEqual([1, 1, 0])
  })
})
