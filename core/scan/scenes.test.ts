import { describe, expect, it } from 'vitest'
import { volumeOf, type Mesh, type Vec3 } from '../mesh'
import { motionOfPose, moveMesh } from '../pose'
import { between, random, type Random } from '../testing/random'
import { bowl, box, curtain, joinMeshes, lathe, moved, reversed, sphere } from '../testing/shapes'
import { ModelScan } from './index'

// Scenes put together from pieces whose findings are known, at seeded places, sizes and turns: all is found, nothing is invented.

interface Expected {
  open?: number
  held?: number
  /** Reach of ledges that are open, in mm. */
  ledges?: number[]
  /** Spans that are too wide. */
  wide?: number
  bridges?: number
  /** Ends of cups. */
  cups?: ('vent' | 'closed' | 'open')[]
  narrowVent?: number
  pools?: number
}
interface Piece extends Expected {
  readonly mesh: Mesh
  readonly posts?: Mesh[]
}
/** Four walls with a floor and a roof where they have a thickness; 3.2 × 3.2 × 5 mm inside, so that the roof carries itself; the floor's top at z. */
function chamber(z: number, floor: number, roof: number, wall: number): [Vec3, Vec3][] {
  const low = z - floor, high = z + 5 + roof, w = 1.6, o = w + wall, e = w + 0.05
  return [
    [[-o, -o, low], [-w, o, high]], [[w, -o, low], [o, o, high]],
    [[-e, -o, low], [e, -w, high]], [[-e, w, low], [e, o, high]],
    ...(floor > 0 ? [[[-e, -e, low], [e, e, z]] as [Vec3, Vec3]] : []), ...(roof > 0 ? [[[-e, -e, z + 5], [e, e, high]] as [Vec3, Vec3]] : []),
  ]
}
const solid = (parts: readonly [Vec3, Vec3][]): Mesh => joinMeshes(parts.map(([a, b]) => box(a, b)))
const leg = (x: number, y: number, top: number): Mesh => box([x - 0.6, y - 0.6, 0], [x + 0.6, y + 0.6, top])

