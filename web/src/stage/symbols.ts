import { FINDING_KINDS, type FindingKind, type ShownState } from '../findings'

/** Draws a symbol on a canvas: solid where open, lower half filled where partly held, an outline where settled, dashed where waived; a casing of paper around it. */
export function drawSymbol(context: CanvasRenderingContext2D, kind: FindingKind, state: ShownState, x: number, y: number, size: number, casing: string): void {
  const { symbol } = FINDING_KINDS[kind]
  const path = new Path2D(symbol.path)
  context.save()
  context.translate(x, y)
  context.scale(size / 16, size / 16)
  context.lineJoin = 'round'
  context.strokeStyle = casing
  context.lineWidth = 4
  context.stroke(path)
  context.fillStyle = state === 'open' ? symbol.color : casing
  context.fill(path, 'evenodd')
  if (state !== 'open') {
    if (state === 'partly') {
      context.save()
      context.beginPath()
      context.rect(0, 8, 16, 8)
      context.clip()
      context.fillStyle = symbol.color
      context.fill(path, 'evenodd')
      context.restore()
    }
    context.strokeStyle = symbol.color
    context.lineWidth = 1.8
    if (state === 'waived') context.setLineDash([2.4, 2])
    context.stroke(path)
  }
  context.restore()
}
