import type { Role } from '../contract'
import type { HangsOn } from '../scan'

/** The role of a stilt by what hangs on it: it carries the whole part, holds a limb or a ledge, or saves a detail. */
export const ROLE_BY_LOAD: Record<HangsOn, Role> = { body: 'carrier', limb: 'structural', ledge: 'structural', detail: 'detail', flake: 'detail', nothing: 'detail' }
