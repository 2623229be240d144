import type { Mesh, Vec3 } from '../mesh'
import { carryItself, type Carrying } from './carried'
import { nearWhatChanged, surfaceOf, type Surface } from './surface'
import { transposed, turned, turnUpright } from './turn'
import { WallCrew } from './wall-crew'
import type { WallHelper } from './wall-work'

/** How often the surface is made, at the most, until no side of it runs through another; where a side does, the hollow is filled. */
const MOST_ROUNDS = 8

export interface InnerWallOptions {
  /** Given where the hollow is to carry itself, with the way up in the frame of the mesh, of length 1. */
  readonly carrying?: Carrying & { readonly up: Vec3 }
  /** The share that is done, 0 to 1. */
  readonly onProgress?: (share: number) => void
  /** For a look: corners lie at the wall's distance, but what is between them is not measured, and sides may run through each other. It takes about half the time. */
  readonly isRough?: boolean
  /** Further cores that share the work. It comes to the same with any of them. */
  readonly helpers?: readonly WallHelper[]
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
export async function innerWall(mesh: Mesh, wallMm: number, cellMm: number, { carrying, onProgress, isRough = false, helpers = [] }: InnerWallOptions = {}): Promise<Mesh> {
  const up = carrying ? turnUpright(carrying.up) : null, down = up && transposed(up), upright = up ? { ...mesh, positions: turned(mesh.positions, up) } : mesh
  const crew = await WallCrew.begin({ mesh: upright, wallMm, cellMm }, helpers), { grid } = crew
  await crew.find(share => onProgress?.(0.5 * share))
  if (carrying) carryItself(grid, cellMm, carrying)
  let surface: Surface | null = null, positions: Float32Array = new Float32Array()
  for (let round = 0; round < MOST_ROUNDS; round++) {
    onProgress?.(0.5 + (0.5 * round) / MOST_ROUNDS)
    surface = surfaceOf(grid, surface)
    await crew.place(surface, isRough)
    // as it will be kept: rounding may bring sides through each other too
    positions = turned(surface.corners, down)
    if (isRough) break
    const segments = turned(await crew.crossings(positions, round === 0 ? surface.triangles : nearWhatChanged(surface, cellMm)), up)
    if (segments.length === 0) break
    for (let i = 0; i < segments.length; i += 3) grid.fillAround(segments[i], segments[i + 1], segments[i + 2])
  }
  crew.end()
  onProgress?.(1)
  return { positions, triangles: surface?.triangles ?? new Uint32Array() }
}
