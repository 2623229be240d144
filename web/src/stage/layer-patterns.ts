import { LAYER_CODES } from '@oak-stilts/core/scan'
import { PALETTE } from '../styles/palette'

/** What a kind of region looks like in a layer: a ground and strokes, so that it is told apart without colour. */
export interface RegionLook {
  readonly code: number
  readonly name: string
  readonly ground: string
  readonly ink: string | null
  readonly strokes: 'none' | 'dots' | 'rising' | 'falling' | 'cross' | 'upright'
}

/** In the order in which they are painted. */
export const REGION_LOOKS: readonly RegionLook[] = [
  { code: LAYER_CODES.gone, name: 'ends below', ground: '#F3EEE3', ink: '#B8AE9B', strokes: 'upright' },
  { code: LAYER_CODES.enclosed, name: 'enclosed', ground: '#FFFFFF', ink: '#8B9570', strokes: 'dots' },
  { code: LAYER_CODES.cup, name: 'pulls', ground: '#EEF0E4', ink: PALETTE.cup, strokes: 'rising' },
  { code: LAYER_CODES.model, name: 'held', ground: '#B5AC9A', ink: null, strokes: 'none' },
  { code: LAYER_CODES.hanging, name: 'hangs', ground: '#C3CBEA', ink: PALETTE.island, strokes: 'falling' },
  { code: LAYER_CODES.stilt, name: 'stilt', ground: PALETTE.stilt, ink: null, strokes: 'none' },
  { code: LAYER_CODES.fresh, name: 'new', ground: '#DDD5C4', ink: '#4A453C', strokes: 'dots' },
  { code: LAYER_CODES.freshHanging, name: 'new, hangs', ground: PALETTE.island, ink: '#FFFDF8', strokes: 'cross' },
]

const cache = new Map<string, CanvasPattern | string>()

/** The fill of a kind of region on a canvas. */
export function fillOf(context: CanvasRenderingContext2D, look: RegionLook): CanvasPattern | string {
  if (look.strokes === 'none' || !look.ink) return look.ground
  const known = cache.get(look.name)
  if (known) return known
  const tile = document.createElement('canvas')
  tile.width = tile.height = 6
  const t = tile.getContext('2d') as CanvasRenderingContext2D
  t.fillStyle = look.ground
  t.fillRect(0, 0, 6, 6)
  t.strokeStyle = t.fillStyle = look.ink
  t.lineWidth = 1
  const line = (ax: number, ay: number, bx: number, by: number): void => {
    t.beginPath()
    t.moveTo(ax, ay)
    t.lineTo(bx, by)
    t.stroke()
  }
  if (look.strokes === 'dots') t.fillRect(2, 2, 1.6, 1.6)
  if (look.strokes === 'upright') line(3, 0, 3, 6)
  if (look.strokes === 'rising' || look.strokes === 'cross') for (const o of [-6, 0, 6]) line(o, 6, o + 6, 0)
  if (look.strokes === 'falling' || look.strokes === 'cross') for (const o of [-6, 0, 6]) line(o, 0, o + 6, 6)
  const made = context.createPattern(tile, 'repeat') ?? look.ground
  cache.set(look.name, made)
  return made
}
