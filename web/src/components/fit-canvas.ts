/** Gives a canvas as many pixels as the screen has for it, and a context whose unit is the CSS pixel; null before it is laid out. */
export function fitCanvas(canvas: HTMLCanvasElement | null): { context: CanvasRenderingContext2D; width: number; height: number } | null {
  const context = canvas?.getContext('2d')
  if (!canvas || !context) return null
  const ratio = Math.min(2, window.devicePixelRatio)
  const width = canvas.clientWidth, height = canvas.clientHeight
  canvas.width = Math.round(width * ratio)
  canvas.height = Math.round(height * ratio)
  context.setTransform(ratio, 0, 0, ratio, 0, 0)
  return { context, width, height }
}
