import { z } from 'zod'
import { GaugeSchema } from './gauge'
import { OlderBeamSchema, OlderNodeSchema, OlderPoseSchema } from './older/one-part'
import { NO_RAFT, RaftSchema } from './raft'
import { AS_MADE, RecipeSchema, TiltSchema } from './part'
import { PlanBeamSchema, PlanNodeSchema } from './plan'
import { count, finite, HashSchema, positive, Vec3Schema } from './primitives'

export const PLAN_FORMAT = 'oak-stilts-plan'

/** What a plan was made for. */
const OriginSchema = z.object({
  /** Pixel and layer of the scan; the pixel decides where the part is centred. */
  pixelMm: positive,
  layerMm: positive,
  /** The part: by these it is known again. */
  triangles: count,
  sizeMm: Vec3Schema,
})

const most = 200000

/** A plan of one part as a file. Its nodes are in the stand of the part: tilted and lifted, in mm, z up. */
export const PlanFileSchema = z.object({
  format: z.literal(PLAN_FORMAT),
  version: z.literal(3),
  /** With the mark of its source: the hash of the prepared mesh. */
  madeFor: OriginSchema.extend({ meshHash: HashSchema }),
  /** What was made of the source before it was posed. */
  recipe: RecipeSchema.default(AS_MADE),
  /** Null where the part was kept as it stands in its file. */
  pose: TiltSchema.nullable(),
  /** How the part was turned on the plate. */
  turnDeg: finite.min(-360).max(360),
  nodes: z.array(PlanNodeSchema).max(most),
  beams: z.array(PlanBeamSchema).max(most),
  /** Gauges of its stilts that not everybody has. */
  gauges: z.array(GaugeSchema).max(200).default([]),
  /** What they stand on. */
  raft: RaftSchema.default(NO_RAFT),
})
export type PlanFile = z.infer<typeof PlanFileSchema>

const older = { format: z.literal(PLAN_FORMAT), pose: OlderPoseSchema.nullable(), nodes: z.array(OlderNodeSchema).max(most), beams: z.array(OlderBeamSchema).max(most) }
/** Any plan that can be read. Version 1 did not say what it was made for. */
export const AnyPlanFileSchema = z.discriminatedUnion('version', [
  z.object({ ...older, version: z.literal(1) }),
  z.object({ ...older, version: z.literal(2), madeFor: OriginSchema.optional() }),
  PlanFileSchema,
])
export type AnyPlanFile = z.infer<typeof AnyPlanFileSchema>
