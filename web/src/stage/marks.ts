import { FINDING_KINDS, type FindingKind, type ShownState } from '../findings'

/** Draws a mark on a canvas: solid where open, lower half filled where partly held, an outline where settled, dashed where waived; a casing of paper around it. */
export function drawMark(context: CanvasRenderingContext2D, kind: FindingKind, state: ShownState, x: number, y: number, size: number, casing: string): void {
  const { mark } = FINDING_KINDS[kind]
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
