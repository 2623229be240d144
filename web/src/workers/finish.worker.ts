import { expose, transfer } from 'comlink'
import type { Recipe } from '@oak-stilts/core/contract'
import { finishPart, type Finished, type FinishStep, type HollowMade } from '@oak-stilts/core/finish'
import { innerWall } from '@oak-stilts/core/hollow'
import { decodeMesh, encodeMesh, volumeOf } from '@oak-stilts/core/mesh'
import { shapedMesh, shapeOf } from '@oak-stilts/core/pose'
import { holdLife } from './supervised'

/** What a step came to, beside the mesh. */
export type ToldOfFinish = Pick<Finished, 'hollow'>
/** A hollow made coarsely, for a look before it is made for good. */
export interface HollowLook {
  /** The inner wall in the frame of the part. */
  readonly positions: Float32Array
  readonly triangles: Uint32Array
  readonly hollowMm3: number
  readonly solidMm3: number
  readonly seconds: number
}

let before: HollowMade | null = null

const finishWorker = {
  /** The mesh of a part as its recipe makes it. @throws HollowError, CarveError */
  async finish(source: ArrayBuffer, recipe: Recipe, onProgress: (step: FinishStep, share: number) => void): Promise<{ buffer: ArrayBuffer; told: ToldOfFinish }> {
    const { mesh, hollow } = await finishPart(decodeMesh(source), recipe, { before, onHollow: made => (before = made), onProgress: (step, share) => onProgress(step, share) }), { buffer } = encodeMesh(mesh)
    return transfer({ buffer: buffer as ArrayBuffer, told: { hollow } }, [buffer as ArrayBuffer])
  },

  /** The inner wall alone, as coarse as is asked for. */
  look(source: ArrayBuffer, recipe: Pick<Recipe, 'unitMm' | 'scale' | 'mirrored'>, wallMm: number, cellMm: number): HollowLook {
    const start = performance.now(), mesh = shapedMesh(decodeMesh(source), shapeOf(recipe)), { positions, triangles } = innerWall(mesh, wallMm, cellMm)
    return transfer({ positions, triangles, hollowMm3: triangles.length > 0 ? -volumeOf({ positions, triangles }) : 0, solidMm3: volumeOf(mesh), seconds: (performance.now() - start) / 1000 }, [positions.buffer, triangles.buffer])
  },
}
export type FinishWorker = typeof finishWorker
expose(finishWorker)
holdLife()
