import { readFileSync } from 'node:fs'
import Module from 'manifold-3d'
import { BufferAttribute, BufferGeometry, Vector3 } from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import { cutBy, drilled, type Hole } from '../core/carve'
import { boreAt } from '../core/finish'
import { wallThreads } from '../cli/wall-threads'
import { hollowed, innerWall, type WallHelper } from '../core/hollow'
import { boundsOf, findCrossings, NearestTree, prepareMesh, readModel, volumeOf, wholeOf, type Mesh } from '../core/mesh'
import { standOf } from '../core/pose'
import { ModelScan } from '../core/scan'
import { bunnyMesh } from '../core/testing/bunny'
import { knot } from '../core/testing/shapes'
import { demoStl } from '../server'
import { median, timed } from './timing'

// Hollowing beside a full scan of the same part, its nearest points beside three-mesh-bvh answering the same questions, holes beside
// manifold-3d alone; in one run, medians of three, on one core but for the hollow on all of them. Walls are measured by three-mesh-bvh.
const raster = { pixelMm: 0.05, layerMm: 0.05 }
const ASKED = 20_000

const threads = wallThreads()
const wasm = await Module()
wasm.setup()

/** Looks at the wall at some corners, edges and faces; answers the same questions with the tree of the hollow. */
function look(skin: Mesh, { positions: p, triangles: t }: Mesh, wallMm: number): string {
  const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(skin.positions, 3)).setIndex(new BufferAttribute(skin.triangles.slice(), 1))
  const theirs = new MeshBVH(geometry), ours = new NearestTree(skin), points: [number, number, number][] = [], step = Math.max(1, Math.floor(t.length / 3 / (ASKED / 4)))
  for (let i = 0; i < t.length / 3; i += step) {
    for (const [u, v, w] of [[1 / 3, 1 / 3, 1 / 3], [0.5, 0.5, 0], [0, 0.5, 0.5], [0.5, 0, 0.5]]) points.push([0, 1, 2].map(a => u * p[3 * t[3 * i] + a] + v * p[3 * t[3 * i + 1] + a] + w * p[3 * t[3 * i + 2] + a]) as [number, number, number])
  }
  const at = new Vector3(), hit = { point: new Vector3(), distance: 0, faceIndex: 0 }
  const [distances, theirMs] = timed(() => points.map(([x, y, z]) => theirs.closestPointToPoint(at.set(x, y, z), hit)?.distance ?? NaN))
  const [own, ourMs] = timed(() => {
    let hint = -1
    return points.map(([x, y, z]) => {
      ours.ask(x, y, z, hint)
      hint = ours.at
      return ours.distance
    })
  })
  const apart = Math.max(...distances.map((d, i) => Math.abs(d - own[i]))), mean = distances.filter((_, i) => i % 4 === 0).reduce((sum, d, _, all) => sum + Math.abs(d - wallMm) / all.length, 0)
  return `wall ${Math.min(...distances).toFixed(4)} to ${Math.max(...distances).toFixed(3)} of ${wallMm} mm, mean error ${(1000 * mean).toFixed(1)} µm; ${points.length.toLocaleString('en')} nearest points ${(1000 * ourMs / points.length).toFixed(1)} µs each, three-mesh-bvh ${(1000 * theirMs / points.length).toFixed(1)} µs, answers apart by ${apart.toExponential(0)} mm`
}

