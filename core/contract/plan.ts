import { z } from 'zod'

const finite = z.number().finite()
const positive = finite.positive()
/** Nothing that is printed is farther from the plate's middle than this, mm. */
const FARTHEST_MM = 5000
const coordinate = finite.min(-FARTHEST_MM).max(FARTHEST_MM)
/** x, y, z in mm, or a direction. */
export const Vec3Schema = z.tuple([coordinate, coordinate, coordinate])

export const PoseSchema = z.object({
  tiltXDeg: finite.min(-360).max(360),
  tiltYDeg: finite.min(-360).max(360),
  turnDeg: finite.min(-360).max(360),
  liftMm: finite.min(0).max(200),
})

/** A named set of support sizes, mm and degrees. */
export const GaugeSchema = z.object({
  id: z.string().min(1).max(40),
  name: z.string().min(1).max(60),
  tipDiameterMm: positive.max(10),
  penetrationMm: finite.min(0).max(5),
  coneLengthMm: positive.max(30),
  coneShortestMm: positive.max(30),
  kneeDiameterMm: positive.max(20),
  shaftFootDiameterMm: positive.max(20),
  footDiameterMm: positive.max(40),
  footHeightMm: positive.max(10),
  /** Tip of a foot that stands on the model. */
  modelFootDiameterMm: positive.max(10),
  modelFootPenetrationMm: finite.min(0).max(5),
  preferredLeanDeg: finite.min(0).max(80),
  gapMm: finite.min(0).max(5),
})
export type Gauge = z.infer<typeof GaugeSchema>

export const RoleSchema = z.enum(['carrier', 'structural', 'detail'])
export type Role = z.infer<typeof RoleSchema>

const nodeBase = { id: z.string().min(1).max(60), stilt: z.number().int().positive(), at: Vec3Schema }

/** Where a stilt meets the part; `contact` is in the source's own coordinates, so that it survives a change of pose. */
export const TipNodeSchema = z.object({
  ...nodeBase,
  kind: z.literal('tip'),
  contact: z.object({ point: Vec3Schema, normal: Vec3Schema }),
  gauge: z.string(),
  role: RoleSchema,
  diameterMm: positive.max(10),
  penetrationMm: finite.min(0).max(5),
  /** Sizes that were changed by hand and that a change of gauge leaves alone. */
  byHand: z.array(z.string().max(40)).max(20),
})
export const KneeNodeSchema = z.object({ ...nodeBase, kind: z.literal('knee') })
export const JointNodeSchema = z.object({ ...nodeBase, kind: z.literal('joint') })
/** A foot on the plate or, as a tip of its own, on the model; `none` where a stilt lost its way down and waits to be routed again. */
export const FootNodeSchema = z.object({
  ...nodeBase,
  kind: z.literal('foot'),
  on: z.enum(['plate', 'model', 'none']),
  diameterMm: positive.max(40),
  heightMm: positive.max(30),
  /** How deep a foot on the model goes in. */
  penetrationMm: finite.min(0).max(5).optional(),
})
export const PlanNodeSchema = z.discriminatedUnion('kind', [TipNodeSchema, KneeNodeSchema, JointNodeSchema, FootNodeSchema])
export type TipNode = z.infer<typeof TipNodeSchema>
export type FootNode = z.infer<typeof FootNodeSchema>
export type PlanNode = z.infer<typeof PlanNodeSchema>

/** A tapered beam between two nodes. */
export const PlanBeamSchema = z.object({
  id: z.string().min(1).max(60),
  stilt: z.number().int().positive(),
  from: z.string(),
  to: z.string(),
  fromDiameterMm: positive.max(40),
  toDiameterMm: positive.max(40),
})
export type PlanBeam = z.infer<typeof PlanBeamSchema>

export const PLAN_FORMAT = 'oak-stilts-plan'

/** What a plan was made for. */
const PlanOriginSchema = z.object({
  /** Pixel and layer of the scan; the pixel decides where the part is centred. */
  pixelMm: positive,
  layerMm: positive,
  /** The part: by these it is known again. */
  triangles: z.number().int().nonnegative(),
  sizeMm: Vec3Schema,
})

/** A plan as a file: build coordinates in mm, origin at the centre of the plate, z up. Version 1 did not say what it was made for. */
export const PlanFileSchema = z.object({
  format: z.literal(PLAN_FORMAT),
  version: z.union([z.literal(1), z.literal(2)]),
  madeFor: PlanOriginSchema.optional(),
  pose: PoseSchema.nullable(),
  nodes: z.array(PlanNodeSchema).max(200000),
  beams: z.array(PlanBeamSchema).max(200000),
})
export type PlanFile = z.infer<typeof PlanFileSchema>
export type PlanOrigin = z.infer<typeof PlanOriginSchema>
