import { createHash } from 'node:crypto'
import { AS_MADE, DEFAULT_PRINTER, gaugesFor, pixelMmOf, NO_RAFT, type Change, type Gauge, type PlanBeam, type PlanNode, type Recipe, type Raft } from '@oak-stilts/core/contract'
import { worthOfFaces, worthsOf } from '@oak-stilts/core/marks'
import { finishPart } from '@oak-stilts/core/finish'
import { encodeMesh, prepareSolid, type Mesh, type PreparedMesh } from '@oak-stilts/core/mesh'
import { after, AS_IS, NO_SHIFT, moveMesh, plateOf, shapeOf, standOf, UNSHAPED, type PlateShift, type RigidMotion, type Stand, type StandPose } from '@oak-stilts/core/pose'
import { holeCostOf } from '@oak-stilts/core/plan'
import { ModelScan } from '@oak-stilts/core/scan'
import { raftOf, solidsOfPart } from '@oak-stilts/core/raft'
import { changeOfStilts, fitOfPlan, isTied, PlanIndex, readPlan, recipeOfPlan, reseatStilts, reseatTrees, Surface, type Plate } from '@oak-stilts/core/stilts'
import { UsageError, type Options } from './arguments'
import { loadPlan } from './files'
import type { Output } from './output'
import { sourceOf, withJobsOwn, type PartOfJob } from './source'

/** The part that a file alone is. */
const PART = 'part'

export interface Posed {
  /** As the command line gave them, and a job where that said nothing. */
  readonly options: Options
  readonly of: PartOfJob | null
  /** Id of the part in the rows of the plan. */
  readonly part: string
  /** Triangles of the file, by which faces are marked. */
  readonly fileTriangles: number
  readonly prepared: PreparedMesh
  /** What the recipe begins with: the prepared mesh, or that as it came. */
  readonly base: Mesh
  /** The part: what the recipe makes of the prepared mesh. */
  readonly mesh: Mesh
  /** What its faces are worth; null where none is marked. */
  readonly worths: Uint8Array | null
  readonly recipe: Recipe
  readonly meshHash: string
  /** Where the part stands by itself, and from there how it stands on the plate. */
  readonly stand: Stand
  readonly shift: PlateShift
  /** The pose that the stand comes from; null where the file was kept where it stands. */
  readonly pose: StandPose | null
  readonly plan: Plan
  /** The gauges to choose from, those of the job or the plan first. */
  readonly gauges: readonly Gauge[]
}

/** The rows of a plan and their graph. */
export class Plan {
  readonly nodes = new Map<string, PlanNode>()
  readonly beams = new Map<string, PlanBeam>()
  readonly index = new PlanIndex(this.nodes, this.beams)
  raft: Raft = NO_RAFT

  constructor(readonly part: string) {}

  apply({ put, drop }: Pick<Change, 'put' | 'drop'>): void {
    for (const id of drop?.nodes ?? []) this.nodes.delete(id)
    for (const id of drop?.beams ?? []) this.beams.delete(id)
    for (const n of put?.nodes ?? []) this.nodes.set(n.id, n)
    for (const b of put?.beams ?? []) this.beams.set(b.id, b)
    this.index.touch([...(put?.nodes ?? []).map(n => n.id), ...(drop?.nodes ?? [])], [...(put?.beams ?? []).map(b => b.id), ...(drop?.beams ?? [])])
  }

  /** All that stands under the part: its stilts, and their raft. */
  solids(): Mesh[] {
    return solidsOfPart(this.index, this.part, this.raft)
  }
}

export function plateFor({ shift, of }: Pick<Posed, 'shift' | 'of'>): Plate {
  return { ...(of?.job.printer ?? DEFAULT_PRINTER), shift }
}

/**
 * Brings a model to where a command, a plan or a job says that it stands.
 * @param unfinished whether the steps of its recipe are left out: then its mesh is what it was before it was hollowed, drilled or cut
 * @throws MeshError, UsageError
 */
