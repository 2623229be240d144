import { degrees } from '@oak-stilts/core/mesh'
import type { Cup } from '@oak-stilts/core/contract'
import { PALETTE } from '../../styles/palette'
import { mmText, placeKey, TILT_OR_VENT, volumeText, type KindSpec, type Row } from '../types'

/** A space that supports close below this height is a pocket between feet, mm. */
const POCKET_MM = 3
/** From this volume on a cup comes before details, mm³. */
const LARGE_MM3 = 100

const isPocket = (c: Cup, layerMm: number): boolean => c.bySupports && c.firstLayer === 0 && (c.lastLayer + 1) * layerMm <= POCKET_MM
const isSealed = (c: Cup): boolean => c.ends === 'closed' && !c.narrowVent
const rowOf = <K extends 'cup' | 'sealed'>(kind: K, c: Cup): Row<'cup' | 'sealed'> & { readonly kind: K } => ({
  key: `cup-${c.firstLayer}-${placeKey(c.at)}`, kind, state: 'open', name: isSealed(c) ? 'Sealed' : c.narrowVent ? 'Narrow vent' : 'Cup', figure: volumeText(c.volumeMm3), layer: c.firstLayer, lastLayer: c.lastLayer, at: c.at, cup: c,
})

const shared = {
  track: 'layers', inside: true, noStilt: TILT_OR_VENT,
  weight: f => (f.cup.volumeMm3 >= LARGE_MM3 ? 4 : 7),
  sum: list => volumeText(list.reduce((n, f) => n + f.cup.volumeMm3, 0)),
  facts: ({ cup: c }) => [
    ['Layers', `${c.firstLayer + 1} to ${c.lastLayer + 1}`], ['Encloses at most', `${c.peakAreaMm2.toFixed(1)} mm²`], ['At layer', String(c.peakLayer + 1)], ['Volume', volumeText(c.volumeMm3)],
    ['Pull, estimate', `${c.pullN.toFixed(2)} N`],
    ['Ends', c.ends === 'vent' ? 'where it joins the outside' : c.ends === 'closed' ? 'closed, resin stays in' : 'stays a cup to the end'],
    ['Made by', c.bySupports ? 'stilts' : 'the part'],
    ['Proposed vent', c.vent ? `through ${mmText(c.vent.wallMm)} of wall` : c.narrowVent ? 'widen its passage' : c.bySupports ? 'part the stilts' : 'no wall is thin enough'],
    ...(c.vent ? [['Vent at', `${c.vent.at.map(v => v.toFixed(1)).join(', ')} mm`] as const, ['Its way out', c.vent.direction[2] < -0.5 ? 'down, toward the plate' : `sideways, ${Math.round(degrees(Math.atan2(c.vent.direction[1], c.vent.direction[0])))}°`] as const] : []),
  ],
} satisfies Partial<KindSpec<'cup' | 'sealed'>>

/** A space that is shut against the film and pulls. */
export const cup: KindSpec<'cup'> = {
  ...shared, name: 'Cup', plural: 'Cups', symbol: { path: 'M2 2H6V8.2A2 2 0 0 0 10 8.2V2H14V8.4A6 6 0 0 1 2 8.4Z', color: PALETTE.cup },
  folded: { name: 'Pockets between feet', explains: 'Low spaces at the plate that feet close while the first layers are printed. They pull little; feet that stand farther apart leave none.' },
  rows: ({ result }) => ({
    folded: result?.cups.filter(c => isPocket(c, result.layerMm)).length,
    findings: (result?.cups ?? []).filter(c => !isSealed(c) && !isPocket(c, result?.layerMm ?? 0)).map(c => rowOf('cup', c)),
  }),
  group: f => (f.cup.narrowVent ? { key: 'narrow', plural: 'Narrow vents' } : { key: 'cup', plural: 'Cups' }),
  advice: f => {
    const c = f.cup
    if (c.narrowVent) return { why: 'The space reaches the outside only through a passage too narrow for resin and air to follow, so it pulls like a shut one.', help: 'Widen the passage, or make a vent near its first layers.' }
    return { why: `From layer ${f.layer + 1} to ${f.lastLayer + 1} this space is shut against the film and pulls at every layer, with about ${c.pullN.toFixed(1)} N at its widest.`, help: c.bySupports ? 'Stilts that touch each other close it: leave a gap between their feet.' : 'Tilt the part so that it opens earlier, or make the proposed vent before printing.' }
  },
}

/** A space that is closed all around. */
export const sealed: KindSpec<'sealed'> = {
  ...shared, name: 'Sealed cavity', plural: 'Sealed cavities', symbol: { path: 'M4.6 2H11.4L14.8 8 11.4 14H4.6L1.2 8ZM8 5.6A2.4 2.4 0 1 0 8 10.4 2.4 2.4 0 1 0 8 5.6Z', color: PALETTE.cup },
  rows: ({ result }) => ({ findings: (result?.cups ?? []).filter(c => isSealed(c) && !isPocket(c, result?.layerMm ?? 0)).map(c => rowOf('sealed', c)) }),
  title: () => 'Sealed cavity',
  advice: () => ({ why: 'This space is closed all around: liquid resin stays locked in and may burst the part later.', help: 'Make a drain hole into it before printing.' }),
}
