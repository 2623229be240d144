import { z } from 'zod'
import { BUILT_IN_PRINTERS, PrinterSchema, type Printer } from './printer'
import { IdSchema } from './primitives'
import { BUILT_IN_RESINS, ResinSchema, type Resin } from './resin'

/** A printer or a resin of the workshop. Jobs hold copies: changing one here changes no job. */
export const KitEntrySchema = z.discriminatedUnion('kind', [
  z.object({ id: IdSchema, kind: z.literal('printer'), printer: PrinterSchema }),
  z.object({ id: IdSchema, kind: z.literal('resin'), resin: ResinSchema }),
])
export type KitEntry = z.infer<typeof KitEntrySchema>

export const KIT_FORMAT = 'oak-stilts-kit'
/** Printers and resins as a file. */
export const KitFileSchema = z.object({
  format: z.literal(KIT_FORMAT),
  version: z.literal(1),
  printers: z.array(PrinterSchema).max(1000),
  resins: z.array(ResinSchema).max(1000),
})
export type KitFile = z.infer<typeof KitFileSchema>

/** What there is to choose from: what everybody has, then the person's own. */
export interface Kit {
  readonly printers: readonly { readonly id: string; readonly builtIn: boolean; readonly printer: Printer }[]
  readonly resins: readonly { readonly id: string; readonly builtIn: boolean; readonly resin: Resin }[]
}

export function kitOf(own: readonly KitEntry[]): Kit {
  return {
    printers: [...BUILT_IN_PRINTERS.map((printer, i) => ({ id: `printer ${i}`, builtIn: true, printer })), ...own.flatMap(e => (e.kind === 'printer' ? [{ id: e.id, builtIn: false, printer: e.printer }] : []))],
    resins: [...BUILT_IN_RESINS.map((resin, i) => ({ id: `resin ${i}`, builtIn: true, resin })), ...own.flatMap(e => (e.kind === 'resin' ? [{ id: e.id, builtIn: false, resin: e.resin }] : []))],
  }
}
