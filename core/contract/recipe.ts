import { z } from 'zod'
import { GaugeSchema, type Gauge } from './gauge'
import { WorthSchema } from './mark'
import { count, finite, NameSchema } from './primitives'
import { RaftKindSchema } from './raft'

/**
 * What of all that hangs a plan is for: everything; only what begins on nothing; what the whole part is carried by while its first layers are
 * made; what has the part all around it; or what hangs over skin of some worth.
 */
export const PLANNED = ['everything', 'islands', 'first', 'inside', 'faces'] as const
export type Planned = (typeof PLANNED)[number]

/** Ways to improve a plan that stands: take away what bears nothing, straighten what bends, gather stilts on shared trunks, brace what is tall or slender. */
export const IMPROVEMENTS = ['idle', 'straighten', 'gather', 'brace'] as const
export type Improvement = (typeof IMPROVEMENTS)[number]

/** What a plan is asked for. */
export const PlanOptionsSchema = z.object({
  what: z.enum(PLANNED).default('everything'),
  /** Of the skin that `faces` is for. */
  worths: z.array(WorthSchema).max(4).default(['spare']),
  /** Ids of gauges that may be used; all where null. */
  gauges: z.array(z.string().min(1).max(40)).min(1).max(50).nullable().default(null),
  /** Tips are set as if each held no farther than this around itself, mm; as the scan has it where null, and never farther than that. */
  holdMm: finite.min(0.3).max(20).nullable().default(null),
  /** Skin that rises less than this gets tips as soon as it juts out at all, degrees; only what is beyond reach gets any at 0. */
  slopeDeg: finite.min(0).max(60).default(0),
  /** Whether tips share trunks; each has a shaft of its own where not. */
  branches: z.boolean().default(true),
  /** Whether what finds no way to the plate may stand on the part itself. */
  sticks: z.boolean().default(true),
  /** What the feet stand on; as it is where null. */
  raft: RaftKindSchema.nullable().default(null),
})
export type PlanOptions = z.infer<typeof PlanOptionsSchema>
export const USUAL_OPTIONS: PlanOptions = PlanOptionsSchema.parse({})

/** Settings of a plan that work for a kind of part, what they proved with, and how often what was planned by them came out. */
export const RecipeOfPlansSchema = z.object({
  id: z.string().min(1).max(40),
  name: NameSchema,
  /** For which kind of part, and why. */
  note: z.string().max(600).default(''),
  options: PlanOptionsSchema,
  /** Parts whose plan proved ready, the latest last; and whether that was before the options were last changed. */
  provedWith: z.array(z.object({ part: NameSchema, resin: NameSchema, tiltXDeg: finite, tiltYDeg: finite, tips: count, on: z.iso.date(), earlier: z.literal(true).optional() })).max(200).default([]),
  /** Prints that came out, and prints that did not, as the person tells. */
  cameOut: count.default(0),
  failed: count.default(0),
  /** How many of them were told of before the options were last changed. */
  earlier: z.object({ cameOut: count, failed: count }).optional(),
})
export type RecipeOfPlans = z.infer<typeof RecipeOfPlansSchema>

/** Whether two plans would be asked for alike. */
export function sameOptions(a: PlanOptions, b: PlanOptions): boolean {
  return (Object.keys(PlanOptionsSchema.shape) as (keyof PlanOptions)[]).every(k => JSON.stringify(a[k]) === JSON.stringify(b[k]))
}
/** A recipe with other options. What became of it until now stays known, as what came before that. */
export function withOptions(recipe: RecipeOfPlans, options: PlanOptions): RecipeOfPlans {
  if (sameOptions(recipe.options, options)) return recipe
  const { provedWith, cameOut, failed } = recipe
  return { ...recipe, options, provedWith: provedWith.map(p => ({ ...p, earlier: true })), earlier: cameOut + failed > 0 ? { cameOut, failed } : undefined }
}

export const RECIPE_FORMAT = 'oak-stilts-recipe'
/** A recipe as a file, with the gauges that not everybody has. */
export const RecipeFileSchema = z.object({ format: z.literal(RECIPE_FORMAT), version: z.literal(1), recipe: RecipeOfPlansSchema, gauges: z.array(GaugeSchema).max(50).default([]) })
export type RecipeFile = z.infer<typeof RecipeFileSchema>

const built = (id: string, name: string, note: string, options: Partial<PlanOptions>): RecipeOfPlans => RecipeOfPlansSchema.parse({ id, name, note, options: { ...USUAL_OPTIONS, ...options } })
/** Built-in recipes (common practice and from memory, no source): starting points that people change. */
export const BUILT_IN_RECIPES: readonly RecipeOfPlans[] = [
  built('miniature', 'Miniature', 'A small figure with much detail, seen from near. Only the two thin gauges, so that marks stay small; tips stand closer, because thin ones hold less; short sticks save what the plate cannot be reached from.', { gauges: ['fine', 'light'], holdMm: 1.6 }),
  built('jewellery', 'Jewellery for casting', 'A ring or pendant in a castable resin, which is soft and weak. Thin tips in great number, never standing on the part itself, where a mark would be cast; a pad under each foot, since thin feet let go of the plate.', { gauges: ['fine', 'light'], holdMm: 1.2, sticks: false, raft: 'pads' }),
  built('bracket', 'Bracket with an exact underside', 'A technical part whose underside has to be flat. Tips stand close, and also under skin that rises so little that it would print but sag; lift it well, mark fitting faces off-limits.', { gauges: ['light', 'medium'], holdMm: 1.5, slopeDeg: 20, sticks: false }),
  built('large-figure', 'Large figure', 'A heavy figure that the film pulls at hard. Strong gauges carry it from its first contacts on, thin ones see to detail; a pad under each foot, so that none lets go of the plate.', { gauges: ['light', 'medium', 'heavy'], raft: 'pads' }),
]

/** The gauges that a recipe may use; all where it names none that there is. */
export function gaugesOfOptions({ gauges: ids }: PlanOptions, gauges: readonly Gauge[]): readonly Gauge[] {
  const known = ids ? gauges.filter(g => ids.includes(g.id)) : gauges
  return known.length > 0 ? known : gauges
}