/** The pieces by name. Each stands around x = y = 0. */
const PIECES: Record<string, (r: Random) => Piece> = {
  ball: r => ({ mesh: sphere([0, 0, between(r, 4, 9)], between(r, 0.8, 2.4), 40), open: 1 }),
  cone: r => ({ mesh: lathe([[0, between(r, 2, 3)], [2.5, 8], [0, 8]], 32), open: 1 }),
  blade: r => ({ mesh: box([-3, -0.25, between(r, 2, 5)], [3, 0.25, 9]), open: 1 }),
  'ball on a post': r => {
    const z = between(r, 5, 8)
    return { mesh: sphere([0, 0, z], 1.5, 40), posts: [leg(0, 0, z)], held: 1 }
  },
  // the post ends a layer under the ball, or stands a pixel beside a block
  'post one layer short': () => ({ mesh: box([-1, -1, 5], [1, 1, 7]), posts: [box([-0.5, -0.5, 0], [0.5, 0.5, 4.85])], open: 1 }),
  'post one pixel beside': () => ({ mesh: box([-1, -1, 5], [1, 1, 7]), posts: [box([1.25, -0.5, 0], [2, 0.5, 7])], open: 1 }),
  'table on one leg': r => {
    const out = between(r, 2.5, 5)
    return { mesh: joinMeshes([leg(0, 0, 5.05), box([-0.6, -0.6, 5], [0.6 + out, 0.6, 6.5])]), ledges: [out] }
  },
  'table on two legs': r => {
    const out = between(r, 2.5, 4)
    return { mesh: joinMeshes([leg(-1.8, 0, 5.05), leg(1.8, 0, 5.05), box([-2.4, -0.6, 5], [2.4 + out, 0.6, 6.5])]), ledges: [out], bridges: 1 }
  },
  'narrow span': r => {
    const w = between(r, 2.6, 3.3) / 2
    return { mesh: joinMeshes([leg(-w - 0.6, 0, 6), leg(w + 0.6, 0, 6), box([-w - 1, -0.6, 5], [w + 1, 0.6, 6])]), bridges: 1 }
  },
  'wide span': r => {
    const w = between(r, 5.5, 9) / 2
    return { mesh: joinMeshes([leg(-w - 0.6, 0, 6), leg(w + 0.6, 0, 6), box([-w - 1, -0.6, 5], [w + 1, 0.6, 6])]), wide: 1 }
  },
  arch: r => {
    const radius = between(r, 3.2, 4), n = 80
    const xs = Array.from({ length: n + 1 }, (_, i) => -radius * Math.cos((Math.PI * i) / n))
    return { mesh: joinMeshes([curtain(xs, xs.map(x => 1 + Math.sqrt(Math.max(0, radius * radius - x * x))), xs.map(() => radius + 3), -1.5, 1.5), box([-radius - 1, -1.5, 0], [-radius + 0.02, 1.5, radius + 3]), box([radius - 0.02, -1.5, 0], [radius + 1, 1.5, radius + 3])]), bridges: 1 }
  },
  // its hole is a round arch that carries itself, its outside stands in a block
  ring: r => {
    const radius = between(r, 2.4, 3), n = 72
    const xs = Array.from({ length: n + 1 }, (_, i) => -radius * Math.cos((Math.PI * i) / n)), half = xs.map(x => Math.sqrt(Math.max(0, radius * radius - x * x)))
    return { mesh: joinMeshes([
      curtain(xs, half.map(h => radius + 1 + h), xs.map(() => 2 * radius + 2.5), -1.5, 1.5), curtain(xs, xs.map(() => 0), half.map(h => radius + 1 - h), -1.5, 1.5),
      box([-radius - 1, -1.5, 0], [-radius + 0.02, 1.5, 2 * radius + 2.5]), box([radius - 0.02, -1.5, 0], [radius + 1, 1.5, 2 * radius + 2.5]),
    ]), bridges: 1 }
  },
  'table with a tip under its far end': r => {
    const out = between(r, 2.6, 3.2)
    return { mesh: joinMeshes([leg(0, 0, 5.05), box([-0.6, -0.6, 5], [0.6 + out, 0.6, 6.5])]), posts: [box([0.6 + out - 0.5, -0.3, 0], [0.6 + out - 0.1, 0.3, 5.3])] }
  },
  'upright bowl': r => ({ mesh: bowl(between(r, 2.5, 4), 0.7, 6, 1, 0, 40), cups: ['vent'] }),
  'bowl hung upside down': r => ({ mesh: solid(chamber(between(r, 3, 5), 0, 1.2, 1)), open: 1, pools: 1 }),
  'sealed room': () => ({ mesh: solid(chamber(1.5, 1.5, 1.5, 1)), cups: ['closed'] }),
  'nested cups': () => ({ mesh: joinMeshes([bowl(4.2, 0.6, 7, 1, 0, 48), bowl(2.4, 0.6, 4, 1, 0.5, 48)]), cups: ['vent'] }),
  // above its hole such a room holds a pool as it hangs
  'room with a wide hole': r => ({ mesh: pierced(between(r, 1.1, 2)), cups: ['vent'], pools: 1 }),
  'room with a narrow hole': r => ({ mesh: pierced(between(r, 0.25, 0.4)), narrowVent: 1, pools: 1 }),
}
/** A room on the plate, shut above, with a square hole of some width through one wall, 1.5 mm above its floor. */
function pierced(hole: number): Mesh {
  const z = 1.2, a = z + 1.5, b = a + hole, parts = chamber(z, 1.2, 1.2, 1).filter((_, i) => i !== 2)
  return solid([...parts, [[-1.65, -2.6, 0], [1.65, -1.6, a]], [[-1.65, -2.6, b], [1.65, -1.6, z + 6.2]], [[-1.65, -2.6, 0], [-hole / 2, -1.6, z + 6.2]], [[hole / 2, -2.6, 0], [1.65, -1.6, z + 6.2]]])
}

const raster = { pixelMm: 0.1, layerMm: 0.1 }
const names = Object.keys(PIECES)
/** Higher than every piece: above it all spaces have joined the outside. It stands on the plate and is nothing to be found. */
const mast = box([-0.7, 15.5, 0], [0.7, 17, 16])

function sceneOf(seed: number): { mesh: Mesh; posts: Mesh[]; expected: Required<Expected>; names: string[] } {
  const r = random(seed)
  const chosen = Array.from({ length: 1 + Math.floor(r() * 3) }, (_, i) => (i === 0 ? names[seed % names.length] : names[Math.floor(r() * names.length)]))
  const meshes: Mesh[] = [mast], posts: Mesh[] = []
  const expected: Required<Expected> = { open: 0, held: 0, ledges: [], wide: 0, bridges: 0, cups: [], narrowVent: 0, pools: 0 }
  chosen.forEach((name, i) => {
    const piece = PIECES[name](r)
    const by: Vec3 = [i * 16 + between(r, 0, 1), between(r, 0, 1), 0]
    meshes.push(moved(piece.mesh, by))
    posts.push(...(piece.posts ?? []).map(p => moved(p, by)))
    for (const key of ['open', 'held', 'wide', 'bridges', 'narrowVent', 'pools'] as const) expected[key] += piece[key] ?? 0
    expected.ledges.push(...(piece.ledges ?? []))
    expected.cups.push(...(piece.cups ?? []))
  })
  const mesh = joinMeshes(meshes)
  const stand = motionOfPose(mesh.positions, { tiltXDeg: 0, tiltYDeg: 0, turnDeg: between(r, -180, 180), liftMm: 0 }, raster.pixelMm)
  return { mesh: moveMesh(mesh, stand), posts: posts.map(p => moveMesh(p, stand)), expected, names: chosen }
}

