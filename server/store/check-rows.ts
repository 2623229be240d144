import { sql, type Transaction } from 'kysely'
import { circlesOfShafts, isWay, type Edit, type PlanBeam } from '@oak-stilts/core/contract'
import type { Tables } from '../database/tables'
import { chunks } from './chunks'

/** Edits that would leave rows which hang on others that are not there. */
export class RowsRefused extends Error {}

/**
 * Makes sure that what edits touched still hangs together: everything of a part, the ends of every beam. To be asked after they were
 * applied, in the same transaction; costs what the edits cost. @throws RowsRefused
 */
export async function checkRows(trx: Transaction<Tables>, job: string, edits: readonly Edit[]): Promise<void> {
  const parts = new Set<string>(), beams = new Map<string, PlanBeam>(), goneNodes = new Set<string>(), goneParts = new Set<string>()
  for (const { put, drop } of edits) {
    for (const row of [...(put?.copies ?? []), ...(put?.nodes ?? []), ...(put?.beams ?? []), ...(put?.waivers ?? []), ...(put?.marks ?? []), ...(put?.spreads ?? []), ...(put?.checkWaivers ?? [])]) parts.add(row.part)
    for (const id of drop?.nodes ?? []) goneNodes.add(id)
    for (const id of drop?.parts ?? []) goneParts.add(id)
    for (const beam of put?.beams ?? []) beams.set(beam.id, beam)
  }
  const list = (ids: Iterable<string>): string => JSON.stringify([...ids])
  if (parts.size > 0) {
    const { rows } = await sql<{ value: string }>`SELECT value FROM json_each(${list(parts)}) WHERE value NOT IN (SELECT id FROM rows WHERE job_id = ${job} AND kind = 'parts') LIMIT 1`.execute(trx)
    // rows that an edit put and a later one dropped again do no harm
    if (rows.length > 0 && (await hasRows(trx, job, [rows[0].value]))) throw new RowsRefused(`The change puts rows of a part that is not in this job (${rows[0].value}).`)
  }
  if (goneParts.size > 0) {
    const left = (await sql<{ id: string }>`SELECT value AS id FROM json_each(${list(goneParts)}) WHERE value NOT IN (SELECT id FROM rows WHERE job_id = ${job} AND kind = 'parts')`.execute(trx)).rows.map(r => r.id)
    if (left.length > 0 && (await hasRows(trx, job, left))) throw new RowsRefused('The change drops a part and leaves rows of it.')
  }
  if (beams.size > 0) {
    for await (const some of chunks([...beams.keys()])) {
      const { rows } = await sql<{ id: string }>`SELECT b.id FROM rows b WHERE b.job_id = ${job} AND b.kind = 'beams' AND b.id IN (SELECT value FROM json_each(${list(some)}))
        AND (SELECT count(*) FROM rows n WHERE n.job_id = ${job} AND n.kind = 'nodes' AND n.id IN (json_extract(b.data, '$.from'), json_extract(b.data, '$.to')) AND json_extract(n.data, '$.part') = json_extract(b.data, '$.part')) < 2 LIMIT 1`.execute(trx)
      if (rows.length > 0) throw new RowsRefused(`The change leaves a beam without an end in its part (${rows[0].id}).`)
    }
    const [circle] = circlesOfShafts(await beamsBelow(trx, job, beams))
    if (circle !== undefined) throw new RowsRefused(`The change lets a shaft go in a circle (at ${circle}).`)
  }
  if (goneNodes.size > 0) {
    const { rows } = await sql<{ id: string }>`SELECT value AS id FROM json_each(${list(goneNodes)}) WHERE value NOT IN (SELECT id FROM rows WHERE job_id = ${job} AND kind = 'nodes' AND id = value)
      AND (EXISTS (SELECT 1 FROM rows b WHERE b.job_id = ${job} AND b.kind = 'beams' AND json_extract(b.data, '$.from') = value)
        OR EXISTS (SELECT 1 FROM rows b WHERE b.job_id = ${job} AND b.kind = 'beams' AND json_extract(b.data, '$.to') = value)) LIMIT 1`.execute(trx)
    if (rows.length > 0) throw new RowsRefused(`The change drops a node that beams still end at (${rows[0].id}).`)
  }
}

/** Some beams and all that lie below them: a circle that they close is among these. */
async function beamsBelow(trx: Transaction<Tables>, job: string, put: ReadonlyMap<string, PlanBeam>): Promise<PlanBeam[]> {
  const known = new Map<string, PlanBeam>(), seen = new Set<string>()
  let next = [...put.values()].filter(isWay)
  while (next.length > 0) {
    for (const b of next) known.set(b.id, b)
    const ends = [...new Set(next.map(b => b.to))].filter(id => !seen.has(id))
    for (const id of ends) seen.add(id)
    next = []
    for await (const some of chunks(ends)) {
      const { rows } = await sql<{ id: string; data: string }>`SELECT b.id, b.data FROM json_each(${JSON.stringify(some)}) e CROSS JOIN rows b ON b.job_id = ${job} AND b.kind = 'beams' AND json_extract(b.data, '$.from') = e.value`.execute(trx)
      for (const { id, data } of rows) {
        if (known.has(id)) continue
        const beam = JSON.parse(data) as PlanBeam
        if (isWay(beam)) next.push(beam)
      }
    }
  }
  return [...known.values()]
}

async function hasRows(trx: Transaction<Tables>, job: string, parts: readonly string[]): Promise<boolean> {
  const { rows } = await sql`SELECT 1 FROM rows WHERE job_id = ${job} AND kind <> 'parts' AND json_extract(data, '$.part') IN (SELECT value FROM json_each(${JSON.stringify(parts)})) LIMIT 1`.execute(trx)
  return rows.length > 0
}
