import type { CutStep, HollowStep, HoleStep, Part, Recipe, SourcePoint } from '../contract'
import { cutBy, drilled, plugOf, united, type CutOptions, type CutParts, type Hole, type Plane } from '../carve'
import { hollowed, type Hollowed, type HollowOptions, type WallHelper } from '../hollow'
import { boundsOf, dot, NearestTree, sizeOf, type Mesh, type Vec3 } from '../mesh'
import { shapedMesh, shapeOf, type Shape } from '../pose'
import { openingsOf, type Openings } from './openings'

/** What is being done to a part, in the order in which it is done. */
export type FinishStep = 'hollow' | 'holes' | 'cuts'

/** A part as its recipe makes it. */
export interface Finished {
  readonly mesh: Mesh
  /** What was taken out of it; null where it stays solid. */
  readonly hollow: Omit<Hollowed, 'mesh'> | null
  /** What opens each of its chambers; of a part that was cut, only those that no cut opened. */
  readonly openings: readonly Openings[]
  /** Holes that were drilled into what another side of a cut has: which of those that are drilled, from 0. */
  readonly elsewhere: readonly number[]
}

/** What was made of a source last, for finishing it again with other steps. One for each source; it is filled as steps are done. */
export interface FinishMemory {
  hollow: { readonly key: string; readonly made: Hollowed } | null
  cut: { readonly key: string; readonly made: CutParts } | null
}

export interface FinishOptions {
  /** What is being done, and the share of it that is done, 0 to 1. */
  readonly onProgress?: (step: FinishStep, share: number) => void
  readonly memory?: FinishMemory
  /** Further cores that share the work of a hollow. */
  readonly helpers?: readonly WallHelper[]
}

/** Counts up where the same recipe comes to another mesh than before. */
export const FINISH_VERSION = 5

/** Whether a recipe does more than scale and mirror. */
export function isFinished({ hollow, holes, cuts, plug }: Recipe): boolean {
  return !!hollow?.on || holes.some(h => h.on) || cuts.length > 0 || !!plug
}

/** Places along a hole at which its wall is looked for, and how much farther than its radius that may be, mm. */
const ALONG_MM = 0.25, BESIDE_MM = 0.05

/** What of a recipe the mesh of a part depends on, in words that change with it. Steps that are switched off are not among it. */
export function finishKey(recipe: Recipe): string {
  const { hollow, holes, cuts, plug } = recipe, shape = shapeOf(recipe).join(), sizes = (h: HoleStep): unknown[] => [h.at, h.into, h.diameterMm, h.endDiameterMm, h.depthMm], cut = cuts.map(c => [c.at, c.normal, c.keeps, c.whole, c.pegs && Object.entries(c.pegs).sort()])
  return isFinished(recipe) ? `${shape} ${JSON.stringify([hollow?.on ? asked(hollow) : null, holes.filter(h => h.on).map(sizes), ...(cut.length > 0 || plug ? [cut] : []), ...(plug ? [sizes(plug.hole), plug.clearanceMm] : [])])}` : shape
}

/**
 * The mesh of a part: what its recipe makes of the source, step by step. The source is never changed; skin tells which triangle of it
 * each of its own comes from.
 * @throws HollowError, CarveError where a step cannot be done; the message says what helps
 */
