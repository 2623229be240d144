import { z } from 'zod'

const length = z.number().finite().positive()

/** What the scan counts as held, as small, as steep. All of it can be changed; the defaults are common practice, from memory. */
export const ScanSettingsSchema = z.object({
  /** How far a flap may reach out from held material on one side, mm. */
  flapMm: length.max(20),
  /** How far a tip holds around itself, mm. */
  tipHoldMm: length.max(20),
  /** How wide a span may be that is held on opposite sides, mm. */
  spanMm: length.max(40),
  /** Skin that leans out less than this from level needs a hold, degrees; also how fast a ledge heals as it grows up. */
  slopeDeg: z.number().finite().min(10).max(80),
  /** An island is a flake up to this area and this volume. */
  flakeAreaMm2: z.number().finite().min(0).max(10),
  flakeVolumeMm3: z.number().finite().min(0).max(10),
  /** It is a detail up to this volume, a limb above. */
  detailVolumeMm3: z.number().finite().min(0).max(10000),
  /** A ledge is listed from this area on. */
  ledgeAreaMm2: z.number().finite().min(0).max(100),
  /** A cup is listed from this area in its widest layer and this many layers on. */
  cupAreaMm2: z.number().finite().min(0).max(1000),
  cupLayers: z.number().int().min(1).max(1000),
  /** A passage vents where a cube of this edge passes, mm; a round hole of 1 mm lets one of 0.7 through. */
  ventMm: z.number().finite().min(0.1).max(10),
})
export type ScanSettings = z.infer<typeof ScanSettingsSchema>

export const DEFAULT_SETTINGS: ScanSettings = {
  flapMm: 1, tipHoldMm: 2, spanMm: 4, slopeDeg: 45,
  flakeAreaMm2: 0.03, flakeVolumeMm3: 0.01, detailVolumeMm3: 8, ledgeAreaMm2: 0.1,
  cupAreaMm2: 1, cupLayers: 4, ventMm: 0.7,
}
