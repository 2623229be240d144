import type { Gauge, PlanBeam, PlanNode } from '../contract'
import { prepareMesh, type Mesh } from '../mesh'
import { AS_IS } from '../pose'
import { ModelScan, type Raster, type ScanResult } from '../scan'
import { PlanIndex, routeStilt, rowsOfStilt, shapeOfRoute, Surface } from '../stilts'

/** A model on stilts, one under each of some points of its skin. */
export interface HeldScene {
  readonly surface: Surface
  readonly index: PlanIndex
  /** The nodes of the tips, in the order of the points. */
  readonly tips: readonly string[]
  /** A scan of the model alone, as far as its graph. */
  readonly scan: ModelScan
  readonly result: ScanResult
}

/** Stands stilts of a gauge under points of the plate, each up to the first skin above. */
export function heldScene(mesh: Mesh, points: readonly (readonly [number, number])[], gauge: Gauge, raster: Raster): HeldScene {
  const skin = prepareMesh(mesh).mesh, surface = new Surface(skin), nodes: PlanNode[] = [], beams: PlanBeam[] = [], tips: string[] = []
  points.forEach(([x, y], i) => {
    const hit = surface.cast([x, y, -1], [0, 0, 1]), route = hit && routeStilt(surface, hit.point, hit.normal, gauge, { widthMm: 200, depthMm: 200 })
    if (!hit || !route?.ok) throw new Error(`Nothing stands at ${x}, ${y}.`)
    const made = rowsOfStilt(shapeOfRoute(surface, gauge, 'detail', route, hit.normal), { part: 'part', number: i + 1 })
    tips.push(made.nodes[0].id)
    nodes.push(...made.nodes)
    beams.push(...made.beams)
  })
  const scan = new ModelScan(skin, raster, AS_IS), result = scan.runTo('graph')
  return { surface, index: new PlanIndex(new Map(nodes.map(n => [n.id, n])), new Map(beams.map(b => [b.id, b]))), tips, scan, result }
}
