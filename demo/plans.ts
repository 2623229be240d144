import type { CheckWaiver, PlanBeam, PlanNode, ProofCheck, Raft } from '@oak-stilts/core/contract'
import { boundsOf, distance, type Mesh, type Vec3 } from '@oak-stilts/core/mesh'
import { standOf, toSource, UNSHAPED } from '@oak-stilts/core/pose'
import { BeamField, beamsOfShape, gaugeOf, PlanDraft, PlanIndex, routeBranch, routeStilt, rowsOfBranch, rowsOfStilt, shapeOfBranch, shapeOfRoute, Surface, type SurfacePoint } from '@oak-stilts/core/stilts'
import { DEMO_JOBS, type DemoModel } from './jobs'
import { madeReady, provedAsItCame } from './proved'

/** What somebody has done of a demo job already, for a part yet to be named. */
export interface DemoPlan {
  readonly nodes: readonly PlanNode[]
  readonly beams: readonly PlanBeam[]
  /** Where the job says otherwise. */
  readonly liftMm?: number
  readonly raft?: Raft
  /** What its last proof found, and what of that was left as it is. */
  readonly checks?: readonly ProofCheck[]
  readonly waived?: readonly Omit<CheckWaiver, 'id' | 'part'>[]
}

/** Skin is looked at in columns so far apart, mm; stilts stand so far from each other, branches end so far from all tips. */
const COLUMN_MM = 0.9, STILTS_MM = 8.5, BRANCHES_MM = 1.7
/** A stilt has so many branches at most, which end so far from its own tip at most, mm. */
const FINGERS = 5, HAND_MM = 7
const MOST_STILTS = 80
const PLATE = { widthMm: 153, depthMm: 77 }

/** What somebody has done of a demo job already; null where nobody began. */
export async function planOf(model: DemoModel, mesh: Mesh, pixelMm: number): Promise<DemoPlan | null> {
  return model === 'kelp' ? halfHeld(mesh, pixelMm) : model === 'bell-held' ? await madeReady(mesh, pixelMm) : model === 'buoy-lifted' ? await provedAsItCame(mesh, pixelMm) : null
}

/** The left half of the kelp: a stilt under each blade that has a way to the plate, and from it a fan of branches along the blade. */
function halfHeld(mesh: Mesh, pixelMm: number): DemoPlan {
  const pose = DEMO_JOBS.find(j => j.model === 'kelp')?.pose ?? { tiltXDeg: 0, tiltYDeg: 0, liftMm: 5 }
  const surface = new Surface(mesh, { shape: UNSHAPED, stand: standOf(mesh.positions, pose, pixelMm) }), { min, max } = boundsOf(mesh.positions), half = Math.max(max[0] - min[0], max[1] - min[1]) / 2
  const under: SurfacePoint[] = []
  for (let x = -half; x < -1; x += COLUMN_MM) for (let y = -half; y < half; y += COLUMN_MM) under.push(...skinAbove(surface, x, y))
  under.sort((a, b) => a.point[2] - b.point[2] || a.point[0] - b.point[0])
  const draft = new PlanDraft(new PlanIndex(new Map(), new Map()), []), field = new BeamField(), tips: Vec3[] = []
  let number = 1
  const free = (p: Vec3, mm: number): boolean => tips.every(t => distance(t, p) >= mm)
  for (const at of under) {
    if (number > MOST_STILTS || !free(at.point, STILTS_MM)) continue
    const gauge = gaugeOf(at.point[2] < 6 ? 'heavy' : 'light'), route = routeStilt(surface, at.point, at.normal, gauge, PLATE, undefined, { field, limitMm: 0.6 })
    if (!route.ok || route.foot !== 'plate') continue
    const shape = shapeOfRoute(surface, gauge, 'structural', route, at.normal)
    draft.put(rowsOfStilt(shape, { part: 'part', number }))
    field.put(String(number), beamsOfShape(shape).map(beam => ({ owner: String(number), beam })))
    tips.push(at.point)
    number++
  }
  const hosts = draft.index.stiltsOf('part').map(s => s.id)
  for (const id of hosts) {
    const tip = draft.index.stilt(id)?.path[0]
    let fingers = 0
    for (const at of under) {
      const host = draft.index.stilt(id)
      if (fingers >= FINGERS || !tip || !host) break
      if (distance(at.point, tip) > HAND_MM || !free(at.point, BRANCHES_MM)) continue
      const branch = routeBranch(surface, at.point, at.normal, gaugeOf('fine'), [host])
      if (!branch.ok || branch.tight) continue
      draft.put(rowsOfBranch(draft.index, shapeOfBranch({ gauge: 'fine', role: 'detail', anchor: { point: toSource(surface, at.point as never), normal: [...at.normal] } }, branch), branch.joint, number++))
      tips.push(at.point)
      fingers++
    }
  }
  const { put } = draft.change('')
  return { nodes: put?.nodes ?? [], beams: put?.beams ?? [] }
}

/** The skin of a column that looks down, from below. */
function* skinAbove(surface: Surface, x: number, y: number): Generator<SurfacePoint, void, void> {
  for (let z = -1; ;) {
    const hit = surface.cast([x, y, z], [0, 0, 1])
    if (!hit) return
    z = hit.point[2] + 0.05
    if (hit.normal[2] < -0.35) yield hit
  }
}
