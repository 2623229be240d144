import { DEFAULT_LAYER_MM, DEFAULT_PRINTER, DEFAULT_RESIN, loadsOf, NO_RAFT, type PlanBeam, type PlanNode, type ProofCheck, type Raft } from '@oak-stilts/core/contract'
import type { Mesh } from '@oak-stilts/core/mesh'
import { rolesOfTips } from '@oak-stilts/core/plan'
import { standOf, UNSHAPED, type Stand } from '@oak-stilts/core/pose'
import { beyondLimit, prove, withWritten, type Proven } from '@oak-stilts/core/proof'
import { solidsOfPart } from '@oak-stilts/core/raft'
import { makeReady } from '@oak-stilts/core/ready'
import { ModelScan } from '@oak-stilts/core/scan'
import { GAUGES, PlanIndex, Surface } from '@oak-stilts/core/stilts'
import { liftedBuoy } from './jobs'
import type { DemoPlan } from './plans'

/** The bell is made ready on a raster of this, which is enough to see where it hangs; it is proved on that of the printer. */
const COARSE_MM = 0.1
/** Why somebody left what was still to be seen to. */
const REASONS: Partial<Record<ProofCheck['kind'], string>> = { suction: 'The crown is drained by hand after the print.', gaps: 'These stilts may grow together.' }
const ON_PLATE = { overMm: 0, meets: 0, cups: 0 }

/** The bell, made ready; what no stilt helps against is waived. */
export async function madeReady(mesh: Mesh, pixelMm: number): Promise<DemoPlan> {
  const stand = standOf(mesh.positions, { tiltXDeg: 0, tiltYDeg: 0, liftMm: 5 }, pixelMm)
  const steps = makeReady({ scan: new ModelScan(mesh, { pixelMm: COARSE_MM, layerMm: COARSE_MM }, stand), surface: new Surface(mesh, { shape: UNSHAPED, stand }), part: 'part', index: new PlanIndex(new Map(), new Map()), raft: NO_RAFT, resin: DEFAULT_RESIN, gauges: GAUGES, plate: DEFAULT_PRINTER, onPlate: ON_PLATE, waivers: [] })
  let step = steps.next()
  while (!step.done) step = steps.next()
  const { put } = step.value.change, nodes = put?.nodes ?? [], beams = put?.beams ?? [], checks = await proved(mesh, stand, pixelMm, nodes, beams, NO_RAFT)
  return { nodes, beams, checks, waived: checks.flatMap(c => (c.state === 'bad' && REASONS[c.kind] ? [{ check: c.kind, count: c.count, beyond: beyondLimit(c), reason: REASONS[c.kind] as string }] : [])) }
}

/** The buoy on the supports that came with it. */
export async function provedAsItCame(mesh: Mesh, pixelMm: number): Promise<DemoPlan> {
  const { nodes, beams, raft, pose: { liftMm } } = await liftedBuoy()
  return { nodes, beams, raft, liftMm, checks: await proved(mesh, standOf(mesh.positions, { tiltXDeg: 0, tiltYDeg: 0, liftMm }, pixelMm), pixelMm, nodes, beams, raft) }
}

/** What a proof of a part on its stilts finds. */
async function proved(mesh: Mesh, stand: Stand, pixelMm: number, nodes: readonly PlanNode[], beams: readonly PlanBeam[], raft: Raft): Promise<readonly ProofCheck[]> {
  const index = new PlanIndex(new Map(nodes.map(n => [n.id, n])), new Map(beams.map(b => [b.id, b]))), scan = new ModelScan(mesh, { pixelMm, layerMm: DEFAULT_LAYER_MM }, stand)
  scan.setLoads(loadsOf(DEFAULT_RESIN))
  scan.setStilts(solidsOfPart(index, 'part', raft))
  const result = scan.runToEnd(), roles = rolesOfTips(scan, result, index.stiltsOf('part'))
  const of: Proven = { scan, result, index, part: 'part', surface: new Surface(mesh, { shape: UNSHAPED, stand }), raft, resin: DEFAULT_RESIN, gauges: GAUGES, roleOf: tip => roles.get(tip) ?? 'detail', onPlate: ON_PLATE, waivers: [] }
  const steps = prove(of)
  let step = steps.next()
  while (!step.done) step = steps.next()
  return (await withWritten(of, step.value)).checks
}
