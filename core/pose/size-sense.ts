import type { Vec3 } from '../mesh'

/** What a file's numbers may have been meant in. */
export interface UnitGuess {
  readonly unitMm: number
  /** In the plural: "inches". */
  readonly unit: string
  /** Largest size in mm, should it be so. */
  readonly largestMm: number
}

/** Largest sizes between which a resin print usually lies, mm. From memory: from a charm to what fills a large printer. */
const USUAL_MM = [8, 400] as const
/** Largest sizes under which, and over which, a file that states no unit is doubted, mm. From memory. */
const TOO_SMALL_MM = 6, TOO_LARGE_MM = 2000

/** Units by how often files are written in them without saying so. Common practice, no source: inches before centimetres before metres. */
const UNITS: readonly (readonly [unit: string, mm: number])[] = [['inches', 25.4], ['centimetres', 10], ['metres', 1000], ['microns', 0.001]]

/** What a file that states no unit may have been written in, the likeliest first; nothing where its size is that of a usual print. */
export function guessUnits(sizeMm: Vec3): UnitGuess[] {
  const largest = Math.max(...sizeMm)
  if (largest >= TOO_SMALL_MM && largest <= TOO_LARGE_MM) return []
  return UNITS.map(([unit, unitMm]) => ({ unit, unitMm, largestMm: largest * unitMm })).filter(g => g.largestMm >= USUAL_MM[0] && g.largestMm <= USUAL_MM[1])
}
