import type { FindingKind } from '@oak-stilts/core/contract'
import { between } from './kinds/between'
import { cup, sealed } from './kinds/cup'
import { island } from './kinds/island'
import { ledge } from './kinds/ledge'
import { near } from './kinds/near'
import { narrow, openings } from './kinds/openings'
import { outside } from './kinds/outside'
import { overlap } from './kinds/overlap'
import { pool } from './kinds/pool'
import { floating, lost } from './kinds/stilts'
import { forced, gap, lean, scar, slender, thick, tips } from './kinds/verdicts'
import type { KindSpec, Row } from './types'

/** Every kind of finding. A new one is a name in the contract, a file, and its line here; the compiler asks for the rest. */
export const FINDING_KINDS: { readonly [K in FindingKind]: KindSpec<K> } = { island, ledge, cup, sealed, pool, openings, narrow, floating, lost, near, gap, tips, thick, scar, lean, slender, forced, outside, overlap, between }
export const KINDS = Object.keys(FINDING_KINDS) as FindingKind[]

/** What the kind of a finding is. */
export function kindOf<K extends FindingKind>(f: Row<K>): KindSpec<K> {
  return FINDING_KINDS[f.kind]
}
