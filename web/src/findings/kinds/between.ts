import { PALETTE } from '../../styles/palette'
import { volumeText, type KindSpec, type Row } from '../types'

/** A space that no part closes by itself, but several do side by side. */
export const between: KindSpec<'between'> = {
  name: 'Cup between parts', plural: 'Cups between parts', symbol: { path: 'M1.5 2H5V11H7.2V14.5H1.5ZM14.5 2H11V11H8.8V14.5H14.5Z', color: PALETTE.cup }, track: 'layers', noStilt: 'No stilt helps here. Move one of the parts away on the plate.',
  rows: ({ plate }) => ({ findings: plate.filter(t => t.kind === 'between').map((t): Row<'between'> => ({ key: `between-${t.copies.join('-')}-${t.layer}`, kind: 'between', state: 'open', name: 'Cup between parts', figure: volumeText(t.cup.volumeMm3), layer: t.layer, lastLayer: t.cup.lastLayer, at: t.at, copies: t.copies, names: t.names, cup: t.cup })) }),
  weight: () => 4,
  advice: f => ({ why: `From layer ${f.layer + 1} to ${f.lastLayer + 1} these parts close a space between them that is shut against the film and pulls, with about ${f.cup.pullN.toFixed(1)} N at its widest.`, help: 'Move one of them away on the plate, so that resin and air can follow.' }),
  facts: ({ cup: c }) => [['Layers', `${c.firstLayer + 1} to ${c.lastLayer + 1}`], ['Encloses at most', `${c.peakAreaMm2.toFixed(1)} mm²`], ['Volume', volumeText(c.volumeMm3)], ['Pull, estimate', `${c.pullN.toFixed(2)} N`]],
}
