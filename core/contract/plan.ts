import { z } from 'zod'
import { GaugeSchema, TipShapeSchema } from './gauge'
import { finite, IdSchema, pointIn, positive, Vec3Schema } from './primitives'

export const RoleSchema = z.enum(['carrier', 'structural', 'detail'])
export type Role = z.infer<typeof RoleSchema>

/** A point of the surface with its outward normal, in the coordinates of the source: it survives every change of pose. */
export const AnchorSchema = z.object({ point: pointIn<'source'>(), normal: Vec3Schema })
export type Anchor = z.infer<typeof AnchorSchema>

const tipSizes = {
  tipDiameterMm: positive.max(10),
  penetrationMm: finite.min(0).max(5),
  coneLengthMm: positive.max(500),
  kneeDiameterMm: positive.max(40),
}
/** Shape and sizes of the upper end of a stilt, mm. */
export const TipSizesSchema = z.object({ ...tipSizes, tipShape: TipShapeSchema.default('cone') })
const OwnTipSizesSchema = z.object({ ...tipSizes, tipShape: TipShapeSchema }).partial()
/** Sizes of its lower end, mm: height of a foot on the plate or length of the cone of one on the model; how deep that goes in. */
export const FootSizesSchema = z.object({
  shaftFootDiameterMm: positive.max(40),
  footDiameterMm: positive.max(40),
  footHeightMm: positive.max(30),
  footPenetrationMm: finite.min(0).max(5),
})
/** Sizes of its lower end that were set by hand: on how many points it stands on the model, and how far from the middle of them. */
const OwnFootSizesSchema = FootSizesSchema.partial().extend({ footPoints: GaugeSchema.shape.modelFootPoints.unwrap().optional(), footSpreadMm: GaugeSchema.shape.modelFootSpreadMm.unwrap().optional() })
/** Sizes of a stilt that were set by hand. */
export const OwnSizesSchema = OwnTipSizesSchema.extend(OwnFootSizesSchema.shape)

const base = {
  id: IdSchema,
  part: IdSchema,
  /** In the stand of the part, mm: tilted and lifted, not turned or moved on the plate. */
  at: pointIn<'stand'>(),
  /** Put here by hand: seating anew leaves it here where it can. */
  pinned: z.boolean(),
}

/** Where a stilt meets the part. */
export const TipNodeSchema = z.object({
  ...base,
  kind: z.literal('tip'),
  /** What people call the stilt; once in its part. */
  number: z.number().int().positive(),
  anchor: AnchorSchema,
  gauge: z.string().min(1).max(40),
  role: RoleSchema,
  /** Sizes that were set by hand, and that neither a change of gauge nor routing forgets. */
  own: OwnTipSizesSchema,
  /** What routing made of gauge and own sizes where it stands. */
  fitted: TipSizesSchema,
  /** The spread that it was placed with, as long as nothing moved it away from there. */
  spread: IdSchema.optional(),
  /** Why it should not stand, where somebody placed it all the same. */
  forced: z.string().min(1).max(300).optional(),
})
export const KneeNodeSchema = z.object({ ...base, kind: z.literal('knee') })
/** Where any number of beams meet. */
export const JointNodeSchema = z.object({ ...base, kind: z.literal('joint') })
/** On the plate; on the model, as a tip of its own; or without a place where no way down was found. */
export const FootOnSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('plate') }),
  z.object({ kind: z.literal('model'), anchor: AnchorSchema }),
  z.object({ kind: z.literal('lost'), reason: z.string().max(300) }),
])
export const FootNodeSchema = z.object({ ...base, kind: z.literal('foot'), on: FootOnSchema, own: OwnFootSizesSchema, fitted: FootSizesSchema })
export const PlanNodeSchema = z.discriminatedUnion('kind', [TipNodeSchema, KneeNodeSchema, JointNodeSchema, FootNodeSchema])
export type TipNode = z.infer<typeof TipNodeSchema>
export type FootNode = z.infer<typeof FootNodeSchema>
export type PlanNode = z.infer<typeof PlanNodeSchema>

/**
 * A tapered beam between two nodes, from what hangs on it to what carries it. A branch ends where another stilt goes on, which it joins.
 * A leg leads from where the foot of a stick is spread to a further point of the model that it stands on. Braces stiffen and carry nothing;
 * only they may close circles, and one may end at a foot of its own.
 */
export const PlanBeamSchema = z.object({
  id: IdSchema,
  part: IdSchema,
  kind: z.enum(['cone', 'shaft', 'branch', 'leg', 'brace']),
  from: IdSchema,
  to: IdSchema,
  fromDiameterMm: positive.max(40),
  toDiameterMm: positive.max(40),
})
export type PlanBeam = z.infer<typeof PlanBeamSchema>

/** Whether a beam is part of the way of a stilt from its tip down to its foot. */
export function isWay({ kind }: Pick<PlanBeam, 'kind'>): boolean {
  return kind !== 'brace' && kind !== 'leg'
}
