import { z } from 'zod'
import { NameSchema, positive } from './primitives'

/** Sides of a pixel may differ by this share; the raster is square. */
const SQUARE_WITHIN = 0.01

const layerHeight = positive.min(0.005).max(1)

/** A printer: its plate and its picture. Lengths in mm. */
export const PrinterSchema = z.object({
  name: NameSchema,
  widthMm: positive.max(2000),
  depthMm: positive.max(2000),
  heightMm: positive.max(2000),
  /** Pixels of its picture along the plate's width (x) and depth (y). */
  pixelsX: z.number().int().min(16).max(100000),
  pixelsY: z.number().int().min(16).max(100000),
  /** Layer heights that it offers, finest first. */
  layersMm: z.array(layerHeight).min(1).max(20).refine(l => l.every((v, i) => i === 0 || v > l[i - 1]), 'must go from the finest to the coarsest'),
}).refine(p => Math.abs((p.widthMm / p.pixelsX) / (p.depthMm / p.pixelsY) - 1) <= SQUARE_WITHIN, { message: 'must have square pixels: width by pixels across has to come to the same as depth by pixels along', path: ['pixelsY'] })
export type Printer = z.infer<typeof PrinterSchema>

/** Edge of a printer's pixel, mm, to a millionth. */
export function pixelMmOf({ widthMm, pixelsX }: Pick<Printer, 'widthMm' | 'pixelsX'>): number {
  return Math.round((widthMm / pixelsX) * 1e6) / 1e6
}

/** The printers that everybody has. The first one is that of a new job. Made up, in sizes that are usual (from memory). */
export const BUILT_IN_PRINTERS: readonly Printer[] = [
  { name: 'Harbour 50', widthMm: 153.35, depthMm: 77.75, heightMm: 165, pixelsX: 3067, pixelsY: 1555, layersMm: [0.025, 0.05, 0.1] },
  { name: 'Harbour 35', widthMm: 143.36, depthMm: 89.6, heightMm: 175, pixelsX: 4096, pixelsY: 2560, layersMm: [0.02, 0.03, 0.05, 0.1] },
  { name: 'Quay 22', widthMm: 211.68, depthMm: 118.37, heightMm: 220, pixelsX: 9622, pixelsY: 5380, layersMm: [0.02, 0.03, 0.05] },
]
export const DEFAULT_PRINTER = BUILT_IN_PRINTERS[0]
export const DEFAULT_LAYER_MM = 0.05
