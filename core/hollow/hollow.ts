import { axesAcross, isClosed, joinMeshes, NO_SOURCE, volumeOf, type Mesh, type Vec3 } from '../mesh'
import type { Carrying } from './carried'
import { chambersOf, type Chamber, type Chambers } from './chambers'
import { HollowError } from './hollow-error'
import { innerWall } from './inner-wall'
import type { WallHelper } from './wall-work'

/** Smaller chambers are left solid, mm³: about a ball of 2 mm across, which a drain hole would take away. */
const LEAST_CHAMBER_MM3 = 5
/** The wall is of so many cells at least. */
export const LEAST_CELLS = 2

export interface HollowOptions {
  readonly wallMm: number
  /** Edge of the cells in which the inner wall is made; it is about that of its triangles. */
  readonly cellMm: number
  /** Given where the hollow is to carry itself, with the way up in the frame of the mesh, of length 1. */
  readonly carrying?: Carrying & { readonly up: Vec3 }
  /** The share that is done, 0 to 1. */
  readonly onProgress?: (share: number) => void
  /** Further cores that share the work. */
  readonly helpers?: readonly WallHelper[]
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
  const solidMm3 = volumeOf(mesh), turn = carrying && turnUpright(carrying.up), upright = turn ? turned(mesh, turn) : mesh
  const wall = await innerWall(upright, wallMm, cellMm, { ...(carrying && { carrying }), ...(onProgress && { onProgress }), ...(helpers && { helpers }) })
  const { chambers, walls, skin, leftSolid } = chambersOf(mesh, turn ? turned(wall, transposed(turn)) : wall, LEAST_CHAMBER_MM3)
  if (chambers.length === 0) throw new HollowError('too-thin', `Nowhere is the part thick enough for walls of ${wallMm} mm with room between them. Take a thinner wall, or leave it solid.`)
  const from = new Uint32Array((skin.triangles.length + walls.triangles.length) / 3).fill(NO_SOURCE), count = skin.triangles.length / 3
  for (let i = 0; i < count; i++) from[i] = skin.from?.[i] ?? i
  return { mesh: { ...joinMeshes([skin, walls]), from }, chambers: chambers.map(c => ({ ...c, first: c.first + count })), leftSolid, solidMm3, hollowMm3: chambers.reduce((sum, c) => sum + c.volumeMm3, 0) }
}

/** A rotation by its rows. */
type Turn = readonly [Vec3, Vec3, Vec3]

/** Brings a direction to +z. */
function turnUpright(up: Vec3): Turn {
  return [...axesAcross(up), up]
}
const transposed = ([a, b, c]: Turn): Turn => [[a[0], b[0], c[0]], [a[1], b[1], c[1]], [a[2], b[2], c[2]]]

function turned(mesh: Mesh, turn: Turn): Mesh {
  const { positions: p } = mesh, positions = new Float32Array(p.length)
  for (let i = 0; i < p.length; i += 3) for (let r = 0; r < 3; r++) positions[i + r] = turn[r][0] * p[i] + turn[r][1] * p[i + 1] + turn[r][2] * p[i + 2]
  return { ...mesh, positions }
}
