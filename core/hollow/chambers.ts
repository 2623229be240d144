import { boundsOf, InsideTest, joinMeshes, meshOfFaces, piecesOf, volumeOf, type Box, type Mesh } from '../mesh'

/** A space within the part that its wall closes off. */
export interface Chamber {
  readonly volumeMm3: number
  readonly box: Box
  /** Where its wall is among the triangles of the walls. */
  readonly first: number
  readonly count: number
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
    const mesh = meshOfFaces(wall, of)
    return { mesh, volumeMm3: -volumeOf(mesh) }
  })
  const small = pieces.filter(p => p.volumeMm3 > 0 && p.volumeMm3 < leastMm3), loose = pieces.filter(p => p.volumeMm3 <= 0)
  const kept = pieces.filter(p => p.volumeMm3 >= leastMm3).sort((a, b) => b.volumeMm3 - a.volumeMm3)
  const bubbles = loose.map(p => new InsideTest(p.mesh))
  const stays = (of: Uint32Array): boolean => {
    const v = 3 * skin.triangles[3 * of[0]], { positions: p } = skin
    return !bubbles.some(b => b.winding(p[v], p[v + 1], p[v + 2]) !== 0)
  }
  let first = 0
  const chambers = kept.map(({ mesh, volumeMm3 }): Chamber => {
    const count = mesh.triangles.length / 3
    first += count
    return { volumeMm3, box: boundsOf(mesh.positions), first: first - count, count }
  })
  return {
    chambers,
    walls: joinMeshes(kept.map(p => p.mesh)),
    skin: loose.length === 0 ? skin : meshOfFaces(skin, Uint32Array.from(piecesOf(skin).filter(stays).flatMap(of => [...of]))),
    leftSolid: { count: small.length, volumeMm3: small.reduce((sum, p) => sum + p.volumeMm3, 0) },
  }
}
