import type { Role } from '../contract'
import type { HangsOn, ModelScan, ScanResult } from '../scan'
import type { Stilt } from '../stilts'

/** The role of a stilt by what hangs on it: it carries the whole part, holds a limb or a ledge, or saves a detail. */
export const ROLE_BY_LOAD: Record<HangsOn, Role> = { body: 'carrier', limb: 'structural', ledge: 'structural', detail: 'detail', flake: 'detail', nothing: 'detail' }

/** What the stilts of a part carry, by the ids of their tips. @param result of a scan that ended */
export function rolesOfTips(scan: ModelScan, result: ScanResult, stilts: readonly Pick<Stilt, 'id' | 'path'>[]): Map<string, Role> {
  const on = scan.hangsOn(stilts.map(s => s.path[0]), result)
  return new Map(stilts.map((s, i) => [s.id, ROLE_BY_LOAD[on[i]]]))
}
