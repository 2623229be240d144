import type { Aim, TiltMeasures } from '@oak-stilts/core/tilts'
import { figureOf, islandsOf } from '@oak-stilts/core/tilts'
import type { TiltAngles } from '@oak-stilts/core/pose'

/** What counts, in words: its name, what a slider of it asks for, and its unit on the map. */
export const AIM_WORDS: Readonly<Record<Aim, { readonly name: string; readonly wish: string; readonly unit: string; readonly digits: number }>> = {
  hanging: { name: 'Islands, by what hangs on them', wish: 'Little that hangs', unit: 'mm²', digits: 0 },
  scars: { name: 'Skin to hold, by its worth', wish: 'Clean faces', unit: 'mm²', digits: 0 },
  pull: { name: 'Pull of the worst layer', wish: 'Gentle pull', unit: 'N', digits: 1 },
  cups: { name: 'Cups', wish: 'No cups', unit: 'mm³', digits: 0 },
  height: { name: 'Height', wish: 'Low and quick', unit: 'mm', digits: 0 },
  resin: { name: 'Resin of stilts', wish: 'Little resin in stilts', unit: 'ml', digits: 1 },
}

/** Keeps a figure and its unit on one line. */
const NO_BREAK = '\u00a0'

export function figureText(aim: Aim, value: number): string {
  const { unit, digits } = AIM_WORDS[aim]
  return `${value.toFixed(digits)} ${unit}`
}

export function tiltText({ tiltXDeg, tiltYDeg }: TiltAngles): string {
  const angle = (v: number): string => `${v < 0 ? '−' : ''}${Math.abs(v).toFixed(1).replace(/\.0$/, '')}°`
  return `${angle(tiltXDeg)} about x, ${angle(tiltYDeg)} about y`
}

/** The figures of a tilt in one line. Loads, time and resin are estimates. */
export function figuresOf(m: TiltMeasures): string {
  const n = islandsOf(m), hours = m.seconds / 3600
  return [`${n} ${n === 1 ? 'island' : 'islands'}`, ...(m.ledgesMm2 === null ? [] : [`ledges ${m.ledgesMm2.toFixed(0)} mm²`]), `~${figureText('pull', figureOf('pull', m))}`, figureText('height', m.heightMm), `~${hours.toFixed(1)} h`, `~${figureText('resin', m.stiltMl)}`].map(f => f.replaceAll(' ', NO_BREAK)).join(' · ')
}
