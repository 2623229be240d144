import { PALETTE } from '../../styles/palette'
import { mmText, placeKey, TILT_OR_VENT, volumeText, type KindSpec, type Row } from '../types'

/** A hollow that resin cannot run out of while air comes in: it has too few openings. */
export const openings: KindSpec<'openings'> = {
  name: 'Too few openings', plural: 'Too few openings', symbol: { path: 'M8 1.6A6.4 6.4 0 1 1 1.6 8H4.4A3.6 3.6 0 1 0 8 4.4Z', color: PALETTE.cup }, track: 'symbol', inside: true, noStilt: TILT_OR_VENT,
  rows: ({ openings: { few }, result }) => ({ findings: few.map((o): Row<'openings'> => ({ key: `openings-${o.chamber}-${placeKey(o.at)}`, kind: 'openings', state: 'open', name: o.count === 1 ? 'One opening' : `${o.count} openings`, figure: volumeText(o.volumeMm3), layer: layerAt(o.at[2], result?.layerMm), lastLayer: layerAt(o.at[2], result?.layerMm), ...o })) }),
  weight: () => 7,
  sum: list => volumeText(list.reduce((n, f) => n + f.volumeMm3, 0)),
  advice: f => ({ why: `This hollow has ${f.count === 1 ? 'one opening' : `${f.count} openings`}; the resin asks for ${f.wanted}. Resin runs out of one only while air comes in by another.`, help: 'Drill one more, far from the first: at the lowest place as it prints, and at the lowest as it hangs.' }),
  facts: f => [['Hollow', volumeText(f.volumeMm3)], ['Openings', `${f.count} of ${f.wanted}`]],
}

/** An opening of a hollow that is too narrow for its resin. */
export const narrow: KindSpec<'narrow'> = {
  name: 'Narrow hole', plural: 'Narrow holes', symbol: { path: 'M1.5 2H14.5L9.4 8 14.5 14H1.5L6.6 8Z', color: PALETTE.cup }, track: 'symbol', noStilt: 'No stilt helps here. Widen the hole.',
  rows: ({ openings: o, result }) => ({ findings: o.narrow.map((n): Row<'narrow'> => ({ key: `narrow-${n.hole}`, kind: 'narrow', state: 'open', name: 'Narrow hole', figure: mmText(n.diameterMm), layer: layerAt(n.at[2], result?.layerMm), lastLayer: layerAt(n.at[2], result?.layerMm), ...n })) }),
  weight: () => 7,
  advice: f => ({ why: `This hole of ${mmText(f.diameterMm)} opens a hollow; the resin asks for ${mmText(f.wantedMm)}. Thick resin hangs in a narrow one, and it clogs as it cures.`, help: 'Widen it, or leave it where the resin is known to run.' }),
  facts: f => [['Narrowest', mmText(f.diameterMm)], ['Asked for', mmText(f.wantedMm)]],
}

const layerAt = (zMm: number, layerMm = 0): number => (layerMm > 0 ? Math.max(0, Math.floor(zMm / layerMm)) : 0)
