import { boundsOf, InsideTest, joinMeshes, volumeOf, type Box, type Mesh } from '../mesh'

/** A space within the part that its wall closes off. */
export interface Chamber {
  readonly volumeMm3: number
  readonly box: Box
}

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

/** Some triangles of a mesh as a mesh of their own, without corners that none of them has. */
export function meshOf(mesh: Mesh, some: Uint32Array): Mesh {
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
  return { positions, triangles, ...(mesh.from && { from: Uint32Array.from(some, n => mesh.from?.[n] ?? n) }) }
}

export interface Chambers {
  /** Largest first. */
  readonly chambers: readonly Chamber[]
  /** The walls of these chambers, facing into them. */
  readonly walls: Mesh
  /** The skin, without closed spaces that the chambers take in. */
  readonly skin: Mesh
  /** Spaces that would be too small to drain, and were left solid. */
  readonly leftSolid: { readonly count: number; readonly volumeMm3: number }
}

/**
 * Tells the spaces that an inner wall makes. What is too small is left solid. Around a space that the part has already the inner wall
 * goes as well; where nothing ties such a bubble to the skin it would lie loose in the chamber, so it becomes part of that.
 * @param wall faces into the hollow @param leastMm3 of a chamber
 */
export function chambersOf(skin: Mesh, wall: Mesh, leastMm3: number): Chambers {
  const pieces = piecesOf(wall).map(of => {
    const mesh = meshOf(wall, of)
    return { mesh, volumeMm3: -volumeOf(mesh) }
  })
  const small = pieces.filter(p => p.volumeMm3 > 0 && p.volumeMm3 < leastMm3), loose = pieces.filter(p => p.volumeMm3 <= 0)
  const kept = pieces.filter(p => p.volumeMm3 >= leastMm3).sort((a, b) => b.volumeMm3 - a.volumeMm3)
  const bubbles = loose.map(p => new InsideTest(p.mesh, all(p.mesh)))
  const stays = (of: Uint32Array): boolean => {
    const v = 3 * skin.triangles[3 * of[0]], { positions: p } = skin
    return !bubbles.some(b => b.winding(p[v], p[v + 1], p[v + 2]) !== 0)
  }
  return {
    chambers: kept.map(({ mesh, volumeMm3 }) => ({ volumeMm3, box: boundsOf(mesh.positions) })),
    walls: joinMeshes(kept.map(p => p.mesh)),
    skin: loose.length === 0 ? skin : meshOf(skin, Uint32Array.from(piecesOf(skin).filter(stays).flatMap(of => [...of]))),
    leftSolid: { count: small.length, volumeMm3: small.reduce((sum, p) => sum + p.volumeMm3, 0) },
  }
}

const all = (mesh: Mesh): Uint32Array => Uint32Array.from({ length: mesh.triangles.length / 3 }, (_, i) => i)
