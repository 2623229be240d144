import { AS_MADE, isWay, newId, type AnyPlanFile, type Gauge, type PlanBeam, type PlanNode, type Recipe, type TipNode } from '../contract'
import { distance, type Vec3 } from '../mesh'
import { inverseOf, motionOfPose, movePoint, standOf, type StandPose } from '../pose'
import { GAUGES, gaugeFor } from './gauges'
import { rowsOfOlder } from './older-plan'
import { PlanIndex } from './plan-index'
import type { Stilt } from './stilt'

/** The part and the raster that a plan is read for. */
export interface PlanTarget {
  readonly part: string
  /** Of the part as the plan's recipe makes it. */
  readonly positions: Float32Array
  readonly triangles: number
  readonly sizeMm: Vec3
  readonly meshHash: string
  readonly pixelMm: number
}

/** What was read of a plan, and in sentences what was left out or mended. */
export interface ReadPlan {
  readonly nodes: PlanNode[]
  readonly beams: PlanBeam[]
  readonly recipe: Recipe
  /** Null where the plan was made for a part as it stands in its file. */
  readonly pose: StandPose | null
  readonly turnDeg: number
  /** Those of its stilts that not everybody has. */
  readonly gauges: readonly Gauge[]
  readonly stilts: number
  readonly notes: string[]
}

/** A part's size may differ by this much and still be the same, mm. */
const SAME_SIZE_MM = 0.01
/** A foot this far from the plate's surface stands on it, mm. */
const ON_PLATE_MM = 0.05
/** Points nearer than this are one, mm. */
const SAME_POINT_MM = 1e-3

/** What a plan supposes to be made of the source before it is posed. */
export function recipeOfPlan(plan: AnyPlanFile): Recipe {
  return plan.version === 3 ? plan.recipe : AS_MADE
}

/** Whether a plan was made for this part: the very same mesh; one of the same size; one that does not say; another one. */
export function fitOfPlan(plan: AnyPlanFile, target: Pick<PlanTarget, 'triangles' | 'sizeMm' | 'meshHash'>): 'same' | 'alike' | 'unknown' | 'other' {
  if (plan.version === 1 || !plan.madeFor) return 'unknown'
  if (plan.version === 3 && plan.madeFor.meshHash === target.meshHash) return 'same'
  return plan.madeFor.triangles === target.triangles && plan.madeFor.sizeMm.every((v, i) => Math.abs(v - target.sizeMm[i]) <= SAME_SIZE_MM) ? 'alike' : 'other'
}

/**
 * The rows of a plan for a part, under new ids, without stilts that cannot be: incomplete, written twice, in one point, with a foot in
 * the plate or above the tip.
 */
export function readPlan(plan: AnyPlanFile, target: PlanTarget, here: readonly Gauge[] = GAUGES): ReadPlan {
  const brought = plan.version === 3 ? plan.gauges : [], gauges = [...brought, ...here.filter(g => !brought.some(b => b.id === g.id))]
  const pose = plan.pose && { tiltXDeg: plan.pose.tiltXDeg, tiltYDeg: plan.pose.tiltYDeg, liftMm: plan.pose.liftMm, ...(plan.version === 3 && plan.pose.zero && { zero: plan.pose.zero }) }
  const turnDeg = plan.version === 3 ? plan.turnDeg : (plan.pose?.turnDeg ?? 0)
  const rows = rowsAtHome(plan, target, pose)
  const nodes = new Map(rows.nodes.map(n => [n.id, { ...n, part: target.part }])), beams = new Map(rows.beams.map(b => [b.id, { ...b, part: target.part }]))
  const index = new PlanIndex(nodes, beams)
  const notes: string[] = []
  const say = (count: number, what: string): void => {
    if (count > 0) notes.push(`${count === 1 ? '1 stilt' : `${count} stilts`} ${what}`)
  }
  const stilts = index.stiltsOf(target.part)
  say(index.tipsOf(target.part).size - stilts.length, 'incomplete and left out.')
  const known = new Set<string>(), numbers = new Set<number>()
  let twice = 0, folded = 0, sunk = 0, renamed = 0
  let next = index.nextNumber(target.part)
  const kept: Stilt[] = []
  for (const s of stilts) {
    const key = JSON.stringify([s.path, s.sizes])
    if (known.has(key)) {
      twice++
      continue
    }
    known.add(key)
    const foot = s.path[s.path.length - 1], tip = s.path[0]
    const length = s.path.slice(1).reduce((sum, p, i) => sum + distance(p, s.path[i]), 0)
    if (length < SAME_POINT_MM || distance(s.path[1], tip) < SAME_POINT_MM || foot[2] >= tip[2]) {
      folded++
      continue
    }
    if (s.path.some(p => p[2] < -ON_PLATE_MM) || (s.foot === 'plate' && Math.abs(foot[2]) > ON_PLATE_MM)) {
      sunk++
      continue
    }
    kept.push(s)
    const gauge = gaugeFor(s, gauges)
    if (gauge.id !== s.gauge) renamed++
    // of two stilts of one number the second gets a new one
    const number = numbers.has(s.number) ? next++ : s.number
    numbers.add(number)
    if (gauge.id !== s.gauge || number !== s.number) nodes.set(s.id, { ...(nodes.get(s.id) as TipNode), gauge: gauge.id, number })
  }
  say(twice, 'written twice and taken once.')
  say(folded, 'without a length or with the foot above the tip, and left out.')
  say(sunk, 'with a foot that is not on the plate, and left out.')
  say(renamed, 'of a gauge that is not known here; the nearest one was taken.')
  return { ...renewed(nodes, beams, kept), recipe: recipeOfPlan(plan), pose, turnDeg, gauges: brought, stilts: kept.length, notes }
}

