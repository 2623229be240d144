import { digest } from 'ohash'
import type { JobContent } from './edit'
import type { Recipe } from './part'
import type { Printer } from './printer'
import { sortedById, type AnyRow, type TableName } from './tables'

/** Tables whose rows a proof depends on, beside the part itself. */
const JUDGED_BY: readonly TableName[] = ['nodes', 'beams', 'marks', 'waivers', 'copies']

/** A text for the state of a part of a job as far as its proof depends on it: another one after every such edit, the same again once that is undone. */
export function stateOfPart({ fields: { printer, resin, layerMm, settings }, tables }: JobContent, part: string): string {
  const row = tables.parts.get(part), own = JUDGED_BY.map(name => sortedById(tables[name].values() as Iterable<AnyRow>).filter(r => 'part' in r && r.part === part))
  return digest(JSON.stringify([judgedOf(printer), resin, layerMm, settings, row && [row.source.meshHash, stepsOf(row.recipe), row.pose, row.raft], [...tables.gauges.values()], own], byName))
}

/** A text for the state of a job as far as its layers depend on it: how it is printed, and all its parts and copies. */
export function stateOfPrint(content: JobContent): string {
  const { fields: { printing: { smoothing, shrinkagePercent, ranges }, printer, resin, layerMm }, tables } = content
  return digest(JSON.stringify([{ smoothing, shrinkagePercent, ranges }, printer, resin, layerMm, sortedById(tables.parts.values()).map(p => stateOfPart(content, p.id))], byName))
}

/** What of a printer a proof asks for. */
function judgedOf({ name, widthMm, depthMm, heightMm, pixelsX, pixelsY, layersMm }: Printer): object {
  return { name, widthMm, depthMm, heightMm, pixelsX, pixelsY, layersMm }
}

/** What is made of the source; steps that nobody asked for are not among it, as before there were any. */
function stepsOf({ hollow, holes, cuts, plug, ...rest }: Recipe): object {
  return { ...rest, ...(hollow && { hollow }), ...(holes.length > 0 && { holes }), ...(cuts.length > 0 && { cuts }), ...(plug && { plug }) }
}

/** Fields in the order of their names, whoever wrote them. */
function byName(_: string, value: unknown): unknown {
  return value !== null && typeof value === 'object' && !Array.isArray(value) ? Object.fromEntries(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1))) : value
}
