import { z } from 'zod'
import { count, finite, NameSchema, positive } from './primitives'
import { PrinterSchema } from './printer'
import { LayerTimesSchema } from './printing'
import { ResinSchema } from './resin'

export const PACKAGE_FORMAT = 'oak-stilts-layers'
/** Layers that a package can have. */
export const MOST_LAYERS = 20000

/** CRC-32 of a file's bytes, as eight hexadecimal digits. */
const CheckSumSchema = z.string().regex(/^[0-9a-f]{8}$/)

/** One layer of a package: its picture, and how it is printed. */
export const PackagedLayerSchema = z.object({
  file: z.string().min(1).max(100),
  bytes: count,
  crc32: CheckSumSchema,
  /** What is lit, in pixels; shades count by their share. */
  litPixels: finite.nonnegative(),
  ...LayerTimesSchema.shape,
})
export type PackagedLayer = z.infer<typeof PackagedLayerSchema>

const printer = PrinterSchema.shape
/** Resin that some of a print takes, ml. */
const ml = finite.nonnegative()

/**
 * What a package of layers says of itself, in its `manifest.json`. The package is a zip whose entries are stored as they are; its comment is
 * `sha256:` and the SHA-256, as 64 hexadecimal digits, of all bytes before the comment. Lengths in mm, times in s, speeds in mm/min.
 */
export const PackageManifestSchema = z.object({
  format: z.literal(PACKAGE_FORMAT),
  version: z.literal(1),
  /** What is printed, and the state of the job that it was sliced from; null where it came from no job. */
  name: NameSchema,
  job: z.object({ id: z.string().max(60), state: z.string().max(200) }).nullable(),
  parts: z.array(z.object({ name: NameSchema, copies: count })).max(1000),
  printer: z.object({ name: NameSchema, widthMm: printer.widthMm, depthMm: printer.depthMm, heightMm: printer.heightMm, pixelsX: printer.pixelsX, pixelsY: printer.pixelsY }),
  resin: ResinSchema.pick({ name: true, densityGMl: true, pricePerKg: true }),
  layerMm: positive.max(1),
  /** Pictures are eight bits of grey, seen from above with the back of the plate at the top; how many shades they have. */
  shades: z.number().int().min(2).max(256),
  /** How much larger everything is than it is to be once it has shrunk, along x, y and z. */
  growth: z.tuple([positive.max(2), positive.max(2), positive.max(2)]),
  /** An estimate of all layers together. */
  seconds: finite.nonnegative(),
  resinMl: z.object({ all: ml, parts: ml, rafts: ml, stilts: ml }),
  /** The print, seen from above, PNG; null for none. */
  picture: z.object({ file: z.string().min(1).max(100), bytes: count, crc32: CheckSumSchema }).nullable(),
  layers: z.array(PackagedLayerSchema).min(1).max(MOST_LAYERS),
})
export type PackageManifest = z.infer<typeof PackageManifestSchema>
