import { BufferAttribute, BufferGeometry, Vector3 } from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import { describe, expect, it } from 'vitest'
import { boundsOf, cross, NearestTree, unit, type Mesh } from '../mesh'
import { bunnyMesh } from '../testing/bunny'
import { random as randomOf } from '../testing/random'
import { box, sphere } from '../testing/shapes'
import { EmptyBalls } from './empty-balls'
import { frameAround } from './grid-frame'
import { UnitSearch } from './unit-search'
import { WallGrid } from './wall-grid'

// Distances of all places are asked of three-mesh-bvh. Open data set: Stanford bunny (Stanford 3D Scanning Repository), by the npm package "bunny".
type Far = (x: number, y: number, z: number) => number
function distancesTo(mesh: Mesh): Far {
  const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(mesh.positions, 3)).setIndex(new BufferAttribute(mesh.triangles.slice(), 1))
  const tree = new MeshBVH(geometry), at = new Vector3(), hit = { point: new Vector3(), distance: 0, faceIndex: 0 }
  return (x, y, z) => tree.closestPointToPoint(at.set(x, y, z), hit)?.distance ?? NaN
}
/** A grid that knows all that is near the wall. */
function gridIn(mesh: Mesh, wallMm: number, cellMm: number): WallGrid {
  const frame = frameAround(mesh, cellMm), grid = new WallGrid(frame, wallMm), search = new UnitSearch(frame, wallMm), tree = new NearestTree(mesh), [a, b, c] = frame.units
  for (let unit = 0; unit < a * b * c; unit++) grid.take(search.find(unit, tree))
  return grid
}
const SHAPES: readonly (readonly [string, Mesh, number])[] = [['the bunny', bunnyMesh(), 2], ['a ball', sphere([0, 0, 0], 6), 1.5], ['a box', box([-5, -4, -3], [5, 4, 3]), 1]]

