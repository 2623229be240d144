import { z } from 'zod'
import { WaivableKindSchema, type WaivableKind } from './finding'
import type { SourcePoint } from './frames'
import { IdSchema, pointIn } from './primitives'

/** A finding that somebody decided to leave as it is. It is known again by its kind and its place on the part. */
export const WaiverSchema = z.object({
  id: IdSchema,
  part: IdSchema,
  kind: WaivableKindSchema,
  /** In the coordinates of the source, so that it survives a change of pose. */
  at: pointIn<'source'>(),
  reason: z.string().trim().min(1).max(300),
})
export type Waiver = z.infer<typeof WaiverSchema>

/** How near a finding of a kind has to be to where one was waived to be the same, mm. */
export const SAME_PLACE_MM: Readonly<Record<WaivableKind, number>> = { island: 0.4, ledge: 1.5, cup: 2, sealed: 2, pool: 2, openings: 2, narrow: 0.6, floating: 0.4, lost: 0.05, near: 0.6, gap: 0.6, tips: 0.6, thick: 0.6, scar: 0.6, lean: 0.6, slender: 0.6, forced: 0.6 }

/** The waiver of a finding of a kind at a place; undefined where there is none. */
export function waiverAt(waivers: readonly Waiver[], kind: WaivableKind, [x, y, z]: SourcePoint): Waiver | undefined {
  return waivers.find(w => w.kind === kind && Math.hypot(w.at[0] - x, w.at[1] - y, w.at[2] - z) <= SAME_PLACE_MM[kind])
}
