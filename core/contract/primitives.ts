import { z } from 'zod'
import type { Frame, PointIn } from './frames'

export const count = z.number().int().nonnegative()
export const finite = z.number().finite()
export const positive = finite.positive()
/** Nothing that is printed is farther from the plate's middle than this, mm. */
const FARTHEST_MM = 5000
const coordinate = finite.min(-FARTHEST_MM).max(FARTHEST_MM)
/** x, y, z in mm, or a direction. */
export const Vec3Schema = z.tuple([coordinate, coordinate, coordinate])
/** A point of a frame; the frame is a matter of types alone. */
export const pointIn = <F extends Frame>(): z.ZodType<PointIn<F>, PointIn<F>> => Vec3Schema as unknown as z.ZodType<PointIn<F>, PointIn<F>>

/** Names a row of a job, once in the whole job. */
export const IdSchema = z.string().min(1).max(60)
/** SHA-256 of a file's bytes, as 64 hexadecimal digits. */
export const HashSchema = z.string().regex(/^[0-9a-f]{64}$/)

/** A name as people read it: no control characters, no half of a character. */
export const NameSchema = z.string().trim().min(1).max(120).refine(isPlainText, 'must be plain text')

function isPlainText(text: string): boolean {
  // eslint-disable-next-line no-control-regex
  return !/[\u0000-\u001f\u007f]/.test(text) && !/[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/.test(text)
}
