import { findCrossings, NearestTree, type Mesh } from '../mesh'
import { carryItself, type Carrying } from './carried'
import { place, setBack } from './placing'
import { nearWhatChanged, surfaceOf, type Surface } from './surface'
import { WallGrid } from './wall-grid'

/** How often the surface is made, at the most, until no side of it runs through another; where a side does, the hollow is filled. */
const MOST_ROUNDS = 8, MOST_FILLED = 20_000
/** By so much walls are thicker than asked, so that none is thinner by what is not worth measuring, mm. */
const SPARE_MM = 1.5e-4

export interface InnerWallOptions {
  /** Given where the hollow is to carry itself, up being +z. */
  readonly carrying?: Carrying
  /** The share that is done, 0 to 1. */
  readonly onProgress?: (share: number) => void
}

/**
 * The surface within a closed mesh that lies a wall's thickness below its skin. It faces into the hollow, so that joined to the mesh it
 * makes a shell; closed, in as many pieces as there are hollows. A corner lies at the wall's distance, farther where a face between
 * corners would come nearer to the skin: such a face is a chord, and where the skin is dented it cuts off some of what is between.
 *
 * One corner for each piece of surface in a cell, moved along its nearest direction; see `cellPieces` and `WallGrid`. Where the hollow is
 * narrower than a cell, so that its sides would run through each other, it is filled.
 * @param wallMm above zero @param cellMm edge of the cells, which is about that of the triangles; a wall should be of two cells at least
 */
export function innerWall(mesh: Mesh, wallMm: number, cellMm: number, { carrying, onProgress }: InnerWallOptions = {}): Mesh {
  const tree = new NearestTree(mesh), least = wallMm + SPARE_MM, grid = new WallGrid(mesh, tree, least, cellMm)
  grid.find(share => onProgress?.(0.7 * share))
  if (carrying) carryItself(grid, cellMm, carrying)
  let surface: Surface | null = null
  for (let round = 0; round < MOST_ROUNDS; round++) {
    onProgress?.(0.7 + (0.3 * round) / MOST_ROUNDS)
    surface = surfaceOf(grid, cellMm, surface)
    place(surface, grid, tree, least, cellMm)
    setBack(surface, grid, tree, wallMm, SPARE_MM, cellMm)
    const { segments } = findCrossings({ positions: Float32Array.from(surface.corners), triangles: round === 0 ? surface.triangles : nearWhatChanged(surface, cellMm) }, MOST_FILLED)
    if (segments.length === 0) break
    for (let i = 0; i < segments.length; i += 3) grid.fillAround(segments[i], segments[i + 1], segments[i + 2])
  }
  onProgress?.(1)
  return surface ? { positions: Float32Array.from(surface.corners), triangles: surface.triangles } : { positions: new Float32Array(), triangles: new Uint32Array() }
}
