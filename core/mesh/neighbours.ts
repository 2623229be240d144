import Delaunator from 'delaunator'

/**
 * Pairs of points of a plane that lie beside each other: the edges of their Delaunay triangulation that are no longer than a reach, by
 * index, the lower one first. Points in one line follow each other.
 * @param points x, y of each
 */
export function neighbourPairs(points: readonly (readonly [number, number])[], reach: number): [number, number][] {
  const pairs = new Map<string, [number, number]>()
  const take = (a: number, b: number): void => {
    const [i, j] = a < b ? [a, b] : [b, a], d = Math.hypot(points[i][0] - points[j][0], points[i][1] - points[j][1])
    if (d > 0 && d <= reach) pairs.set(`${i} ${j}`, [i, j])
  }
  if (points.length === 2) take(0, 1)
  if (points.length < 3) return [...pairs.values()]
  const { triangles, hull } = Delaunator.from(points.map(([x, y]): [number, number] => [x, y]))
  for (let t = 0; t < triangles.length; t += 3) for (let k = 0; k < 3; k++) take(triangles[t + k], triangles[t + ((k + 1) % 3)])
  // in one line there are no triangles: the hull has them in order
  if (triangles.length === 0) for (let i = 0; i + 1 < hull.length; i++) take(hull[i], hull[i + 1])
  return [...pairs.values()]
}
