import type { StiltVerdict, StiltVerdictKind } from '@oak-stilts/core/contract'
import { PALETTE } from '../../styles/palette'
import { mmText, type FindingSource, type KindRows, type KindSpec, type Row } from '../types'

/** What there is to say about stilts as they stand: each with a fix where one is obvious. */

/** So many of a kind are listed one by one. */
const MOST_LISTED = 200
const NAMES: Readonly<Record<StiltVerdictKind, string>> = { gap: 'Close to the part', tips: 'Tips too near', thick: 'Tip thicker than what it holds', scar: 'Scar where none is wanted', lean: 'Leans too far', slender: 'Slender', forced: 'Placed by force' }
const BARS = 'M1.5 14.5V1.5H6V14.5ZM10 14.5V1.5H14.5V14.5Z', CHEVRON = 'M1.5 5.5 8 1.5 14.5 5.5V10.5L8 6.5 1.5 10.5ZM1.5 12 8 8 14.5 12V14.5L8 10.5 1.5 14.5Z', SQUARE = 'M2 2H14V14H2Z'

type VerdictOf<K extends StiltVerdictKind> = Extract<StiltVerdict, { kind: K }>

/** Rows of a kind of verdict. @param worst the order: less is worse */
function rowsOf<K extends StiltVerdictKind>(from: FindingSource, kind: K, worst: (v: VerdictOf<K>) => number, figure: (v: VerdictOf<K>) => string): KindRows<K> {
  const numbers = new Map(from.stilts.map(s => [s.id, s.number])), layerMm = from.result?.layerMm ?? 0
  const mine = from.verdicts.filter((v): v is VerdictOf<K> => v.kind === kind && v.stilts.every(id => numbers.has(id))).sort((a, b) => worst(a) - worst(b))
  return {
    folded: Math.max(0, mine.length - MOST_LISTED),
    findings: mine.slice(0, MOST_LISTED).map(v => {
      const layer = layerMm > 0 ? Math.max(0, Math.floor(v.at[2] / layerMm)) : 0, all = v.stilts.map(id => numbers.get(id)).join(' and ')
      return { ...v, key: `${kind}-${v.stilts.join('-')}`, state: 'open', name: NAMES[kind], figure: `${all}, ${figure(v)}`, layer, lastLayer: layer } as unknown as Row<K>
    }),
  }
}
/** The stilts of a row, by their numbers, which its figure begins with. */
const who = ({ figure, stilts }: { readonly figure: string; readonly stilts: readonly string[] }): string => `${stilts.length > 1 ? 'Stilts' : 'Stilt'} ${figure.split(',')[0]}`
const folded = (what: string) => ({ name: `More ${what}`, explains: 'Only the worst are listed one by one. A fix for all of them settles many at once.' })
const shared = { track: 'symbol', title: (f: { readonly kind: StiltVerdictKind; readonly figure: string; readonly stilts: readonly string[] }): string => `${who(f)}, ${NAMES[f.kind].toLowerCase()}` } as const
const there = (f: { readonly layer: number; readonly at: readonly number[] }): readonly [string, string][] => [['At layer', String(f.layer + 1)], ['There', `${f.at.map(v => v.toFixed(2)).join(', ')} mm`]]
const gapText = (mm: number): string => (mm > 0 ? mmText(mm) : 'touching')

export const gap: KindSpec<'gap'> = {
  ...shared, name: NAMES.gap, plural: 'Close to the part', symbol: { path: BARS, color: PALETTE.ink }, folded: folded('close to the part'),
  noStilt: 'One more stilt does not help here. Route this one anew, or move its tip or foot.',
  rows: from => rowsOf(from, 'gap', v => v.gapMm, v => gapText(v.gapMm)),
  weight: () => 7,
  advice: f => ({ why: f.gapMm > 0 ? `${who(f)} comes within ${mmText(f.gapMm)} of the part; its gauge asks for ${mmText(f.limitMm)}. What is too near fuses, and tears the skin when it is broken off.` : `${who(f)} runs into the part, and fuses with it.`, help: 'Route it anew, move its tip or foot, or give it a finer gauge.' }),
  facts: f => [['Gap', gapText(f.gapMm)], ['Asked for', mmText(f.limitMm)], ...there(f)],
  sum: list => gapText(Math.min(...list.map(f => f.gapMm))),
}

export const tips: KindSpec<'tips'> = {
  ...shared, name: NAMES.tips, plural: 'Tips too near', symbol: { path: BARS, color: PALETTE.ink }, folded: folded('tips too near'),
  noStilt: 'One more stilt does not help here. Move one of the two, or delete it.',
  rows: from => rowsOf(from, 'tips', v => v.gapMm, v => gapText(v.gapMm)),
  weight: () => 7,
  advice: f => ({ why: f.gapMm > 0 ? `The tips of ${who(f).toLowerCase()} leave ${mmText(f.gapMm)} between them; under ${mmText(f.limitMm)} this resin webs, and one large scar is left.` : `The tips of ${who(f).toLowerCase()} run into each other, and leave one large scar.`, help: 'Move one of the two, or delete it: one tip holds as far as both.' }),
  facts: f => [['Between them', gapText(f.gapMm)], ['This resin keeps open', mmText(f.limitMm)], ...there(f)],
  sum: list => gapText(Math.min(...list.map(f => f.gapMm))),
}

