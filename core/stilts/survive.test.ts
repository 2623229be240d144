import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { AS_MADE, type PlanNode, type Recipe } from '../contract'
import { distance, type Vec3 } from '../mesh'
import { fromSource, mirroredTilt, shapedMesh, shapeOf, standOf, type Standing, type StandPose } from '../pose'
import { sphere } from '../testing/shapes'
import { gapOfPath, gaugeOf, GAUGES, mirroredNodes, PlanIndex, reseatStilts, routeStilt, rowsOfStilt, shapeOfRoute, Surface, type StiltShape } from './index'

const plate = { widthMm: 200, depthMm: 200 }, ball = sphere([0, 0, 0], 6, 64), pixelMm = 0.05

interface Now {
  readonly recipe: Recipe
  readonly pose: StandPose
}
function surfaceOf({ recipe, pose }: Now): Surface {
  const shape = shapeOf(recipe), mesh = shapedMesh(ball, shape)
  return new Surface(mesh, { shape, stand: standOf(mesh.positions, pose, pixelMm) })
}
const START: Now = { recipe: AS_MADE, pose: { tiltXDeg: 0, tiltYDeg: 0, liftMm: 8 } }

/** Stilts under the ball, as they are placed by hand. */
function placed(): StiltShape[] {
  const surface = surfaceOf(START)
  return ([[0, 0], [2, 1], [-3, 0.5], [1, -3.5]] as const).flatMap(([x, y]) => {
    const hit = surface.cast([x, y, 0], [0, 0, 1])
    if (!hit) throw new Error('The ball is missed.')
    const route = routeStilt(surface, hit.point, hit.normal, gaugeOf('light'), plate)
    if (!route.ok) throw new Error(route.reason)
    return [shapeOfRoute(surface, gaugeOf('light'), 'detail', route, hit.normal)]
  })
}

type Change = { readonly kind: 'tilt'; readonly x: number; readonly y: number } | { readonly kind: 'lift'; readonly to: number } | { readonly kind: 'scale'; readonly by: Vec3 } | { readonly kind: 'mirror' }
const angle = fc.double({ min: -90, max: 90, noNaN: true }), factor = fc.double({ min: 0.5, max: 2, noNaN: true })
const change: fc.Arbitrary<Change> = fc.oneof(
  fc.record({ kind: fc.constant('tilt' as const), x: angle, y: angle }), fc.record({ kind: fc.constant('lift' as const), to: fc.double({ min: 5, max: 20, noNaN: true }) }),
  fc.record({ kind: fc.constant('scale' as const), by: fc.tuple(factor, factor, factor) }), fc.constant({ kind: 'mirror' as const }),
)
function after({ recipe, pose }: Now, c: Change): Now {
  if (c.kind === 'tilt') return { recipe, pose: { ...pose, tiltXDeg: c.x, tiltYDeg: c.y } }
  if (c.kind === 'lift') return { recipe, pose: { ...pose, liftMm: c.to } }
  if (c.kind === 'scale') return { recipe: { ...recipe, scale: [recipe.scale[0] * c.by[0], recipe.scale[1] * c.by[1], recipe.scale[2] * c.by[2]] }, pose }
  return { recipe: { ...recipe, mirrored: !recipe.mirrored }, pose: mirroredTilt(pose) }
}
const nodesOf = (shapes: readonly StiltShape[]): { nodes: PlanNode[]; index: PlanIndex } => {
  const rows = shapes.map((s, i) => rowsOfStilt(s, { part: 'part', number: i + 1 }))
  const nodes = rows.flatMap(r => r.nodes)
  return { nodes, index: new PlanIndex(new Map(nodes.map(n => [n.id, n])), new Map(rows.flatMap(r => r.beams).map(b => [b.id, b]))) }
}

describe('stilts of a part that is posed, scaled and mirrored', () => {
  it('keep their place on it within a thousandth of a millimetre, however often, and none is lost silently', () => {
    fc.assert(fc.property(fc.array(change, { minLength: 1, maxLength: 5 }), changes => {
      let now = START, stilts = placed()
      const anchors = stilts.map(s => s.anchor)
      for (const c of changes) {
        const before: Standing = surfaceOf(now)
        now = after(now, c)
        const surface = surfaceOf(now)
        if (c.kind === 'mirror') {
          const { nodes, index } = nodesOf(stilts), moved = new Map(mirroredNodes(nodes, before, surface).map(n => [n.id, n]))
          stilts = [...new PlanIndex(moved, index.beams).stiltsOf('part')]
        } else stilts = reseatStilts(surface, stilts, GAUGES, plate)
        stilts.forEach((s, i) => {
          expect(s.anchor).toEqual(anchors[i])
          expect(distance(s.path[0], fromSource(surface, anchors[i].point))).toBeLessThan(1e-3)
          // the tip is on the skin of the part as it is now; what finds no way down says so
          expect(surface.distance(s.path[0])).toBeLessThan(1e-3)
          expect(s.foot !== 'lost' || !!s.lostFor).toBe(true)
        })
      }
      expect(stilts).toHaveLength(anchors.length)
    }), { numRuns: 40 })
  })

  it('are mirrored with it exactly: sizes, lengths and gaps stay as they were, and twice is as before', () => {
    const now: Now = { recipe: { ...AS_MADE, scale: [1, 1.3, 0.8] }, pose: { tiltXDeg: 12, tiltYDeg: -25, liftMm: 9 } }, before = surfaceOf(now)
    const stilts = reseatStilts(before, placed(), GAUGES, plate), { nodes, index } = nodesOf(stilts)
    const there = after(now, { kind: 'mirror' }), mirrored = surfaceOf(there), moved = mirroredNodes(nodes, before, mirrored)
    const images = new PlanIndex(new Map(moved.map(n => [n.id, n])), index.beams).stiltsOf('part')
    images.forEach((s, i) => {
      const was = index.stiltsOf('part')[i]
      expect([s.sizes, s.foot, s.anchor, s.gauge]).toEqual([was.sizes, was.foot, was.anchor, was.gauge])
      s.path.forEach((p, k) => expect(distance(p, s.path[0])).toBeCloseTo(distance(was.path[k], was.path[0]), 6))
      expect(gapOfPath(mirrored, s)).toBeCloseTo(gapOfPath(before, was), 3)
    })
    const back = mirroredNodes(moved, mirrored, surfaceOf(after(there, { kind: 'mirror' })))
    back.forEach((n, i) => expect(distance(n.at, nodes[i].at)).toBeLessThan(1e-5))
  })
})