/** The rows of a plan in the stand of the part as it is centred here: by whole pixels, so that on another pixel it stands a little beside. */
function rowsAtHome(plan: AnyPlanFile, { part, positions, pixelMm }: PlanTarget, pose: StandPose | null): { readonly nodes: readonly PlanNode[]; readonly beams: readonly PlanBeam[] } {
  const madePixel = (plan.version === 1 ? undefined : plan.madeFor?.pixelMm) ?? pixelMm
  const here = pose && standOf(positions, pose, pixelMm)
  if (plan.version === 3) {
    if (!here || madePixel === pixelMm) return plan
    const there = standOf(positions, pose, madePixel), dx = here[3] - there[3], dy = here[7] - there[7]
    return { nodes: plan.nodes.map(n => ({ ...n, at: [n.at[0] + dx, n.at[1] + dy, n.at[2]] })), beams: plan.beams }
  }
  const there = plan.pose && inverseOf(motionOfPose(positions, plan.pose, madePixel))
  const same = !here || !there || (plan.pose?.turnDeg === 0 && madePixel === pixelMm)
  return rowsOfOlder(plan.nodes, plan.beams, { part, pose: plan.pose, toStand: at => (same ? at : movePoint(here, movePoint(there, at))) })
}

function withoutSpread(node: PlanNode): PlanNode {
  return node.kind === 'tip' && node.spread !== undefined ? { ...node, spread: undefined } : node
}

/** The rows of some stilts and the braces between them, under new ids. */
function renewed(nodes: ReadonlyMap<string, PlanNode>, beams: ReadonlyMap<string, PlanBeam>, stilts: readonly Stilt[]): { nodes: PlanNode[]; beams: PlanBeam[] } {
  const ids = new Map<string, string>(), taken = new Set(stilts.flatMap(s => s.beams))
  for (const s of stilts) for (const id of s.nodes) if (!ids.has(id)) ids.set(id, newId())
  // a prop and a leg have a foot of their own, to which no stilt leads
  for (const { kind, from, to } of beams.values()) if (!isWay({ kind }) && ids.has(from) && !ids.has(to) && nodes.get(to)?.kind === 'foot') ids.set(to, newId())
  const fresh = (id: string): string => ids.get(id) as string
  return {
    // a plan says nothing of the spreads that its stilts were placed with
    nodes: [...ids.keys()].map(id => ({ ...withoutSpread(nodes.get(id) as PlanNode), id: fresh(id) })),
    beams: [...beams.values()].filter(b => taken.has(b.id) || (!isWay(b) && ids.has(b.from) && ids.has(b.to))).map(b => ({ ...b, id: newId(), from: fresh(b.from), to: fresh(b.to) })),
  }
}