async function hollowOf(name: string, mesh: Mesh, wallMm: number, cellMm: number): Promise<void> {
  const one = median(Array.from({ length: 3 }, () => timed(() => new ModelScan(mesh, raster, standOf(mesh.positions, { tiltXDeg: 0, tiltYDeg: 0, liftMm: 5 }, 0.05)).runToEnd())[1]))
  const made = async (crew: readonly WallHelper[]): Promise<[Mesh, number]> => {
    const start = performance.now(), wall = await innerWall(mesh, wallMm, cellMm, { helpers: crew })
    return [wall, performance.now() - start]
  }
  const alone: number[] = [], together: number[] = []
  let rss = 0
  for (let i = 0; i < 3; i++) {
    alone.push((await made([]))[1])
    if (i === 0) rss = process.memoryUsage().rss / 1e6
    together.push((await made(threads.helpers))[1])
  }
  const [inner] = await made(threads.helpers), ms = median(alone), shared = median(together)
  const { mesh: shell, hollowMm3, chambers, leftSolid } = await hollowed(mesh, { wallMm, cellMm })
  console.log(`${name}: ${(mesh.triangles.length / 3).toLocaleString('en')} triangles; a full scan ${one.toFixed(0)} ms`)
  console.log(`  hollow at ${cellMm} mm: ${ms.toFixed(0)} ms on one core, ${shared.toFixed(0)} ms on ${threads.helpers.length + 1}, ${(ms / one).toFixed(2)} and ${(shared / one).toFixed(2)} full scans, process ${rss.toFixed(0)} MB; ${(inner.triangles.length / 3).toLocaleString('en')} triangles, ${findCrossings(inner, 1).pairs} crossings, ${hollowMm3.toFixed(1)} mm³ in ${chambers.length}, ${leftSolid.count} left solid`)
  console.log(`  ${look(mesh, inner, wallMm)}`)
  const { min, max } = boundsOf(inner.positions), bore = boreAt(shell, [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, min[2]], 2), hole: Hole = { ...bore, diameterMm: 2, endDiameterMm: 2 }
  const start = performance.now(), open = await drilled(shell, [hole]), ours = performance.now() - start
  const [theirs, theirMs] = timed(() => {
    const body = new wasm.Manifold(new wasm.Mesh({ numProp: 3, vertProperties: shell.positions, triVerts: shell.triangles })), rest = body.subtract(wasm.Manifold.cylinder(3, 1, 1, 64, true).translate([...bore.at]))
    const volume = rest.getMesh().numTri
    body.delete()
    rest.delete()
    return volume
  })
  const whole = boundsOf(mesh.positions), offsetMm = (whole.min[2] + whole.max[2]) / 2 + 0.013
  const begun = performance.now(), sides = await cutBy(mesh, { normal: [0, 0, 1], offsetMm }), cutMs = performance.now() - begun, sum = volumeOf(sides.above) + volumeOf(sides.below)
  const [, splitMs] = timed(() => {
    const body = new wasm.Manifold(new wasm.Mesh({ numProp: 3, vertProperties: mesh.positions, triVerts: mesh.triangles })), both = body.splitByPlane([0, 0, 1], offsetMm), taken = both.map(m => m.getMesh().numTri)
    for (const m of [...both, body]) m.delete()
    return taken
  })
  console.log(`  cut through the middle: ${cutMs.toFixed(0)} ms, manifold-3d alone ${splitMs.toFixed(0)} ms; both sides ${(sum - volumeOf(mesh)).toFixed(4)} mm³ off the whole`)
  console.log(`  one hole of 2 mm: ${ours.toFixed(0)} ms, manifold-3d alone ${theirMs.toFixed(0)} ms (${theirs.toLocaleString('en')} triangles); ${(volumeOf(shell) - volumeOf(open)).toFixed(2)} mm³ taken`)
}

const demo = async (name: Parameters<typeof demoStl>[0]): Promise<Mesh> => prepareMesh(wholeOf(await readModel(readFileSync(await demoStl(name))))).mesh
await hollowOf('heron', await demo('heron'), 1.5, 0.2)
await hollowOf('bell', await demo('bell'), 1, 0.2)
await hollowOf('bunny', prepareMesh(bunnyMesh()).mesh, 2, 0.2)
await hollowOf('knot', knot(5000, 100, 24, 14, 4.4, [0, 0, 40]), 1.5, 0.2)
await threads.end()
