import { PRIZED } from '../marks'
import type { TiltMeasures } from './measures'

/** Islands that ask for a stilt of some size. */
export function islandsOf({ islands }: TiltMeasures): number {
  return islands.limb + islands.detail
}

/** Shares under which two figures are told to be alike, and heights, mm. */
const ALIKE = 0.08, ALIKE_MM = 0.5
/** Ledges that differ by less are not worth a word, mm². */
const LEDGES_MM2 = 10

/**
 * One sentence why a tilt is better or worse than today's: islands, the skin to be held, ledges, cups and height, with both figures where they differ.
 * @param prized whether any skin of the part is prized
 */
export function whyOf(m: TiltMeasures, now: TiltMeasures, prized: boolean): string {
  const parts: string[] = [], differs = (a: number, b: number): boolean => Math.abs(a - b) > ALIKE * Math.max(a, b)
  const n = islandsOf(m), before = islandsOf(now)
  parts.push(n === before ? `${counted(n, 'island')} as now` : `${counted(n, 'island')} instead of ${before}`)
  if (prized) {
    const mm2 = m.steepMm2[PRIZED], was = now.steepMm2[PRIZED]
    if (mm2 < 0.05) parts.push('no prized skin to hold')
    else parts.push(differs(mm2, was) ? `${area(mm2)} of prized skin to hold instead of ${area(was)}` : `${area(mm2)} of prized skin to hold as now`)
  } else if (differs(m.scarMm2, now.scarMm2)) parts.push(`${area(m.scarMm2)} of skin to hold instead of ${area(now.scarMm2)}`)
  if (m.ledgesMm2 !== null && now.ledgesMm2 !== null && Math.abs(m.ledgesMm2 - now.ledgesMm2) > LEDGES_MM2 && differs(m.ledgesMm2, now.ledgesMm2)) parts.push(`ledges of ${area(m.ledgesMm2)} instead of ${area(now.ledgesMm2)}`)
  if (m.cups !== now.cups) parts.push(`${counted(m.cups, 'cup')} instead of ${now.cups}`)
  const taller = m.heightMm - now.heightMm
  if (Math.abs(taller) >= ALIKE_MM) parts.push(`${Math.abs(taller).toFixed(0)} mm ${taller > 0 ? 'taller' : 'lower'}`)
  return `${parts.join(', ')}.`
}

function counted(n: number, name: string): string {
  return `${n === 0 ? 'no' : n} ${name}${n === 1 ? '' : 's'}`
}
function area(mm2: number): string {
  return `${mm2 < 10 ? mm2.toFixed(1) : mm2.toFixed(0)} mm²`
}
