import { PALETTE } from '../../styles/palette'
import { mmText, type KindSpec, type Row } from '../types'

const sizeOf = ({ overMm, aboveMm }: { readonly overMm: number; readonly aboveMm: number }): string => (overMm > 0 ? `${mmText(overMm)} over` : `${mmText(aboveMm)} too high`)

/** A copy that reaches over the edge of the plate, or higher than the printer prints. */
export const outside: KindSpec<'outside'> = {
  name: 'Out of the plate', plural: 'Out of the plate', symbol: { path: 'M1.5 1.5H14.5V14.5H1.5ZM4 4V12H12V4Z', color: PALETTE.island }, noStilt: 'No stilt helps here. Move the part on the plate.',
  rows: ({ plate }) => ({ findings: plate.filter(t => t.kind === 'outside').map((t): Row<'outside'> => ({ key: `outside-${t.copies[0]}`, kind: 'outside', state: 'open', name: 'Out of the plate', figure: `${t.names[0]}, ${sizeOf(t)}`, layer: t.layer, lastLayer: t.layer, at: t.at, copies: t.copies, names: t.names, overMm: t.overMm, aboveMm: t.aboveMm })) }),
  weight: () => 0,
  advice: f => (f.overMm <= 0 ? { why: 'It reaches higher than the printer can print; what is above is not made.', help: 'Tilt the part so that it lies lower, or choose a taller printer.' } : { why: 'It reaches over the edge of the plate; what is beyond is not printed.', help: 'Move or turn it on the plate, or choose a larger printer.' }),
  facts: f => [['Part', f.figure]],
}