export const thick: KindSpec<'thick'> = {
  ...shared, name: NAMES.thick, plural: 'Tips thicker than what they hold', symbol: { path: CHEVRON, color: PALETTE.ink }, folded: folded('thick tips'),
  noStilt: 'One more stilt does not help here. Make its tip finer, or move it to where the part is thicker.',
  rows: from => rowsOf(from, 'thick', v => v.thicknessMm / v.tipMm, v => `${(v.tipMm / v.thicknessMm).toFixed(1)} ×`),
  weight: () => 8,
  advice: f => ({ why: `The tip of ${who(f).toLowerCase()} is ${mmText(f.tipMm)} wide and holds ${mmText(f.thicknessMm)} of the part. When it is broken off, what it holds goes with it.`, help: 'Make the tip finer than the bar, or move it to where the part is thicker.' }),
  facts: f => [['Tip', mmText(f.tipMm)], ['Part there', mmText(f.thicknessMm)], ['Ratio', `${(f.tipMm / f.thicknessMm).toFixed(2)} ×`], ...there(f)],
  sum: list => `${Math.max(...list.map(f => f.tipMm / f.thicknessMm)).toFixed(1)} ×`,
  fix: { label: 'Make its tip finer', forAll: 'Make their tips finer', title: 'To four fifths of what it holds' },
}

export const scar: KindSpec<'scar'> = {
  ...shared, name: NAMES.scar, plural: 'Scars where none are wanted', symbol: { path: SQUARE, color: PALETTE.scar }, folded: folded('scars'),
  noStilt: 'One more stilt does not help here. Move its tip to other skin, or take the mark off in Pose.',
  rows: from => rowsOf(from, 'scar', v => (v.worth === 'off-limits' ? -1 : 1) - v.areaMm2 / 1000, v => `${v.areaMm2.toFixed(v.areaMm2 < 0.1 ? 3 : 2)} mm² ${v.worth}`),
  weight: f => (f.worth === 'off-limits' ? 3 : 8),
  advice: f => ({ why: f.worth === 'off-limits' ? `${who(f)} touches skin that is off limits.` : `${who(f)} leaves a scar of ${f.areaMm2.toFixed(3)} mm² on prized skin.`, help: 'Move its tip to the nearest skin that may be scarred, or delete it where others hold.' }),
  facts: f => [['Scar', `${f.areaMm2.toFixed(3)} mm²`], ['Skin', f.worth], ...there(f)],
  sum: list => `${list.reduce((sum, f) => sum + f.areaMm2, 0).toFixed(2)} mm²`,
  fix: { label: 'Move it to other skin', forAll: 'Move them to other skin', title: 'To the nearest skin that may be scarred and where it can stand' },
}

export const lean: KindSpec<'lean'> = {
  ...shared, name: NAMES.lean, plural: 'Lean too far', symbol: { path: CHEVRON, color: PALETTE.ink }, folded: folded('that lean'),
  noStilt: 'One more stilt does not help here. Stand it upright, or move its foot nearer.',
  rows: from => rowsOf(from, 'lean', v => -v.leanDeg, v => `${v.leanDeg.toFixed(0)}°`),
  weight: () => 8,
  advice: f => ({ why: `${who(f)} leans ${f.leanDeg.toFixed(0)}°; its gauge allows ${f.limitDeg.toFixed(0)}°. What leans more bends under its load and prints as a ledge.`, help: 'Stand it upright, or move its foot nearer to the knee.' }),
  facts: f => [['Lean', `${f.leanDeg.toFixed(1)}°`], ['Limit', `${f.limitDeg.toFixed(0)}°`], ...there(f)],
  sum: list => `${Math.max(...list.map(f => f.leanDeg)).toFixed(0)}°`,
  fix: { label: 'Stand it upright', forAll: 'Stand them upright', title: 'Moves its foot under its knee' },
}

export const slender: KindSpec<'slender'> = {
  ...shared, name: NAMES.slender, plural: 'Slender', symbol: { path: CHEVRON, color: PALETTE.ink }, folded: folded('that are slender'),
  noStilt: 'Give it a thicker gauge, or a stronger one beside it.',
  rows: from => rowsOf(from, 'slender', v => v.limitMm - v.freeMm, v => `${v.freeMm.toFixed(0)} mm free`),
  weight: () => 9,
  advice: f => ({ why: `${who(f)} stands ${f.freeMm.toFixed(1)} mm without anything that holds it; as thick as it is, ${f.limitMm.toFixed(0)} mm are good. It sways while it is printed.`, help: 'Give it the next gauge, or a shaft that thickens with its height.' }),
  facts: f => [['Free length', mmText(f.freeMm)], ['Longest unbraced', mmText(f.limitMm)], ...there(f)],
  sum: list => `${Math.max(...list.map(f => f.freeMm)).toFixed(0)} mm`,
  fix: { label: 'Take the next gauge', forAll: 'Take the next gauge', title: 'The next thicker gauge of the list' },
}

export const forced: KindSpec<'forced'> = {
  ...shared, name: NAMES.forced, plural: 'Placed by force', symbol: { path: CHEVRON, color: PALETTE.ink }, folded: folded('placed by force'),
  noStilt: 'It was placed against advice. Leave it for a reason, or delete it.',
  rows: from => rowsOf(from, 'forced', () => 0, () => 'forced'),
  weight: () => 10,
  advice: f => ({ why: `${who(f)} was placed against advice: ${f.because}`, help: 'Waive it with the reason that you know, or delete it.' }),
  facts: f => there(f),
}
