import { expose, transfer } from 'comlink'
import type { Recipe } from '@oak-stilts/core/contract'
import { CutTrial, piecesAt, type PegSizes, type Plane, type SectionPiece } from '@oak-stilts/core/carve'
import { finishPart, type Finished, type FinishMemory, type FinishStep } from '@oak-stilts/core/finish'
import { innerWall } from '@oak-stilts/core/hollow'
import { decodeMesh, encodeMesh, volumeOf, type Vec3 } from '@oak-stilts/core/mesh'
import { shapedMesh, shapeOf } from '@oak-stilts/core/pose'
import { holdLife } from './supervised'
import { WallPool } from './wall-pool'

/** What a step came to, beside the mesh. */
export type ToldOfFinish = Omit<Finished, 'mesh'>
/** A hollow made coarsely, for a look before it is made for good. */
export interface HollowLook {
  /** The inner wall in the frame of the part. */
  readonly positions: Float32Array
  readonly triangles: Uint32Array
  readonly hollowMm3: number
  readonly solidMm3: number
  readonly seconds: number
}

/** What a plane comes to on a part before it is cut. All in the frame of the part. */
export interface CutLook {
  readonly pieces: readonly SectionPiece[]
  /** Pieces that are left whole. */
  readonly whole: readonly number[]
  /** Where pegs stand, and how far the socket of each stays from the skin, mm; null where it stands beside what is cut. */
  readonly pegs: readonly { readonly at: Vec3; readonly roomMm: number | null }[]
  /** How many there are at the most of those that were asked for. */
  readonly roomFor: number
  /** Smaller ones that all have room; null where there are none, or those that are asked for have it. */
  readonly fits: (PegSizes & { readonly wallMm: number }) | null
}
/** Pegs that are asked for: so many, where there is most room; or at these places. */
export interface PegsWanted extends PegSizes {
  readonly wallMm: number
  readonly count: number
  readonly at: readonly Vec3[] | null
}

/** What was made last, and of which source. */
let memory: FinishMemory & { readonly of: string } = { of: '', hollow: null, cut: null }
let trial: CutTrial | null = null
const pool = new WallPool()

interface Handed {
  readonly buffer: ArrayBuffer
  readonly told: ToldOfFinish
}
/** One after another: helpers work on one wall at a time. */
let last: Promise<unknown> = Promise.resolve()

async function make(of: string, source: ArrayBuffer, recipe: Recipe, onProgress: (step: FinishStep, share: number) => void): Promise<Handed> {
  if (memory.of !== of) memory = { of, hollow: null, cut: null }
  const { mesh, ...told } = await finishPart(decodeMesh(source), recipe, { memory, ...(recipe.hollow?.on && { helpers: pool.helpers() }), onProgress: (step, share) => onProgress(step, share) }), { buffer } = encodeMesh(mesh)
  return transfer({ buffer: buffer as ArrayBuffer, told }, [buffer as ArrayBuffer])
}

const finishWorker = {
  /** The mesh of a part as its recipe makes it. @param of what the source is known by @throws HollowError, CarveError */
  finish(of: string, source: ArrayBuffer, recipe: Recipe, onProgress: (step: FinishStep, share: number) => void): Promise<Handed> {
    const next = last.then(() => make(of, source, recipe, onProgress))
    last = next.catch(() => undefined)
    return next
  },

  /** The inner wall alone, as coarse as is asked for. */
  async look(source: ArrayBuffer, recipe: Pick<Recipe, 'unitMm' | 'scale' | 'mirrored'>, wallMm: number, cellMm: number): Promise<HollowLook> {
    const start = performance.now(), mesh = shapedMesh(decodeMesh(source), shapeOf(recipe)), { positions, triangles } = await innerWall(mesh, wallMm, cellMm, { isRough: true, helpers: pool.helpers() })
    return transfer({ positions, triangles, hollowMm3: triangles.length > 0 ? -volumeOf({ positions, triangles }) : 0, solidMm3: volumeOf(mesh), seconds: (performance.now() - start) / 1000 }, [positions.buffer, triangles.buffer])
  },

  /** Takes a part on which planes are tried. @throws CarveError where it is not sound */
  async tryCuts(buffer: ArrayBuffer): Promise<void> {
    trial?.free()
    trial = null
    trial = await CutTrial.of(decodeMesh(buffer))
  },
  /** What a plane meets of it, and where pegs go. @param whole points of pieces that are left whole */
  lookAtCut(plane: Plane, whole: readonly Vec3[], pegs: PegsWanted | null): CutLook | null {
    if (!trial) return null
    const own = trial, pieces = own.section(plane), left = piecesAt(pieces, plane, whole)
    if (!pegs) return { pieces, whole: left, pegs: [], roomFor: 0, fits: null }
    const through = pieces.filter((_, i) => !left.includes(i)), at = pegs.at ?? own.places(plane, through, pegs, pegs.wallMm, pegs.count)
    return { pieces, whole: left, pegs: at.map(p => ({ at: p, roomMm: own.room(plane, through, p, pegs) })), roomFor: at.length, fits: at.length < pegs.count ? own.fitting(plane, through, pegs, pegs.count) : null }
  },
}
export type FinishWorker = typeof finishWorker
expose(finishWorker)
holdLife()
