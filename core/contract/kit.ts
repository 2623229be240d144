import { z } from 'zod'
import { PegBedSchema, type PegBed } from './bed'
import { BUILT_IN_GAUGES, GaugeSchema, type Gauge } from './gauge'
import { BUILT_IN_PRINTERS, PrinterSchema, type Printer } from './printer'
import { IdSchema, NameSchema } from './primitives'
import { BUILT_IN_RECIPES, RecipeOfPlansSchema, type RecipeOfPlans } from './recipe'
import { SelectRuleSchema, type SelectRule } from './rule'
import { BUILT_IN_RESINS, ResinSchema, type Resin } from './resin'

/** A printer, a resin, a gauge, a recipe of plans, a bed of pegs or a rule to select stilts by, of the workshop. Jobs hold copies: changing one here changes no job. */
export const KitEntrySchema = z.discriminatedUnion('kind', [
  z.object({ id: IdSchema, kind: z.literal('printer'), printer: PrinterSchema }),
  z.object({ id: IdSchema, kind: z.literal('resin'), resin: ResinSchema }),
  z.object({ id: IdSchema, kind: z.literal('gauge'), gauge: GaugeSchema }),
  z.object({ id: IdSchema, kind: z.literal('recipe'), recipe: RecipeOfPlansSchema }),
  z.object({ id: IdSchema, kind: z.literal('bed'), bed: PegBedSchema }),
  z.object({ id: IdSchema, kind: z.literal('rule'), name: NameSchema, rule: SelectRuleSchema }),
])
export type KitEntry = z.infer<typeof KitEntrySchema>

export const KIT_FORMAT = 'oak-stilts-kit'
/** Printers, resins, gauges, recipes and beds of pegs as a file. */
export const KitFileSchema = z.object({
  format: z.literal(KIT_FORMAT),
  version: z.literal(1),
  printers: z.array(PrinterSchema).max(1000),
  resins: z.array(ResinSchema).max(1000),
  gauges: z.array(GaugeSchema).max(1000).default([]),
  recipes: z.array(RecipeOfPlansSchema).max(1000).default([]),
  beds: z.array(PegBedSchema).max(1000).default([]),
})
export type KitFile = z.infer<typeof KitFileSchema>

/** What there is to choose from: what everybody has, then the person's own. */
export interface Kit {
  readonly printers: readonly { readonly id: string; readonly builtIn: boolean; readonly printer: Printer }[]
  readonly resins: readonly { readonly id: string; readonly builtIn: boolean; readonly resin: Resin }[]
  /** In their order; one of one's own stands in the place of the built-in one that it was made of. */
  readonly gauges: readonly { readonly id: string; readonly builtIn: boolean; readonly gauge: Gauge }[]
  /** The person's own, and built-in ones that none of them stands in the place of. */
  readonly recipes: readonly { readonly id: string; readonly builtIn: boolean; readonly recipe: RecipeOfPlans }[]
  /** Beds of pegs; all of them the person's own. */
  readonly beds: readonly { readonly id: string; readonly bed: PegBed }[]
  /** Rules to select stilts by; all of them the person's own. */
  readonly rules: readonly { readonly id: string; readonly name: string; readonly rule: SelectRule }[]
}

export function kitOf(own: readonly KitEntry[]): Kit {
  const gauges = own.flatMap(e => (e.kind === 'gauge' ? [{ id: e.id, builtIn: false, gauge: e.gauge }] : []))
  const recipes = own.flatMap(e => (e.kind === 'recipe' ? [{ id: e.id, builtIn: false, recipe: e.recipe }] : []))
  return {
    printers: [...BUILT_IN_PRINTERS.map((printer, i) => ({ id: `printer ${i}`, builtIn: true, printer })), ...own.flatMap(e => (e.kind === 'printer' ? [{ id: e.id, builtIn: false, printer: e.printer }] : []))],
    resins: [...BUILT_IN_RESINS.map((resin, i) => ({ id: `resin ${i}`, builtIn: true, resin })), ...own.flatMap(e => (e.kind === 'resin' ? [{ id: e.id, builtIn: false, resin: e.resin }] : []))],
    recipes: [...BUILT_IN_RECIPES.map(recipe => recipes.find(r => r.recipe.id === recipe.id) ?? { id: `recipe ${recipe.id}`, builtIn: true, recipe }), ...recipes.filter(r => !BUILT_IN_RECIPES.some(b => b.id === r.recipe.id))],
    beds: own.flatMap(e => (e.kind === 'bed' ? [{ id: e.id, bed: e.bed }] : [])),
    rules: own.flatMap(e => (e.kind === 'rule' ? [{ id: e.id, name: e.name, rule: e.rule }] : [])),
    gauges: [...BUILT_IN_GAUGES.filter(b => !gauges.some(g => g.gauge.id === b.id)).map(gauge => ({ id: `gauge ${gauge.id}`, builtIn: true, gauge })), ...gauges].sort((a, b) => a.gauge.order - b.gauge.order || (a.gauge.id < b.gauge.id ? -1 : 1)),
  }
}
