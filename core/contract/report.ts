import { RaftKindSchema } from './raft'
import { z } from 'zod'
import { FindingKindSchema } from './finding'
import { TipShapeSchema } from './gauge'
import { WorthSchema } from './mark'
import { MeshReportSchema } from './mesh-report'
import { ModelNoteSchema } from './part'
import { RoleSchema } from './plan'

const count = z.number().int().nonnegative()
const number = z.number()
const point = z.tuple([number, number, number])
const state = z.enum(['open', 'partly', 'held', 'noted', 'waived'])
const series = z.array(number.nullable())

/** Where a hole would let a cup breathe from its first layers on. */
const VentSchema = z.object({
  /** On the inner side of the wall. */
  at: point,
  /** The way out, a unit vector. */
  direction: point,
  wallMm: number,
})

/** What `scan` prints: layers from 0, layer k spans [k·h, (k+1)·h) above the plate; mm, mm², mm³, N; coordinates of the plate. */
export const ScanReportSchema = z.object({
  layerHeightMm: number.positive(),
  pixelMm: number.positive(),
  layerCount: count,
  mesh: MeshReportSchema,
  islands: z.array(z.object({
    layer: count,
    zMm: number,
    areaMm2: number,
    center: point,
    joinsLayer: count.nullable(),
    volumeMm3: number,
    class: z.enum(['flake', 'detail', 'limb', 'body']),
    state,
    /** Share of what is laid before it joins that lies within reach of held material, 0 to 1. */
    heldShare: number.min(0).max(1),
    /** Area of it that hangs: not connected to the plate when it is laid, or laid out of reach. */
    hangingMm2: number,
  })),
  /** Regions attached to held material that reach too far out, and spans; noted where they carry themselves. */
  ledges: z.array(z.object({
    kind: z.enum(['ledge', 'bridge']),
    firstLayer: count,
    lastLayer: count,
    /** How far it reaches out, and the area that hangs, without supports. */
    reachMm: number,
    areaMm2: number,
    /** Share of that area that supports bring within reach, 0 to 1; area that still hangs. */
    heldShare: number.min(0).max(1),
    hangingMm2: number,
    /** Distance of what holds it on opposite sides, where it is narrowest; null where one side holds it. */
    spanMm: number.nullable(),
    /** That distance is more than a span may have. */
    wide: z.boolean(),
    state,
    at: point,
  })),
  /** What hangs and is in no finding that is open or partly held: flakes that join at once, places too small to list, remainders. */
  folded: z.object({ flakesMm2: number, smallPlaces: count, smallMm2: number, restMm2: number }),
  suction: z.array(z.object({
    firstLayer: count,
    lastLayer: count,
    peakAreaMm2: number,
    volumeMm3: number,
    ends: z.enum(['vent', 'closed', 'open']),
    /** Estimate of the vacuum's pull on the largest layer. */
    pullN: number,
    at: point,
    bySupports: z.boolean(),
    /** It reaches the outside, but only through passages narrower than the vent width. */
    narrowVent: z.boolean(),
    vent: VentSchema.nullable(),
  })),
  /** Cavities that are shut all around, which keep liquid resin inside. */
  sealed: z.array(z.object({ firstLayer: count, lastLayer: count, volumeMm3: number, at: point, vent: VentSchema.nullable() })),
  /** Resin that stays in the part as it hangs from the plate. */
  pools: z.array(z.object({ firstLayer: count, lastLayer: count, volumeMm3: number, peakAreaMm2: number, at: point })),
  /** Stilts that begin in the air. */
  floatingStilts: z.array(z.object({ layer: count, center: point })),
  layers: z.object({ areaMm2: z.array(number), unclosedRows: count }),
  /** One number a layer; null where a layer has none. Loads are estimates. */
  signals: z.object({
    areaMm2: z.array(number),
    newMm2: z.array(number),
    hangingMm2: z.array(number),
    pieces: z.array(count),
    enclosedMm2: z.array(number),
    peelN: z.array(number),
    centerX: series,
    centerY: series,
    offCenterMm: series,
    /** Layers in which area or load jumps. */
    jumps: z.array(count),
  }),
  seconds: number.nonnegative(),
})
export type ScanReport = z.infer<typeof ScanReportSchema>

