import { z } from 'zod'
import { finite, NameSchema, positive } from './primitives'

/** Sides of a pixel may differ by this share; the raster is square. */
const SQUARE_WITHIN = 0.01

const edge = finite.min(0).max(100)
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
  /** Where it prints nothing, in from the edges of its plate: left, right, front, back. */
  edgesMm: z.tuple([edge, edge, edge, edge]).default([0, 0, 0, 0]),
  /** The fastest that its plate travels, mm/min, and how much it can hold of what it is sent, MB. */
  fastestMmMin: positive.max(2000).default(300),
  memoryMb: positive.max(100000).default(4000),
}).refine(p => Math.abs((p.widthMm / p.pixelsX) / (p.depthMm / p.pixelsY) - 1) <= SQUARE_WITHIN, { message: 'must have square pixels: width by pixels across has to come to the same as depth by pixels along', path: ['pixelsY'] })
export type Printer = z.infer<typeof PrinterSchema>

/** Edge of a printer's pixel, mm, to a millionth. */
export function pixelMmOf({ widthMm, pixelsX }: Pick<Printer, 'widthMm' | 'pixelsX'>): number {
  return Math.round((widthMm / pixelsX) * 1e6) / 1e6
}

/** The printers that everybody has. The first one is that of a new job. Made up, in sizes that are usual (from memory). */
export const BUILT_IN_PRINTERS: readonly Printer[] = [
  { name: 'Harbour 50', widthMm: 153.35, depthMm: 77.75, heightMm: 165, pixelsX: 3067, pixelsY: 1555, layersMm: [0.025, 0.05, 0.1], edgesMm: [0, 0, 0, 0], fastestMmMin: 300, memoryMb: 4000 },
  { name: 'Harbour 35', widthMm: 143.36, depthMm: 89.6, heightMm: 175, pixelsX: 4096, pixelsY: 2560, layersMm: [0.02, 0.03, 0.05, 0.1], edgesMm: [1, 1, 1, 1], fastestMmMin: 300, memoryMb: 4000 },
  { name: 'Quay 22', widthMm: 211.68, depthMm: 118.37, heightMm: 220, pixelsX: 9622, pixelsY: 5380, layersMm: [0.02, 0.03, 0.05], edgesMm: [0, 0, 2, 2], fastestMmMin: 400, memoryMb: 8000 },
]
export const DEFAULT_PRINTER = BUILT_IN_PRINTERS[0]
export const DEFAULT_LAYER_MM = 0.05
