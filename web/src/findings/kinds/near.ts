import { PALETTE } from '../../styles/palette'
import { mmText, type KindSpec, type Row } from '../types'

function gapText(gapMm: number): string {
  return gapMm > 0 ? mmText(gapMm) : 'touching'
}

/** Two stilts nearer to each other than the resin keeps open. */
export const near: KindSpec<'near'> = {
  name: 'Stilts too near', plural: 'Stilts too near', symbol: { path: 'M1.5 14.5 5 1.5H7.3L6.4 14.5ZM14.5 14.5 11 1.5H8.7L9.6 14.5Z', color: PALETTE.ink }, track: 'symbol', noStilt: 'One more stilt does not help here. Move one of the two, or delete it.',
  folded: { name: 'More stilts too near', explains: 'Only the nearest pairs are listed one by one. A resin or a gauge that needs less room, or fewer stilts, settles many at once.' },
  rows: ({ result, stilts, near: { pairs, more } }) => {
    const numbers = new Map(stilts.map(s => [s.id, s.number])), layerMm = result?.layerMm ?? 0
    return {
      folded: more,
      findings: pairs.map(({ stilts: both, gapMm, at }): Row<'near'> => {
        const layer = layerMm > 0 ? Math.max(0, Math.floor(at[2] / layerMm)) : 0
        return { key: `near-${both.join('-')}`, kind: 'near', state: 'open', name: `Stilts ${both.map(id => numbers.get(id) ?? '?').join(' and ')}`, figure: `${both.map(id => numbers.get(id) ?? '?').join(' and ')}, ${gapText(gapMm)}`, layer, lastLayer: layer, at, stilts: both, gapMm }
      }),
    }
  },
  weight: () => 6,
  group: () => ({ key: 'near', plural: 'Stilts too near' }),
  sum: list => gapText(Math.min(...list.map(f => f.gapMm))),
  advice: f => ({
    why: f.gapMm > 0 ? `${f.name} come within ${mmText(f.gapMm)} of each other. This resin bridges so small a gap, and both grow together.` : `${f.name} run through each other, so they print as one.`,
    help: 'Move the tip or the foot of one of them, give it a finer gauge, or delete it. Where it does no harm, leave it as it is.',
  }),
  facts: f => [['Gap', gapText(f.gapMm)], ['Nearest at layer', String(f.layer + 1)], ['There', `${f.at.map(v => v.toFixed(2)).join(', ')} mm`]],
}