/** What `check` prints: what a file holds, and what was found in the mesh of each of its models; mm, mm², mm³. */
export const CheckReportSchema = z.object({
  format: z.enum(['stl', 'obj', 'ply', '3mf']),
  /** Millimetres of the unit that the file states; sizes are in millimetres then. Null where it states none. */
  statedUnitMm: number.positive().nullable(),
  /** What a file without a unit may have been meant in, likeliest first; empty where its size is that of a usual print. */
  unitGuesses: z.array(z.object({ unit: z.string(), unitMm: number.positive(), largestMm: number.positive() })),
  notes: z.array(ModelNoteSchema),
  models: z.array(z.object({
    name: z.string(),
    copies: count,
    /** Skin of the mended mesh. */
    areaMm2: number,
    /** Whether nothing had to be mended. */
    sound: z.boolean(),
    mesh: MeshReportSchema,
  })),
})
export type CheckReport = z.infer<typeof CheckReportSchema>

const TiltMeasuresSchema = z.object({
  /** Pixel of the scan that they come from. */
  pixelMm: number.positive(),
  /** Islands that hang, by class; the part as a whole is not among them. */
  islands: z.object({ limb: count, detail: count, flake: count }),
  /** Weight on them: what grows out of each as the face of a cube, mm². */
  hangingMm2: number,
  ledgesMm2: number.nullable(),
  /** Skin that leans out too little to carry itself. */
  steepMm2: z.object({ plain: number, prized: number, spare: number, offLimits: number }),
  /** Scars to come, as so many mm² of plain skin. */
  scarMm2: number,
  /** Estimates: most that a layer pulls, time of its ordinary layers, resin of the stilts that it would ask for. */
  peelN: number,
  seconds: number,
  stiltMl: number,
  cups: count,
  cupMm3: number,
  heightMm: number,
})

/** What `tilt` prints: the tilt as asked for and the few that are worth a look, best first, each measured by the real scan; degrees. */
export const TiltReportSchema = z.object({
  tried: count,
  /** The axis about which the part is the same after one part in `order` of a turn, or any turn where that is null. */
  symmetry: z.object({ axis: point, order: count.nullable() }).nullable(),
  now: z.object({ tiltXDeg: number, tiltYDeg: number, measures: TiltMeasuresSchema }),
  tilts: z.array(z.object({
    tiltXDeg: number,
    tiltYDeg: number,
    /** Turn about the vertical in which it fits the plate; null where it does not fit the printer. */
    turnDeg: number.nullable(),
    why: z.string(),
    measures: TiltMeasuresSchema,
  })),
  seconds: number.nonnegative(),
})
export type TiltReport = z.infer<typeof TiltReportSchema>

/** Every tip of a part as the command `audit` tells it, lowest first. */
export const AuditReportSchema = z.object({
  /** What carries or holds a region is thin under this, mm. */
  leastMm: number,
  weak: count,
  tips: z.array(z.object({
    stilt: count,
    gauge: z.string(),
    shape: TipShapeSchema,
    tipMm: number,
    contactMm2: number,
    role: RoleSchema,
    heightMm: number,
    worth: WorthSchema,
    weak: z.boolean(),
  })),
})
export type AuditReport = z.infer<typeof AuditReportSchema>

/** Supports that a file arrived with and that were lifted out, as the command `lift-out` tells it. */
/** What `cut` prints: mm, mm², mm³, in the coordinates of the file. */
export const CutReportSchema = z.object({
  above: z.string(),
  below: z.string(),
  aboveMm3: number,
  belowMm3: number,
  areaMm2: number,
  /** All pieces in which the plane meets the part, largest first, counted from 0. */
  pieces: z.array(z.object({ areaMm2: number, whole: z.boolean() })),
  pegs: z.array(point),
})
export type CutReport = z.infer<typeof CutReportSchema>