export async function finishPart(source: Mesh, recipe: Recipe, { onProgress, memory, helpers }: FinishOptions = {}): Promise<Finished> {
  const shape = shapeOf(recipe), shaped = shapedMesh(source, shape), { hollow } = recipe, holes = recipe.holes.filter(h => h.on)
  let made: Hollowed | null = null
  if (hollow?.on) {
    const key = `${shape.join()} ${JSON.stringify(asked(hollow))}`
    made = memory?.hollow?.key === key ? memory.hollow.made : await hollowed(await united(shaped), { ...hollowOptions(hollow, shape), ...(helpers && { helpers }), ...(onProgress && { onProgress: share => onProgress('hollow', share) }) })
    if (memory) memory.hollow = { key, made }
  }
  if (holes.length > 0) onProgress?.('holes', 0)
  const last = recipe.cuts.at(-1), key = last && finishKey({ ...recipe, cuts: [...recipe.cuts.slice(0, -1), { ...last, keeps: 'above' }] })
  const known = memory?.cut
  let mesh: Mesh
  if (last && known && known.key === key) mesh = known.made[last.keeps]
  else {
    const { plug } = recipe, whole = made?.mesh ?? (last || plug ? await united(shaped) : shaped), base = plug ? await plugOf(whole, holeOf(plug.hole, shape), plug.clearanceMm) : whole
    mesh = await drilled(base, holes.map(h => holeOf(h, shape)))
    for (const step of recipe.cuts) {
      onProgress?.('cuts', 0)
      const parted = await cutBy(mesh, planeOf(step, shape), cutOf(step, shape))
      if (memory && key && step === last) memory.cut = { key, made: parted }
      mesh = parted[step.keeps]
    }
  }
  const elsewhere = recipe.cuts.length > 0 ? holesBeside(mesh, holes, shape) : []
  // of a plug there is no hollow to tell
  if (!made || recipe.plug) return { mesh, hollow: null, openings: [], elsewhere }
  const { chambers, leftSolid, hollowMm3, solidMm3 } = made
  return { mesh, hollow: { chambers, leftSolid, hollowMm3, solidMm3 }, openings: openingsOf(made, holes.map(h => holeOf(h, shape)), recipe.cuts.map(c => ({ ...planeOf(c, shape), keeps: c.keeps }))), elsewhere }
}

/** What the inner surface depends on. */
const asked = ({ wallMm, cellMm, carries }: HollowStep): unknown[] => [wallMm, cellMm, carries]

function hollowOptions({ wallMm, cellMm, carries }: HollowStep, shape: Shape): HollowOptions {
  return { wallMm, cellMm, ...(carries && { carrying: { ...carries, up: directionOf(carries.up, shape) } }) }
}
function holeOf({ at, into, diameterMm, endDiameterMm, depthMm }: HoleStep, shape: Shape): Hole {
  return { at: partPoint(at, shape), into: directionOf(into, shape), diameterMm, endDiameterMm, depthMm }
}

/** Holes of which a part has no wall: nowhere along their way is its skin as near as that. */
function holesBeside(mesh: Mesh, holes: readonly HoleStep[], shape: Shape): number[] {
  if (holes.length === 0) return []
  const skin = new NearestTree(mesh), longest = Math.hypot(...sizeOf(boundsOf(mesh.positions)))
  const isBeside = (step: HoleStep): boolean => {
    const { at, into, diameterMm, endDiameterMm, depthMm } = holeOf(step, shape), radius = Math.max(diameterMm, endDiameterMm) / 2 + BESIDE_MM
    for (let far = 0; far <= (depthMm ?? longest); far += ALONG_MM) {
      skin.ask(at[0] + far * into[0], at[1] + far * into[1], at[2] + far * into[2])
      if (skin.distance <= radius) return false
    }
    return true
  }
  return holes.flatMap((h, i) => (isBeside(h) ? [i] : []))
}

function cutOf({ whole, pegs }: CutStep, shape: Shape): CutOptions {
  return { whole: whole.map(p => partPoint(p, shape)), pegs: pegs && { ...pegs, at: pegs.at.map(p => partPoint(p, shape)) } }
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
  const made = new Map<string, Mesh>(), memories = new Map<Mesh, FinishMemory>()
  for (const part of parts) {
    if (!isFinished(part.recipe)) continue
    const source = sourceOf(part), memory = memories.get(source) ?? { hollow: null, cut: null }
    memories.set(source, memory)
    made.set(part.id, (await finishPart(source, part.recipe, { memory })).mesh)
  }
  return part => made.get(part.id) ?? shapedMesh(sourceOf(part), shapeOf(part.recipe))
}
