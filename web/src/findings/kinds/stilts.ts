import { PALETTE } from '../../styles/palette'
import { placeKey, type KindSpec, type Row } from '../types'

const ARROW = { path: 'M6 1.5H10V8H14L8 14.5 2 8H6Z', color: PALETTE.ink }
const MOVE_ITS_FOOT = 'Move its foot to where it finds a way down, or delete it.'
const layerOnly = (f: { readonly layer: number }): readonly (readonly [string, string])[] => [['Layer', String(f.layer + 1)]]

/** A stilt that begins in the air. */
export const floating: KindSpec<'floating'> = {
  name: 'Floating stilt', plural: 'Floating stilts', symbol: ARROW, track: 'symbol', noStilt: MOVE_ITS_FOOT, weight: () => 0, facts: layerOnly,
  rows: ({ result }) => ({ findings: (result?.floating ?? []).map((f): Row<'floating'> => ({ key: `floating-${f.layer}-${placeKey(f.center)}`, kind: 'floating', state: 'open', name: 'Floating stilt', figure: `${(f.layer * (result?.layerMm ?? 0)).toFixed(2)} mm`, layer: f.layer, lastLayer: f.layer, at: f.center })) }),
  advice: () => ({ why: 'A stilt begins here in the air, so it prints on nothing.', help: 'Move its foot to the plate or delete it.' }),
}

/** A stilt that no longer makes sense as the part stands: it found no way down, or its tip faces up. */
export const lost: KindSpec<'lost'> = {
  name: 'Lost stilt', plural: 'Lost stilts', symbol: ARROW, noStilt: 'Re-aim it, delete it, or keep it for another pose.', weight: () => 0, facts: () => [],
  rows: ({ stilts }) => ({ findings: stilts.filter(s => s.foot === 'lost').map((s): Row<'lost'> => ({ key: `lost-${s.id}`, kind: 'lost', state: 'open', name: 'Lost stilt', figure: `stilt ${s.number}`, layer: 0, lastLayer: 0, at: [s.path[0][0], s.path[0][1], s.path[0][2]], stilts: [s.id], because: s.lostFor ?? '' })) }),
  advice: f => ({ why: `As the part stands now this stilt makes no sense and is not printed.${f.because ? ` ${f.because}` : ''}`, help: 'Re-aim it to the nearest place that holds, remove it, or keep it for another pose.' }),
}