/** What `hollow` prints: mm³ and mm, in the coordinates of the file. */
export const HollowReportSchema = z.object({
  out: z.string(),
  wallMm: number.positive(),
  cellMm: number.positive(),
  selfSupporting: z.boolean(),
  solidMm3: number,
  /** Of the part as it was written. */
  volumeMm3: number,
  /** Spaces within the part, before it was drilled; largest first. */
  chambers: z.array(z.object({ volumeMm3: number, min: point, max: point })),
  /** Spaces that were too small to drain, and stay solid. */
  leftSolid: z.object({ count, volumeMm3: number }),
  holes: z.array(z.object({ at: point, into: point, diameterMm: number.positive(), depthMm: number.nullable() })),
  triangles: count,
  seconds: number,
})
export type HollowReport = z.infer<typeof HollowReportSchema>

/** What `slice` prints: seconds and resin are estimates. */
export const SliceReportSchema = z.object({
  out: z.string(),
  bytes: count,
  printer: z.string(),
  resin: z.string(),
  layerMm: number.positive(),
  layers: count,
  shades: count,
  seconds: number,
  resinMl: z.object({ all: number, parts: number, rafts: number, stilts: number }),
  cost: number,
})
export type SliceReport = z.infer<typeof SliceReportSchema>

/** What `slice` prints where it writes contours as 3MF. */
export const ContoursReportSchema = z.object({ out: z.string(), bytes: count, printer: z.string(), layerMm: number.positive(), layers: count, objects: count })
export type ContoursReport = z.infer<typeof ContoursReportSchema>

/** What `send` prints. */
export const SendReportSchema = z.object({ to: z.string(), printer: z.string(), name: z.string(), bytes: count, alreadyThere: count })
export type SendReport = z.infer<typeof SendReportSchema>

/** What `rehearse` prints of a package of layers, from its pictures alone; layers from 0, mm², mm³. */
export const RehearsalReportSchema = z.object({
  good: z.boolean(),
  name: z.string(),
  printer: z.string(),
  layers: count,
  layerMm: number.positive(),
  /** What is wrong with the pictures themselves. */
  faults: z.array(z.object({ kind: z.enum(['empty', 'misplaced', 'lit', 'edge']), layer: count, layers: count, sentence: z.string() })),
  islands: z.array(z.object({ layer: count, areaMm2: number, volumeMm3: number, at: point })),
  cups: z.array(z.object({ firstLayer: count, lastLayer: count, peakAreaMm2: number, volumeMm3: number, at: point })),
  firstLayer: z.object({ regions: count, areaMm2: number }),
  areaMm2: z.array(number),
})
export type RehearsalReport = z.infer<typeof RehearsalReportSchema>

export const LiftOutReportSchema = z.object({
  model: z.string(),
  plan: z.string(),
  stilts: count,
  braces: count,
  raft: RaftKindSchema,
  liftMm: number,
  thinnestTipMm: number,
  thickestTipMm: number,
})
export type LiftOutReport = z.infer<typeof LiftOutReportSchema>

/** What there is to say about the stilts of a plan, as the command `plan check` tells it. */
export const PlanCheckReportSchema = z.object({
  stilts: count,
  verdicts: z.array(z.object({
    kind: FindingKindSchema,
    /** Numbers of the stilts that it is about. */
    stilts: z.array(count),
    /** Stand coordinates, mm. */
    at: point,
    /** What was measured and what is allowed: mm, degrees, mm²; or why. */
    figures: z.record(z.string(), z.union([number, z.string()])),
  })),
})
export type PlanCheckReport = z.infer<typeof PlanCheckReportSchema>
