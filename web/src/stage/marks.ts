import type { FindingKind, ShownState } from '../stores/findings'
import { PALETTE } from '../styles/palette'

/** The shape of every kind of finding as an SVG path in a box of 16 × 16: shape first, colour second. */
export const MARKS: Record<FindingKind, { readonly path: string; readonly color: string; readonly name: string; readonly plural: string }> = {
  island: { path: 'M8 1.2 14.8 8 8 14.8 1.2 8Z', color: PALETTE.island, name: 'Island', plural: 'Islands' },
  ledge: { path: 'M2 2H14V6.4H6.4V14H2Z', color: PALETTE.ledge, name: 'Ledge', plural: 'Ledges' },
  cup: { path: 'M2 2H6V8.2A2 2 0 0 0 10 8.2V2H14V8.4A6 6 0 0 1 2 8.4Z', color: PALETTE.cup, name: 'Cup', plural: 'Cups' },
  sealed: { path: 'M4.6 2H11.4L14.8 8 11.4 14H4.6L1.2 8ZM8 5.6A2.4 2.4 0 1 0 8 10.4 2.4 2.4 0 1 0 8 5.6Z', color: PALETTE.cup, name: 'Sealed cavity', plural: 'Sealed cavities' },
  pool: { path: 'M8 1.4C10.8 5.6 13.2 7.8 13.2 10.4A5.2 4.6 0 0 1 2.8 10.4C2.8 7.8 5.2 5.6 8 1.4Z', color: PALETTE.cup, name: 'Pool', plural: 'Pools' },
  floating: { path: 'M6 1.5H10V8H14L8 14.5 2 8H6Z', color: PALETTE.ink, name: 'Floating stilt', plural: 'Floating stilts' },
  outside: { path: 'M1.5 1.5H14.5V14.5H1.5ZM4 4V12H12V4Z', color: PALETTE.island, name: 'Out of the plate', plural: 'Out of the plate' },
  overlap: { path: 'M1.5 1.5H10.5V5.5H14.5V14.5H5.5V10.5H1.5Z', color: PALETTE.island, name: 'Into another part', plural: 'Into another part' },
  lost: { path: 'M6 1.5H10V8H14L8 14.5 2 8H6Z', color: PALETTE.ink, name: 'Lost foot', plural: 'Lost feet' },
}

/** Draws a mark on a canvas: solid where open, lower half filled where partly held, an outline where settled, dashed where waived; a casing of paper around it. */
export function drawMark(context: CanvasRenderingContext2D, kind: FindingKind, state: ShownState, x: number, y: number, size: number, casing: string): void {
  const mark = MARKS[kind]
  const path = new Path2D(mark.path)
  context.save()
  context.translate(x, y)
  context.scale(size / 16, size / 16)
  context.lineJoin = 'round'
  context.strokeStyle = casing
  context.lineWidth = 4
  context.stroke(path)
  context.fillStyle = state === 'open' ? mark.color : casing
  context.fill(path, 'evenodd')
  if (state !== 'open') {
    if (state === 'partly') {
      context.save()
      context.beginPath()
      context.rect(0, 8, 16, 8)
      context.clip()
      context.fillStyle = mark.color
      context.fill(path, 'evenodd')
      context.restore()
    }
    context.strokeStyle = mark.color
    context.lineWidth = 1.8
    if (state === 'waived') context.setLineDash([2.4, 2])
    context.stroke(path)
  }
  context.restore()
}
