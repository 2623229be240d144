import { PALETTE } from '../../styles/palette'
import { placeKey, TILT_OR_VENT, volumeText, type KindSpec, type Row } from '../types'

/** Resin that stays in the part as it hangs from the plate. */
export const pool: KindSpec<'pool'> = {
  name: 'Pool', plural: 'Pools', symbol: { path: 'M8 1.4C10.8 5.6 13.2 7.8 13.2 10.4A5.2 4.6 0 0 1 2.8 10.4C2.8 7.8 5.2 5.6 8 1.4Z', color: PALETTE.cup }, track: 'outline', inside: true, noStilt: TILT_OR_VENT,
  rows: ({ result }) => ({ findings: (result?.pools ?? []).map((p): Row<'pool'> => ({ key: `pool-${p.firstLayer}-${placeKey(p.at)}`, kind: 'pool', state: 'open', name: 'Pool', figure: volumeText(p.volumeMm3), layer: p.firstLayer, lastLayer: p.lastLayer, at: p.at, pool: p })) }),
  weight: () => 7,
  sum: list => volumeText(list.reduce((n, f) => n + f.pool.volumeMm3, 0)),
  advice: f => ({ why: `As the part hangs from the plate, ${f.figure} of resin stay in it and harden there or drip later.`, help: 'Tilt the part so that it drains, or make a hole at its lowest place as it hangs.' }),
  facts: ({ pool: p }) => [['Layers', `${p.firstLayer + 1} to ${p.lastLayer + 1}`], ['Holds', volumeText(p.volumeMm3)], ['Widest', `${p.peakAreaMm2.toFixed(1)} mm²`]],
}
