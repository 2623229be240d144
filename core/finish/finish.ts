import type { CutStep, HollowStep, HoleStep, Part, Recipe, SourcePoint } from '../contract'
import { cutBy, drilled, pegged, piecesAt, sectionOf, united, type Hole, type Plane } from '../carve'
import { hollowed, type Hollowed, type HollowOptions } from '../hollow'
import { dot, type Mesh, type Vec3 } from '../mesh'
import { shapedMesh, shapeOf, type Shape } from '../pose'

/** What is being done to a part, in the order in which it is done. */
export type FinishStep = 'hollow' | 'holes' | 'cuts'

/** A part as its recipe makes it. */
export interface Finished {
  readonly mesh: Mesh
  /** What was taken out of it; null where it stays solid. */
  readonly hollow: Omit<Hollowed, 'mesh'> | null
}

/** A hollow as it was made, for finishing the same part again with other holes. */
export interface HollowMade {
  readonly key: string
  readonly made: Hollowed
}

export interface FinishOptions {
  /** What is being done, and the share of it that is done, 0 to 1. */
  readonly onProgress?: (step: FinishStep, share: number) => void
  /** The last hollow of this source; taken where it is the one that is asked for. */
  readonly before?: HollowMade | null
  /** Told of the hollow that was used. */
  readonly onHollow?: (made: HollowMade) => void
}

/** Counts up where the same recipe comes to another mesh than before. */
export const FINISH_VERSION = 1

/** Whether a recipe does more than scale and mirror. */
export function isFinished({ hollow, holes, cuts }: Recipe): boolean {
  return !!hollow?.on || holes.some(h => h.on) || cuts.length > 0
}

/** What of a recipe the mesh of a part depends on, in words that change with it. Steps that are switched off are not among it. */
export function finishKey(recipe: Recipe): string {
  const { hollow, holes, cuts } = recipe, shape = shapeOf(recipe).join(), cut = cuts.map(c => [c.at, c.normal, c.keeps, c.whole, c.pegs && Object.entries(c.pegs).sort()])
  return isFinished(recipe) ? `${shape} ${JSON.stringify([hollow?.on ? asked(hollow) : null, holes.filter(h => h.on).map(h => [h.at, h.into, h.diameterMm, h.endDiameterMm, h.depthMm]), ...(cut.length > 0 ? [cut] : [])])}` : shape
}

/**
 * The mesh of a part: what its recipe makes of the source, step by step. The source is never changed; skin tells which triangle of it
 * each of its own comes from.
 * @throws HollowError, CarveError where a step cannot be done; the message says what helps
 */
export async function finishPart(source: Mesh, recipe: Recipe, { onProgress, before, onHollow }: FinishOptions = {}): Promise<Finished> {
  const shape = shapeOf(recipe), shaped = shapedMesh(source, shape), { hollow } = recipe, holes = recipe.holes.filter(h => h.on)
  let made: Hollowed | null = null
  if (hollow?.on) {
    const key = `${shape.join()} ${JSON.stringify(asked(hollow))}`
    made = before?.key === key ? before.made : hollowed(await united(shaped), { ...hollowOptions(hollow, shape), ...(onProgress && { onProgress: share => onProgress('hollow', share) }) })
    onHollow?.({ key, made })
  }
  if (holes.length > 0) onProgress?.('holes', 0)
  let mesh = await drilled(made?.mesh ?? (recipe.cuts.length > 0 ? await united(shaped) : shaped), holes.map(h => holeOf(h, shape)))
  for (const step of recipe.cuts) {
    onProgress?.('cuts', 0)
    mesh = await sideOf(mesh, step, shape)
  }
  if (!made) return { mesh, hollow: null }
  const { chambers, leftSolid, hollowMm3, solidMm3 } = made
  return { mesh, hollow: { chambers, leftSolid, hollowMm3, solidMm3 } }
}

/** What the inner surface depends on. */
const asked = ({ wallMm, cellMm, carries }: HollowStep): unknown[] => [wallMm, cellMm, carries]

function hollowOptions({ wallMm, cellMm, carries }: HollowStep, shape: Shape): HollowOptions {
  return { wallMm, cellMm, ...(carries && { carrying: { ...carries, up: directionOf(carries.up, shape) } }) }
}
function holeOf({ at, into, diameterMm, endDiameterMm, depthMm }: HoleStep, shape: Shape): Hole {
  return { at: partPoint(at, shape), into: directionOf(into, shape), diameterMm, endDiameterMm, depthMm }
}

/** The side of a cut that a part keeps, with its pegs or their sockets. */
async function sideOf(mesh: Mesh, { whole, pegs, keeps, ...step }: CutStep, shape: Shape): Promise<Mesh> {
  const plane = planeOf(step, shape), leave = whole.length > 0 ? piecesAt(await sectionOf(mesh, plane), plane, whole.map(p => partPoint(p, shape))) : []
  const parted = await cutBy(mesh, plane, leave), { above, below } = pegs ? await pegged(mesh, plane, parted, pegs.at.map(p => partPoint(p, shape)), pegs, pegs.wallMm) : parted
  return keeps === 'above' ? above : below
}
/** The plane of a cut in the frame of the part. */
export function planeOf({ at, normal: n }: Pick<CutStep, 'at' | 'normal'>, shape: Shape): Plane {
  const normal = directionOf(n, shape)
  return { normal, offsetMm: dot(normal, partPoint(at, shape)) }
}
/** A point of a step in the frame of the part. */
export function partPoint([x, y, z]: SourcePoint, shape: Shape): Vec3 {
  return [x * shape[0], y * shape[1], z * shape[2]]
}

/** A direction of a step in the frame of the part: mirrored with it, but not bent by its scale. The same the other way. */
export function directionOf([x, y, z]: Vec3, shape: Shape): Vec3 {
  return [shape[0] < 0 ? -x : x, shape[1] < 0 ? -y : y, shape[2] < 0 ? -z : z]
}

/** A point of the part as a step keeps it. */
export function stepPoint([x, y, z]: Vec3, shape: Shape): SourcePoint {
  return [x / shape[0], y / shape[1], z / shape[2]] as SourcePoint
}

/**
 * The meshes of some parts as their recipes make them, to be asked for one after another: what takes time is done beforehand.
 * @param sourceOf the prepared mesh that a part begins with @throws HollowError, CarveError
 */
export async function finishParts(parts: readonly Part[], sourceOf: (part: Part) => Mesh): Promise<(part: Part) => Mesh> {
  const made = new Map<string, Mesh>()
  for (const part of parts) if (isFinished(part.recipe)) made.set(part.id, (await finishPart(sourceOf(part), part.recipe)).mesh)
  return part => made.get(part.id) ?? shapedMesh(sourceOf(part), shapeOf(part.recipe))
}
