import { gaugesToKeep, PLAN_FORMAT, type PlanFile } from '@oak-stilts/core/contract'
import type { Posed } from './posed'

/** The plan of a part as a file, with the pose and the model that it was made for. */
export function planFileOf({ options, part, prepared, recipe, meshHash, shift, pose, plan, gauges }: Posed): PlanFile {
  return {
    format: PLAN_FORMAT, version: 3, recipe, pose, turnDeg: shift.turnDeg,
    madeFor: { pixelMm: options.pixelMm, layerMm: options.layerMm, triangles: prepared.report.triangles, sizeMm: [...prepared.report.sizeMm], meshHash },
    nodes: [...plan.nodes.values()], beams: [...plan.beams.values()],
    raft: plan.raft, gauges: gaugesToKeep(gauges, new Set(plan.index.stiltsOf(part).map(s => s.gauge))),
  }
}
