import type { z } from 'zod'
import { GaugeSchema } from './gauge'
import { CopySchema, PartSchema } from './part'
import { MarkSchema } from './mark'
import { PlanBeamSchema, PlanNodeSchema } from './plan'
import { CheckWaiverSchema, KeptProofSchema } from './proof'
import { SpreadSchema } from './spread'
import { WaiverSchema } from './waiver'

/** Every kind of row that a job is made of. Whoever reads, stores, sends, undoes or copies rows goes by this list alone. */
export const TABLES = { parts: PartSchema, copies: CopySchema, nodes: PlanNodeSchema, beams: PlanBeamSchema, waivers: WaiverSchema, marks: MarkSchema, gauges: GaugeSchema, spreads: SpreadSchema, checkWaivers: CheckWaiverSchema, proofs: KeptProofSchema } as const
export type TableName = keyof typeof TABLES
export const TABLE_NAMES = Object.keys(TABLES) as TableName[]
export type RowOf<K extends TableName> = z.infer<(typeof TABLES)[K]>
export type AnyRow = { [K in TableName]: RowOf<K> }[TableName]

/** The rows of a job by id. They are changed in place, by `applyChange` and nothing else. */
export type Tables = { readonly [K in TableName]: Map<string, RowOf<K>> }

/** The rows of a job as lists, sorted by id. */
export type RowLists = { [K in TableName]: RowOf<K>[] }

export function emptyTables(): Tables {
  return Object.fromEntries(TABLE_NAMES.map(name => [name, new Map()])) as unknown as Tables
}

export function tablesOf(lists: RowLists): Tables {
  return Object.fromEntries(TABLE_NAMES.map(name => [name, new Map((lists[name] as AnyRow[]).map(row => [row.id, row]))])) as unknown as Tables
}

/** Rows have no other order than that of their ids, which is that of their making. */
export function listsOf(tables: Tables): RowLists {
  return Object.fromEntries(TABLE_NAMES.map(name => [name, sortedById(tables[name].values() as Iterable<AnyRow>)])) as unknown as RowLists
}

export function sortedById<R extends { readonly id: string }>(rows: Iterable<R>): R[] {
  return [...rows].sort((a, b) => (a.id < b.id ? -1 : a.id > b.id ? 1 : 0))
}