describe('how far skin is, by what is known around a place (Reference library: three-mesh-bvh)', () => {
  it.each(SHAPES)('is told at the nodes of a grid near the wall: %s', (_, mesh, wallMm) => {
    const far = distancesTo(mesh), cellMm = 0.4, grid = gridIn(mesh, wallMm, cellMm), [x0, y0, z0] = grid.frame.origin
    let nodes = 0, worst = 0
    for (let b = 0; b < grid.boxes.length; b += 3) for (let n = 0; n < 27; n++) {
      const [i, j, k] = [grid.boxes[b] + n % 3, grid.boxes[b + 1] + (n / 3 | 0) % 3, grid.boxes[b + 2] + (n / 9 | 0)]
      worst = Math.max(worst, Math.abs(Math.abs(grid.values.get(i, j, k) + wallMm) - far(x0 + i * cellMm, y0 + j * cellMm, z0 + k * cellMm)))
      nodes++
    }
    expect(worst).toBeLessThan(1e-4)
    expect(nodes).toBeGreaterThan(1000)
  })
  it.each(SHAPES)('is nowhere nearer than in the box that nodes leave: %s', (_, mesh, wallMm) => {
    const far = distancesTo(mesh), tree = new NearestTree(mesh), grid = gridIn(mesh, wallMm, 0.4), { min, max } = boundsOf(mesh.positions), random = randomOf(11)
    let told = 0
    for (let n = 0; n < 20_000; n++) {
      const [x, y, z] = [0, 1, 2].map(a => min[a] + random() * (max[a] - min[a])), hint = Math.floor(random() * (mesh.triangles.length / 3)), near = grid.around(x, y, z, n % 2 ? far(x, y, z) * (1 + 0.1 * random()) + 1e-6 : tree.distanceTo(hint, x, y, z))
      if (!near) continue
      told++
      tree.askIn(near, x, y, z, -1, Infinity)
      expect(Math.abs(tree.distance - far(x, y, z))).toBeLessThan(1e-4)
    }
    expect(told).toBeGreaterThan(100)
  })
  it.each(SHAPES)('is told for places between corners, where it is nearer than a limit: %s', (_, mesh, wallMm) => {
    const far = distancesTo(mesh), tree = new NearestTree(mesh), grid = gridIn(mesh, wallMm, 0.4), random = randomOf(7), { min, max } = boundsOf(mesh.positions), balls = new Float64Array(16)
    let nearer = 0, farther = 0
    for (let n = 0; n < 6000; n++) {
      const at = [0, 1, 2].map(a => min[a] + random() * (max[a] - min[a])), size = 0.05 + 0.4 * random(), edge = n % 2 === 1, count = edge ? 4 : 3
      // corners around it in some plane, a little off that and off an even spread
      const u = unit([random() - 0.5, random() - 0.5, random() - 0.5]), v = unit(cross(u, [random() - 0.5, random() - 0.5, random() - 0.5])), w = cross(u, v)
      for (let c = 0; c < count; c++) {
        const angle = (2 * Math.PI * c) / count + 0.5 * (random() - 0.5), off = 0.1 * size * (random() - 0.5), corner = at.map((p, a) => p + size * (Math.cos(angle) * u[a] + Math.sin(angle) * v[a]) + off * w[a])
        balls.set([...corner, far(corner[0], corner[1], corner[2])], 4 * c)
      }
      const [x, y, z] = at, is = far(x, y, z), limit = is + 0.02 * (random() - 0.5)
      if (limit < 0.2) continue
      const told = new EmptyBalls(balls, tree, grid, limit).distance(x, y, z, 0, 1, 2, edge ? 3 : -1, Math.floor(random() * (mesh.triangles.length / 3)))
      expect(Math.abs(told - Math.min(is, limit))).toBeLessThan(1e-4)
      if (is < limit) nearer++
      else farther++
    }
    expect(Math.min(nearer, farther)).toBeGreaterThan(500)
  })
  it.each(SHAPES)('is known not to be nearer after a place between corners went off from it: %s', (_, mesh, wallMm) => {
    const far = distancesTo(mesh), tree = new NearestTree(mesh), grid = gridIn(mesh, wallMm, 0.4), random = randomOf(3), { min, max } = boundsOf(mesh.positions), balls = new Float64Array(16)
    let off = 0, near = 0
    for (let n = 0; n < 20_000; n++) {
      const from = [0, 1, 2].map(a => min[a] + random() * (max[a] - min[a])) as [number, number, number]
      tree.ask(...from)
      if (tree.distance < 0.5) continue
      // about a wall away, with corners around it across the way to the skin
      const away = unit([from[0] - tree.x, from[1] - tree.y, from[2] - tree.z]), was = [0, 1, 2].map(a => [tree.x, tree.y, tree.z][a] + away[a] * wallMm * (1 + 0.004 * (random() - 0.5)))
      const u = unit(cross(away, [random() - 0.5, random() - 0.5, random() - 0.5])), v = cross(away, u), size = 0.1 + 0.2 * random(), count = n % 2 ? 4 : 3
      for (let c = 0; c < count; c++) {
        const angle = (2 * Math.PI * c) / count, corner = was.map((p, a) => p + size * (Math.cos(angle) * u[a] + Math.sin(angle) * v[a]))
        balls.set([...corner, far(corner[0], corner[1], corner[2])], 4 * c)
      }
      const wasMm = Math.min(far(was[0], was[1], was[2]), wallMm), mm = 0.01 * random(), aside = 0.3 * (random() - 0.5), step = [0, 1, 2].map(a => mm * (away[a] + aside * u[a])) as [number, number, number], at = was.map((p, a) => p + step[a]) as [number, number, number]
      if (!new EmptyBalls(balls, tree, grid, wallMm).isFarAfter(at, step, wasMm, 0, 1, 2, count === 4 ? 3 : -1)) {
        near++
        continue
      }
      off++
      expect(far(...at)).toBeGreaterThan(wallMm - 1e-5)
    }
    expect(Math.min(off, near)).toBeGreaterThan(100)
  })
})
