export interface PagePoint {
  readonly x: number
  readonly y: number
}

/** Whether a point is inside an outline, which may cross itself: its rays cross it an odd number of times. */
export function isInside(outline: readonly PagePoint[], { x, y }: PagePoint): boolean {
  let inside = false
  outline.forEach((a, i) => {
    const b = outline[(i + 1) % outline.length]
    if (a.y > y !== b.y > y && x < ((b.x - a.x) * (y - a.y)) / (b.y - a.y) + a.x) inside = !inside
  })
  return inside
}
