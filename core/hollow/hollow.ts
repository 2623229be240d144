import { isClosed, joinMeshes, NO_SOURCE, volumeOf, type Mesh } from '../mesh'
import { chambersOf, type Chamber, type Chambers } from './chambers'
import { HollowError } from './hollow-error'
import { innerWall, type InnerWallOptions } from './inner-wall'

/** Smaller chambers are left solid, mm³: about a ball of 3 mm across, of which the holes that open it would leave next to nothing. Our own choice. */
const LEAST_CHAMBER_MM3 = 15
/** The wall is of so many cells at least. */
export const LEAST_CELLS = 2

export interface HollowOptions extends Pick<InnerWallOptions, 'carrying' | 'onProgress' | 'helpers'> {
  readonly wallMm: number
  /** Edge of the cells in which the inner wall is made; it is about that of its triangles. */
  readonly cellMm: number
}

/** A part with its inside taken out. */
export interface Hollowed extends Pick<Chambers, 'chambers' | 'leftSolid'> {
  /** Largest first; their walls are counted among the triangles of the mesh. */
  readonly chambers: readonly Chamber[]
  /** Skin and inner walls; triangles of these come from no file. Triangles of the skin keep their numbers. */
  readonly mesh: Mesh
  /** What was taken out, mm³. */
  readonly hollowMm3: number
  /** Of the part before, mm³. */
  readonly solidMm3: number
}

export type { Chamber }

/**
 * Takes the inside out of a closed mesh, down to a wall of the given thickness, measured from the skin inward. What is thinner than two
 * walls stays solid.
 * @throws HollowError `not-closed`, `too-thin` where nothing would be taken out, `coarse` where the wall is thinner than two cells
 */
export async function hollowed(mesh: Mesh, { wallMm, cellMm, carrying, onProgress, helpers }: HollowOptions): Promise<Hollowed> {
  if (wallMm < LEAST_CELLS * cellMm) throw new HollowError('coarse', `A wall of ${wallMm} mm asks for cells of ${Number((wallMm / LEAST_CELLS).toPrecision(3))} mm or less.`)
  if (!isClosed(mesh)) throw new HollowError('not-closed', 'The mesh is not closed, so that it has no inside. Mend it first.')
  const solidMm3 = volumeOf(mesh), wall = await innerWall(mesh, wallMm, cellMm, { ...(carrying && { carrying }), ...(onProgress && { onProgress }), ...(helpers && { helpers }) })
  const { chambers, walls, skin, leftSolid } = chambersOf(mesh, wall, LEAST_CHAMBER_MM3)
  if (chambers.length === 0) throw new HollowError('too-thin', `Nowhere is the part thick enough for walls of ${wallMm} mm with room between them. Take a thinner wall, or leave it solid.`)
  const from = new Uint32Array((skin.triangles.length + walls.triangles.length) / 3).fill(NO_SOURCE), count = skin.triangles.length / 3
  for (let i = 0; i < count; i++) from[i] = skin.from?.[i] ?? i
  return { mesh: { ...joinMeshes([skin, walls]), from }, chambers: chambers.map(c => ({ ...c, first: c.first + count })), leftSolid, solidMm3, hollowMm3: chambers.reduce((sum, c) => sum + c.volumeMm3, 0) }
}
