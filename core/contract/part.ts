import { z } from 'zod'
import { NO_RAFT, RaftSchema } from './raft'
import { MeshReportSchema } from './mesh-report'
import { CutStepSchema, HoleStepSchema, HollowStepSchema, MOST_CUTS, MOST_HOLES, PlugStepSchema } from './steps'
import { count, finite, HashSchema, IdSchema, NameSchema, positive } from './primitives'

/** What was found in a mesh when it was brought in. */
export const MeshSummarySchema = MeshReportSchema.extend({
  /** Not counted by older versions. */
  zippedEdges: count.default(0),
  /** Its lowest part is a broad flat or a set of feet. */
  looksStanding: z.boolean(),
})
export type MeshSummary = z.infer<typeof MeshSummarySchema>

/** What of a file was left out or put right as it was read. */
export const ModelNoteSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.enum(['colours', 'textures', 'no-build']) }),
  z.object({ kind: z.enum(['lines', 'curves', 'beams', 'polygons', 'no-faces', 'joined']), count }),
  z.object({ kind: z.literal('count'), announced: count, found: count }),
])

/** Where a part comes from. Both the file and the mesh that was prepared from it are kept by hash and never changed. */
export const SourceSchema = z.object({
  /** Null where the file was not kept, as by older versions. */
  fileHash: HashSchema.nullable(),
  fileName: z.string().max(255),
  format: z.enum(['stl', 'obj', 'ply', '3mf']),
  /** Which model of the file it is, counted from 0. */
  object: count.default(0),
  /** Millimetres of the unit that the file states; its mesh is in millimetres then. Null where it states none. */
  statedUnitMm: positive.nullable().default(null),
  notes: z.array(ModelNoteSchema).default([]),
  meshHash: HashSchema,
  /** The mesh as it came, only welded; null where nothing in it had to be mended. */
  plainHash: HashSchema.nullable().default(null),
  /** What was found in it, and where; null where nobody looked. */
  faultsHash: HashSchema.nullable().default(null),
  /** The preparation that made the mesh: whatever names its triangles is good for this one only. */
  prepareVersion: count,
  summary: MeshSummarySchema,
})
export type Source = z.infer<typeof SourceSchema>

const angle = finite.min(-360).max(360), share = finite.min(-1.0001).max(1.0001)

/** A rotation: x, y, z, w, of length 1. */
export type Quaternion = readonly [number, number, number, number]
const QuaternionSchema = z.tuple([share, share, share, share]) as unknown as z.ZodType<Quaternion, Quaternion>

/** How a part stands by itself: tilted, its lowest point at the lift. How it is turned on the plate is a matter of its copies. */
export const TiltSchema = z.object({
  tiltXDeg: angle,
  tiltYDeg: angle,
  liftMm: finite.min(0).max(200),
  /** The rotation that the tilts are measured from, as x, y, z, w; absent where they are measured from the file. */
  zero: QuaternionSchema.optional(),
})
export type Tilt = z.infer<typeof TiltSchema>

const factor = positive.min(0.001).max(1000)

/** What is made of a source before it is posed. Each step can be changed at any time; the source itself never is. */
export const RecipeSchema = z.object({
  /** Whether what can be mended safely is. */
  mended: z.boolean().default(true),
  /** Millimetres that 1 of the source stands for. */
  unitMm: factor,
  /** Factors along the source's own axes. */
  scale: z.tuple([factor, factor, factor]),
  /** Along the source's x axis. */
  mirrored: z.boolean(),
  /** Null where nobody asked for it. */
  hollow: HollowStepSchema.nullable().default(null),
  /** Drilled after it was hollowed. */
  holes: z.array(HoleStepSchema).max(MOST_HOLES).default([]),
  /** Cut after it was drilled, one after another. */
  cuts: z.array(CutStepSchema).max(MOST_CUTS).default([]),
  /** Given where the part is the plug of a hole in what the source is hollowed to. */
  plug: PlugStepSchema.nullable().default(null),
})
export type Recipe = z.infer<typeof RecipeSchema>
export const AS_MADE: Recipe = { mended: true, unitMm: 1, scale: [1, 1, 1], mirrored: false, hollow: null, holes: [], cuts: [], plug: null }

/** One part of a job: a source, and what is made of it. */
export const PartSchema = z.object({
  id: IdSchema,
  name: NameSchema,
  source: SourceSchema,
  recipe: RecipeSchema.default(AS_MADE),
  /** Whether the question of its units was answered, or never had to be asked. */
  sizeSettled: z.boolean().default(false),
  pose: TiltSchema,
  /** What its stilts stand on. */
  raft: RaftSchema.default(NO_RAFT),
  /** The recipe that its plan was made by, by name; null where that was planned otherwise, or by hand. */
  plannedBy: z.string().max(120).nullable().default(null),
  /** Whether "keep on the plate or lift" was answered, or never had to be asked. */
  poseSettled: z.boolean(),
})
export type Part = z.infer<typeof PartSchema>

/** A part as it stands on the plate, with all its stilts: turned about the vertical through the middle of its stand, then moved by whole pixels. */
export const CopySchema = z.object({
  id: IdSchema,
  part: IdSchema,
  xPixels: z.number().int().min(-200000).max(200000),
  yPixels: z.number().int().min(-200000).max(200000),
  turnDeg: angle,
})
export type Copy = z.infer<typeof CopySchema>
