import { z } from 'zod'

/** Every kind of thing that a person is to look at. */
export const FindingKindSchema = z.enum(['island', 'ledge', 'cup', 'sealed', 'pool', 'floating', 'lost', 'near', 'outside', 'overlap', 'between'])
export type FindingKind = z.infer<typeof FindingKindSchema>
/** Those that somebody may decide to leave as they are. */
export const WaivableKindSchema = FindingKindSchema.extract(['island', 'ledge', 'cup', 'sealed', 'pool', 'floating', 'near'])
export type WaivableKind = z.infer<typeof WaivableKindSchema>
