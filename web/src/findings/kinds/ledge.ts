import { PALETTE } from '../../styles/palette'
import { mmText, placeKey, shareText, type KindSpec, type Row } from '../types'

/** From this area on a ledge comes before small cups, mm². */
const LARGE_MM2 = 4
const NOTHING_LEFT = 'Nothing is left to do here.'

/** What is attached to held material and reaches too far out from it, on one side or between two. */
export const ledge: KindSpec<'ledge'> = {
  name: 'Ledge', plural: 'Ledges', symbol: { path: 'M2 2H14V6.4H6.4V14H2Z', color: PALETTE.ledge }, track: 'symbol', noStilt: null,
  folded: { name: 'Bridges that carry themselves', explains: 'Spans and arches that are held on opposite sides and narrow enough to carry themselves; they need nothing.' },
  rows: ({ result }) => ({
    folded: result?.ledges.filter(l => l.state === 'noted').length,
    findings: (result?.ledges ?? []).filter(l => l.state !== 'noted').map((l): Row<'ledge'> => {
      const state = l.state === 'held' ? 'settled' : l.state === 'partly' ? 'partly' : 'open'
      return {
        key: `ledge-${l.firstLayer}-${placeKey(l.at)}`, kind: 'ledge', state, name: l.wide ? 'Wide span' : 'Ledge', figure: state === 'partly' ? `${shareText(l.heldShare)} held` : `${l.reachMm.toFixed(2)} mm out`,
        layer: Math.round(l.worst[2] / (result?.layerMm ?? 1) - 0.5), lastLayer: l.lastLayer, at: l.worst, ledge: l,
      }
    }),
  }),
  weight: f => (f.ledge.areaMm2 >= LARGE_MM2 ? 3 : 6),
  group: f => (f.ledge.wide ? { key: 'span', plural: 'Wide spans' } : { key: 'ledge', plural: 'Ledges' }),
  sum: list => `${list.reduce((n, f) => n + f.ledge.hangingMm2, 0).toFixed(1)} mm²`,
  knownAt: f => f.ledge.at,
  advice: f => {
    const l = f.ledge
    if (f.state === 'settled') return { why: `This reaches ${l.reachMm.toFixed(2)} mm out by itself; with the stilts all of it is within reach of what holds it.`, help: NOTHING_LEFT }
    if (f.state === 'partly') return { why: `Stilts hold a part of it, but ${l.hangingMm2.toFixed(2)} mm² are still laid up to ${l.hangingReachMm.toFixed(2)} mm from what holds them and would curl up or sag.`, help: 'Add tips inside the outline that is drawn on the model, or hold the rest of it at once.' }
    if (l.wide) return { why: `This span is held on opposite sides, but ${(l.spanMm ?? 0).toFixed(2)} mm is more than it can carry; ${l.areaMm2.toFixed(1)} mm² would sag.`, help: 'Stand a row of tips under its middle, or tilt the part so that it closes in steps.' }
    return { why: `Skin juts out ${l.reachMm.toFixed(2)} mm from what holds it; ${l.areaMm2.toFixed(1)} mm² would curl up or peel off.`, help: 'Place tips along its outer edge, or tilt the part so that it rises more steeply.' }
  },
  facts: ({ ledge: l }) => [
    ['Layers', `${l.firstLayer + 1} to ${l.lastLayer + 1}`], ['Reaches out', mmText(l.reachMm)], ['Hangs without stilts', `${l.areaMm2.toFixed(2)} mm²`],
    ['Within reach', shareText(l.heldShare)], ...(l.state === 'partly' ? [['Still hangs', `${l.hangingMm2.toFixed(2)} mm²`] as const] : []),
    ['Held', !l.wide || l.spanMm === null ? 'on one side' : `on opposite sides, ${mmText(l.spanMm)} apart`], [l.state === 'partly' ? 'Farthest that hangs' : 'Farthest point', `${l.worst.map(v => v.toFixed(2)).join(', ')} mm`],
  ],
}
