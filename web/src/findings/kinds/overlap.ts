import { PALETTE } from '../../styles/palette'
import type { KindSpec, Row } from '../types'

/** Two copies that run into each other. */
export const overlap: KindSpec<'overlap'> = {
  name: 'Into another part', plural: 'Into another part', symbol: { path: 'M1.5 1.5H10.5V5.5H14.5V14.5H5.5V10.5H1.5Z', color: PALETTE.island }, noStilt: 'No stilt helps here. Move the part on the plate.',
  rows: ({ plate }) => ({ findings: plate.filter(t => t.kind === 'overlap').map((t): Row<'overlap'> => ({ key: `overlap-${t.copies.join('-')}`, kind: 'overlap', state: 'open', name: 'Into another part', figure: t.names.join(', '), layer: t.layer, lastLayer: t.layer, at: t.at, copies: t.copies, names: t.names })) }),
  weight: () => 0,
  advice: () => ({ why: 'Both stand in the same place, and would print as one.', help: 'Move one of them away on the plate.' }),
  facts: f => [['Parts', f.figure], ['Meet at layer', String(f.layer + 1)]],
}
