import { createHash } from 'node:crypto'
import { AS_MADE, gaugesToKeep, PLAN_FORMAT, type LiftOutReport, type PlanFile } from '@oak-stilts/core/contract'
import { findSupports, liftOut, type LiftedOut } from '@oak-stilts/core/built-in'
import { encodeMesh, prepareSolid, readModel, wholeOf, writeStl } from '@oak-stilts/core/mesh'
import { GAUGES } from '@oak-stilts/core/stilts'
import { UsageError, type Options } from './arguments'
import { save } from './files'
import type { Output } from './output'
import { sourceOf } from './source'

/** The supports that a file arrives with, as stilts, and the model without them. @throws UsageError where it has none */
export async function liftedFrom(options: Options, part: string): Promise<LiftedOut> {
  const { mesh, found } = findSupports(prepareSolid((await sourceOf(options)).mesh).mesh)
  if (found.supports.length === 0) throw new UsageError('No supports were found in this file: nothing in it rises from the plate and ends in a tip on a model.')
  return liftOut(mesh, found, GAUGES, options.pixelMm, part)
}

/** Writes the model of a file without its supports, and these as a plan for it. */
export async function liftOutFile(options: Options, output: Output): Promise<void> {
  const lifted = await liftedFrom(options, 'part'), out = options.model as string, bytes = writeStl(lifted.model, 'Oak Stilts, millimetres')
  save(out, bytes)
  // the plan is for the model as it is read again
  const prepared = prepareSolid(wholeOf(await readModel(bytes))), used = new Set(lifted.nodes.flatMap(n => (n.kind === 'tip' ? [n.gauge] : [])))
  const file: PlanFile = {
    format: PLAN_FORMAT, version: 3, recipe: AS_MADE, pose: lifted.pose, turnDeg: 0, raft: lifted.raft, nodes: [...lifted.nodes], beams: [...lifted.beams], gauges: gaugesToKeep(GAUGES, used),
    madeFor: { pixelMm: options.pixelMm, layerMm: options.layerMm, triangles: prepared.report.triangles, sizeMm: [...prepared.report.sizeMm], meshHash: createHash('sha256').update(encodeMesh(prepared.mesh)).digest('hex') },
  }
  save(options.plan as string, JSON.stringify(file))
  const tips = lifted.nodes.flatMap(n => (n.kind === 'tip' ? [n.fitted.tipDiameterMm] : [])).sort((a, b) => a - b)
  const report: LiftOutReport = { model: out, plan: options.plan as string, stilts: lifted.stilts, braces: lifted.beams.filter(b => b.kind === 'brace').length, raft: lifted.raft.kind, liftMm: lifted.pose.liftMm, thinnestTipMm: tips[0], thickestTipMm: tips[tips.length - 1] }
  output.result(options.json ? JSON.stringify(report) : `${report.stilts} supports with tips of ${report.thinnestTipMm.toFixed(2)} to ${report.thickestTipMm.toFixed(2)} mm${report.braces ? `, ${report.braces} braces` : ''}${report.raft === 'none' ? '' : ', on a raft'}, lifted out: ${report.model}, ${report.plan}`)
}
