import { PALETTE } from '../../styles/palette'
import { CLASS_NAMES, shareText, volumeText, type KindSpec, type Row } from '../types'

const NOTHING_LEFT = 'Nothing is left to do here.'

/** What begins on nothing. */
export const island: KindSpec<'island'> = {
  name: 'Island', plural: 'Islands', symbol: { path: 'M8 1.2 14.8 8 8 14.8 1.2 8Z', color: PALETTE.island }, track: 'symbol', noStilt: null,
  folded: { name: 'Flakes that join at once', explains: 'Flakes of a few pixels that join the rest within three layers or lie within a pixel of it; they need nothing.' },
  rows: ({ result }) => ({
    folded: result?.islands.filter(i => i.state === 'noted').length,
    findings: (result?.islands ?? []).filter(i => i.state !== 'noted').map((i): Row<'island'> => ({
      key: `island-${i.id}`, kind: 'island', state: i.state === 'held' ? 'settled' : i.state === 'partly' ? 'partly' : 'open', name: CLASS_NAMES[i.class], figure: i.state === 'partly' ? `${shareText(i.heldShare)} held` : volumeText(i.volumeMm3),
      layer: i.layer, lastLayer: i.joinsLayer ?? (result?.layerCount ?? 1) - 1, at: i.aim, island: i,
    })),
  }),
  weight: f => ({ body: 1, limb: 2, detail: 5, flake: 8 })[f.island.class],
  title: f => `${f.name} island`,
  group: f => ({ key: f.island.class, plural: f.island.class === 'body' ? 'Body' : `${f.name}s` }),
  sum: list => volumeText(list.reduce((n, f) => n + f.island.volumeMm3, 0)),
  advice: f => {
    const i = f.island, grows = i.joinsLayer === null ? 'It never joins the rest' : `It joins the rest at layer ${i.joinsLayer + 1}`
    if (f.state === 'settled') return { why: `${grows}; ${f.figure} hang on it, and all of it is within reach of a grounded stilt or of what that holds.`, help: NOTHING_LEFT }
    if (f.state === 'partly') return { why: `A stilt touches its first layer, but ${i.hangingMm2.toFixed(2)} mm² of it are laid too far from anything that holds them and would sag or tear off.`, help: 'Add tips inside the outline that is drawn on the model, or hold the rest of it at once.' }
    if (i.class === 'flake' && i.joinsLayer === null) return { why: `Layer ${f.layer + 1} prints a speck on nothing, and it never joins the rest: cured debris that floats in the vat.`, help: 'Mend the mesh there, or hold it with the finest tip.' }
    return { why: `Layer ${f.layer + 1} prints this region on nothing. ${grows}; until then ${f.figure} hang on it.`, help: 'Place a stilt under its lowest point, or tilt the part so that it grows out of what is printed already.' }
  },
  facts: ({ island: i }) => [
    ['First layer', `${i.layer + 1}, ${i.zMm.toFixed(2)} mm`], ['Its area', `${i.areaMm2.toFixed(4)} mm²`], ['Largest area', `${i.largestAreaMm2.toFixed(2)} mm²`],
    ['Joins at layer', i.joinsLayer === null ? 'never' : String(i.joinsLayer + 1)], ['Hangs on it', volumeText(i.volumeMm3)], ['Centre', `${i.center.slice(0, 2).map(v => v.toFixed(2)).join(', ')} mm`],
    ['Aim a tip at', `${i.aim.map(v => v.toFixed(2)).join(', ')} mm`], ['Within reach', shareText(i.heldShare)], ...(i.state === 'partly' ? [['Still hangs', `${i.hangingMm2.toFixed(2)} mm²`] as const] : []),
  ],
}
