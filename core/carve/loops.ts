/** Loops of points in a plane, whose inside is told by even and odd. */
export type FlatLoops = readonly (readonly (readonly [number, number])[])[]

/** Lines on which the inside is looked for. */
const LINES = 15

/** Whether a point lies within some loops. */
export function isWithin(loops: FlatLoops, x: number, y: number): boolean {
  return crossingsAt(loops, y).filter(c => c > x).length % 2 === 1
}

/** A point well within some loops: in the middle of the widest stretch that lines across them meet. Null where they have no inside. */
export function insideOf(loops: FlatLoops): [number, number] | null {
  const heights = loops.flat().map(p => p[1]), low = Math.min(...heights), high = Math.max(...heights)
  let widest = 0, best: [number, number] | null = null
  for (let n = 1; n <= LINES; n++) {
    const y = low + (n / (LINES + 1)) * (high - low), at = crossingsAt(loops, y)
    for (let i = 0; i + 1 < at.length; i += 2) {
      if (at[i + 1] - at[i] <= widest) continue
      widest = at[i + 1] - at[i]
      best = [(at[i] + at[i + 1]) / 2, y]
    }
  }
  return best
}

/** Where a level line crosses loops, from left to right. */
function crossingsAt(loops: FlatLoops, y: number): number[] {
  const out: number[] = []
  for (const loop of loops) {
    for (let i = 0, j = loop.length - 1; i < loop.length; j = i++) {
      const [ax, ay] = loop[i], [bx, by] = loop[j]
      if (ay > y !== by > y) out.push(((bx - ax) * (y - ay)) / (by - ay) + ax)
    }
  }
  return out.sort((a, b) => a - b)
}
