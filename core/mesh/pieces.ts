import type { Mesh } from './triangle-mesh'

/** Pieces of a mesh that hang together over shared corners, each with the numbers of its triangles. */
export function piecesOf({ positions, triangles }: Mesh): Uint32Array[] {
  const root = Int32Array.from({ length: positions.length / 3 }, (_, i) => i)
  const find = (v: number): number => {
    while (root[v] !== v) v = root[v] = root[root[v]]
    return v
  }
  for (let i = 0; i < triangles.length; i += 3) {
    const a = find(triangles[i])
    root[find(triangles[i + 1])] = a
    root[find(triangles[i + 2])] = a
  }
  const counts = new Map<number, number>()
  for (let i = 0; i < triangles.length; i += 3) {
    const r = find(triangles[i])
    counts.set(r, (counts.get(r) ?? 0) + 1)
  }
  const pieces = new Map([...counts].map(([r, count]) => [r, { of: new Uint32Array(count), filled: 0 }]))
  for (let i = 0; i < triangles.length; i += 3) {
    const piece = pieces.get(find(triangles[i]))
    if (piece) piece.of[piece.filled++] = i / 3
  }
  return [...pieces.values()].map(p => p.of)
}

/** Some triangles of a mesh as a mesh of their own, without corners that none of them has; each tells which one it was. */
export function meshOfFaces(mesh: Mesh, some: Uint32Array): Mesh {
  const numbers = new Map<number, number>(), triangles = new Uint32Array(3 * some.length)
  for (let i = 0; i < some.length; i++) {
    for (let c = 0; c < 3; c++) {
      const v = mesh.triangles[3 * some[i] + c]
      let number = numbers.get(v)
      if (number === undefined) numbers.set(v, (number = numbers.size))
      triangles[3 * i + c] = number
    }
  }
  const positions = new Float32Array(3 * numbers.size)
  for (const [v, number] of numbers) for (let a = 0; a < 3; a++) positions[3 * number + a] = mesh.positions[3 * v + a]
  return { positions, triangles, from: Uint32Array.from(some, n => mesh.from?.[n] ?? n) }
}