describe('scenes with known answers', () => {
  it.each(names.map((name, i) => [name, i] as const))('are read as they are: %s and others, 18 scenes', (_, which) => {
    for (let n = 0; n < 18; n++) {
      const seed = which + names.length * n
      const { mesh, posts, expected, names: chosen } = sceneOf(seed)
      const scan = new ModelScan(mesh, raster)
      scan.setStilts(posts)
      const r = scan.runToEnd()
      const about = `seed ${seed}: ${chosen.join(', ')}`
      const ledges = r.ledges.filter(l => l.state === 'open' && !l.wide)
      const found = {
        open: r.islands.filter(i => i.state === 'open').length,
        held: r.islands.filter(i => i.state === 'held' || i.state === 'partly').length,
        ledges: ledges.length, wide: r.ledges.filter(l => l.state === 'open' && l.wide).length,
        cups: r.cups.filter(c => !c.narrowVent).map(c => c.ends).sort(), narrowVent: r.cups.filter(c => c.narrowVent).length, pools: r.pools.length,
      }
      expect(found, about).toEqual({ open: expected.open, held: expected.held, ledges: expected.ledges.length, wide: expected.wide, cups: [...expected.cups].sort(), narrowVent: expected.narrowVent, pools: expected.pools })
      const reaches = ledges.map(l => l.reachMm).sort((a, b) => a - b)
      expected.ledges.sort((a, b) => a - b).forEach((reach, i) => expect(Math.abs(reaches[i] - reach), about).toBeLessThan(0.45))
    }
  })
})

describe('scenes at any tilt', () => {
  /** Convex bodies have one lowest place each, however they are turned; none has an edge thinner than a pixel. */
  const bodies: Record<string, (r: Random) => Mesh> = {
    ball: r => sphere([0, 0, 0], between(r, 0.6, 2.5), 40),
    block: r => box([-between(r, 0.5, 2), -between(r, 0.5, 2), -1], [between(r, 0.5, 2), between(r, 0.5, 2), between(r, 0.5, 2)]),
    cone: r => lathe([[0, -1.5], [between(r, 0.8, 2.2), -1.5], [0, between(r, 1, 3)]], 40),
  }
  const tilted = (mesh: Mesh, r: Random, liftMm: number): Mesh => moveMesh(mesh, motionOfPose(mesh.positions, { tiltXDeg: between(r, -180, 180), tiltYDeg: between(r, -90, 90), turnDeg: between(r, -180, 180), liftMm }, raster.pixelMm))

  it('have one island for every convex body that hangs, and nothing that is not there, 60 scenes', () => {
    const kinds = Object.keys(bodies)
    for (let seed = 1; seed <= 60; seed++) {
      const r = random(seed)
      const count = 1 + (seed % 5)
      const mesh = tilted(joinMeshes(Array.from({ length: count }, (_, i) => moved(bodies[kinds[Math.floor(r() * kinds.length)]](r), [8 * i, between(r, -3, 3), between(r, -5, 5)]))), r, between(r, 2, 6))
      const found = new ModelScan(mesh, raster).runToEnd()
      // an edge that lies almost level may begin in several places, which join at once
      const lasting = found.islands.filter(i => i.joinsLayer === null && i.state !== 'noted')
      expect(found.islands.every(i => lasting.includes(i) || i.joinsLayer === null || i.joinsLayer - i.layer <= 3), `seed ${seed}`).toBe(true)
      expect([lasting.length, lasting.filter(i => i.state === 'open').length, found.cups.length, found.pools.length, found.floating.length], `seed ${seed}`).toEqual([count, count, 0, 0, 0])
    }
  })

  it('have a hollow body sealed, with the volume of its hollow, 24 scenes', () => {
    for (let seed = 1; seed <= 24; seed++) {
      const r = random(700 + seed)
      const radius = between(r, 2, 3.4), off = between(r, 0, 0.6)
      const mesh = tilted(joinMeshes([sphere([0, 0, 0], 5, 48), reversed(sphere([off, -off, off / 2], radius, 48))]), r, 3)
      const found = new ModelScan(mesh, raster).runToEnd()
      expect(found.cups.map(c => c.ends), `seed ${seed}`).toEqual(['closed'])
      expect(found.cups[0].volumeMm3 / -volumeOf(reversed(sphere([0, 0, 0], radius, 48))), `seed ${seed}`).toBeCloseTo(1, 1)
      expect(found.pools, `seed ${seed}`).toEqual([])
    }
  })
})