export async function standOnPlate(asked: Options, output: Output, unfinished = false): Promise<Posed> {
  const source = await sourceOf(asked), options = withJobsOwn(asked, source), { of } = source
  const prepared = prepareSolid(source.mesh), base = of && !of.part.recipe.mended ? (prepared.asCame ?? prepared.mesh) : prepared.mesh
  const meshHash = createHash('sha256').update(encodeMesh(base)).digest('hex'), part = of?.part.id ?? PART
  const file = options.plan ? loadPlan(options.plan) : null
  // a plan knows the pose it was made for; pose options on the command line win, and then its stilts are seated anew
  const given = !file || options.poseGiven
  const { turnDeg, ...wanted } = options.pose
  const filePose = file?.pose && { tiltXDeg: file.pose.tiltXDeg, tiltYDeg: file.pose.tiltYDeg, liftMm: file.pose.liftMm, ...('zero' in file.pose && file.pose.zero && { zero: file.pose.zero }) }
  const pose: StandPose | null = options.asIs ? null : given ? wanted : filePose ?? null
  const recipe = file ? recipeOfPlan(file) : (of?.part.recipe ?? AS_MADE), shape = shapeOf(recipe), { mesh } = await finishPart(base, unfinished ? { ...recipe, hollow: null, holes: [], cuts: [], plug: null } : recipe), { positions } = mesh
  const stand = pose ? standOf(positions, pose, options.pixelMm) : AS_IS
  const plan = new Plan(part)
  const own = [...(file?.version === 3 ? file.gauges : []), ...(of?.job.gauges ?? [])], used = new Set((of?.nodes ?? []).flatMap(n => (n.kind === 'tip' ? [n.gauge] : [])))
  const gauges = gaugesFor({ job: own, resin: of?.job.resin.gauges ?? [], workshop: [], used }).map(o => o.gauge)
  let turn = options.asIs ? 0 : turnDeg
  const anew = (): void => seatAnew(plan, part, new Surface(mesh, { shape, stand }), { ...(of?.job.printer ?? DEFAULT_PRINTER), shift: { ...NO_SHIFT, turnDeg: turn } }, gauges, output)
  if (file) {
    const target = { ...prepared.report, part, positions, meshHash, pixelMm: options.pixelMm }
    if (fitOfPlan(file, target) === 'other' && file.version !== 1) {
      throw new UsageError(`${options.plan} was made for another model: ${file.madeFor?.sizeMm.map(v => v.toFixed(2)).join(' × ')} mm, ${file.madeFor?.triangles} triangles. This one has ${prepared.report.sizeMm.map(v => v.toFixed(2)).join(' × ')} mm, ${prepared.report.triangles} triangles.`)
    }
    const read = readPlan(file, target, gauges)
    for (const note of read.notes) output.note(`The plan has ${note}`)
    plan.apply({ put: { nodes: read.nodes, beams: read.beams } })
    if (!given) turn = read.turnDeg
    if (given && JSON.stringify(filePose) !== JSON.stringify(wanted)) anew()
  } else if (of) {
    plan.apply({ put: { nodes: [...of.nodes], beams: [...of.beams] } })
    if (of.nodes.length > 0 && (options.poseGiven || options.pixelMm !== pixelMmOf(of.job.printer))) anew()
  }
  plan.raft = file ? (file.version !== 3 ? NO_RAFT : pose ? raftOf({ raft: file.raft, pose }) : file.raft) : of ? raftOf({ raft: of.part.raft, pose: pose ?? of.part.pose }) : NO_RAFT
  return { options, of, part, fileTriangles: source.mesh.triangles.length / 3, prepared, base, mesh, worths: of && of.marks.length > 0 ? worthOfFaces(mesh, worthsOf(of.marks, source.mesh.triangles.length / 3)) : null, recipe, meshHash, stand, shift: { ...NO_SHIFT, turnDeg: turn }, pose, plan, gauges }
}

function seatAnew(plan: Plan, part: string, surface: Surface, plate: Plate, gauges: readonly Gauge[], output: Output): void {
  const stilts = plan.index.stiltsOf(part), alone = stilts.filter(s => !isTied(s)), tied = stilts.filter(isTied)
  const trees = reseatTrees(surface, plan.index, tied.map(s => s.id), gauges, plate), shapes = reseatStilts(surface, alone, gauges, plate)
  plan.apply(changeOfStilts(plan.index, part, 'seat anew', { put: shapes.map((shape, i) => ({ stilt: alone[i], shape })) }))
  plan.apply(trees.change)
  for (const s of plan.index.stiltsOf(part)) if (s.foot === 'lost') output.note(`Stilt ${s.number} found no way down: ${s.lostFor}`)
  if (trees.braces > 0) output.note(trees.braces === 1 ? 'A brace has no room any more and is gone.' : `${trees.braces} braces have no room any more and are gone.`)
}

/** The scan of a part as it stands on the plate, turn and all. */
export function scanOnPlate({ mesh, stand, shift, plan, options, worths }: Posed): ModelScan {
  const plate = plateOf(shift)
  const model = new ModelScan(mesh, { pixelMm: options.pixelMm, layerMm: options.layerMm }, after(plate, stand), options.settings)
  model.setStilts(plan.solids().map(s => moveMesh(s, plate)))
  if (worths) {
    const surface = new Surface(mesh, { shape: UNSHAPED, stand: after(plate, stand) as RigidMotion as Stand })
    surface.setWorths(worths)
    model.setHoleCost(holeCostOf(surface))
  }
  return model
}
