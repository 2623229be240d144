import type { Anchor, Gauge } from '@oak-stilts/core/contract'
import { distance, type Vec3 } from '@oak-stilts/core/mesh'
import { fromSource, normalFromSource } from '@oak-stilts/core/pose'
import { anchorOf } from '@oak-stilts/core/spread'
import { beamsOfShape, besideStilt, braceBetween, BRANCH_REACH_MM, braceThese, gatherOnStem, gaugeFor, gaugeOf, joinHigh, moveNode, neighboursOf, placeNear, PlanDraft, propUnder, routeBranch, rowsOfBrace, rowsOfBraces, rowsOfBranch, rowsOfJoint, rowsOfProp, SAME_JOINT_MM, shapeOfBranch, slideBranch, takeJointAway, type Brace, type Bracing, type Branch, type Edited, type Joint, type MovedNode, type NoRoute, type Others, type PlanIndex, type Plate, type Stilt, type StiltShape, type Surface } from '@oak-stilts/core/stilts'
import { createGhostFacts, type GhostFacts } from './ghost-facts'
import type { PlanEdit } from './plan-replica'

/** What is known of the part on the bench. */
interface TieGround {
  surface(): Surface
  gauges(): readonly Gauge[]
  plate(): Plate
  index(): PlanIndex
  stilts(): readonly Stilt[]
  /** What stands there, but for all that hangs together with some tips. */
  others(...own: readonly string[]): Others
  /** The same, to be added to. */
  ownField(): Others
}

type Heights = readonly [number, number]

/** The branch that a click would place, or why not. */
export type BranchGhost =
  | { readonly ok: true; readonly shape: StiltShape; readonly host: number; readonly facts: GhostFacts; readonly at: Anchor }
  | { readonly ok: false; readonly reason: string }

/** A place on a stilt: the one nearest to a point. */
export interface StiltPlace {
  readonly tip: string
  readonly at: Vec3
}

/** The brace that a click would place, or why not. */
export type BraceGhost = Pick<Brace, 'ok' | 'gapMm' | 'lengthMm' | 'riseDeg' | 'diameterMm'> & { readonly from: Vec3; readonly to: Vec3 } | NoRoute

/** What ties would change, and of how many things; and why some of it cannot be. */
export interface Tied {
  readonly edit: PlanEdit
  readonly count: number
  /** Why what could not be done was not; null where all was. */
  readonly reason: string | null
  /** Tips of what is new. */
  readonly tips: readonly string[]
}

/** A tip that was moved, with the rows for it where more than the stilt's own shape changes. */
export type MovedTip = (Extract<Edited, { ok: true }> & { readonly edit?: PlanEdit }) | NoRoute

/** Stilts around a point that are tried as hosts of a branch. */
const MOST_HOSTS = 2

/** Branches, braces and all else that ties stilts to each other, as the worker of the surface does it. */
export function createTieWork(ground: TieGround) {
  const stiltOf = (tip: string): Stilt | null => ground.index().stilt(tip), factsOf = createGhostFacts(ground)

  /** The stilts that a branch from a point may hang on: the one that is meant with all that it hangs on itself, else the nearest. */
  function hostsFor(host: string | null, point: Vec3): Stilt[] {
    const meant = host === null ? null : stiltOf(host)
    if (meant) return [meant, ...trunksOf(meant)]
    const near = ground.stilts().flatMap(s => {
      if (s.foot === 'lost') return []
      let across = Infinity
      for (let i = 1; i < s.path.length; i++) across = Math.min(across, acrossTo(point, s.path[i - 1], s.path[i]))
      return across <= BRANCH_REACH_MM ? [{ s, across }] : []
    })
    return near.sort((a, b) => a.across - b.across).slice(0, MOST_HOSTS).map(n => n.s)
  }
  function trunksOf(stilt: Stilt): Stilt[] {
    const out: Stilt[] = []
    for (let s: Stilt | undefined = stilt; s && s.alone < s.nodes.length && out.length < MOST_HOSTS;) {
      const joint: string = s.nodes[s.alone], next: Stilt | undefined = ground.stilts().find(o => o !== s && o.nodes.slice(0, o.alone).includes(joint))
      if (!next || out.includes(next)) break
      out.push(next)
      s = next
    }
    return out
  }

  function branchAt(host: string | null, at: { readonly point: Vec3; readonly normal: Vec3 }, g: Gauge, only?: Joint): Branch | NoRoute {
    const hosts = only ? [only.host] : hostsFor(host, at.point)
    if (hosts.length === 0) return { ok: false, problem: 'blocked', reason: `No stilt stands within ${BRANCH_REACH_MM} mm across from here. Place one first; branches hang on it.` }
    return routeBranch(ground.surface(), at.point, at.normal, g, hosts, undefined, ground.others(...hosts.map(h => h.id)), { at: only })
  }

  const editOf = (draft: PlanDraft): PlanEdit => {
    const { put, drop } = draft.change('')
    return { put: { nodes: put?.nodes ?? [], beams: put?.beams ?? [] }, drop: { nodes: drop?.nodes ?? [], beams: drop?.beams ?? [] } }
  }
  const gaugeOfStilt = (s: Stilt): Gauge => gaugeFor(s, ground.gauges())

  function braceEnds(from: StiltPlace, to: StiltPlace): Brace | NoRoute {
    const a = stiltOf(from.tip), b = stiltOf(to.tip), lower = a && placeNear(a, from.at), upper = b && placeNear(b, to.at)
    if (!a || !b || !lower || !upper) return { ok: false, problem: 'blocked', reason: 'There is no shaft between knee and foot to brace. Pick another stilt.' }
    return braceBetween(ground.surface(), lower, upper, Math.min(gaugeOfStilt(a).braceDiameterMm, gaugeOfStilt(b).braceDiameterMm), ground.others(a.id, b.id))
  }

  return {
    /** One more stilt beside each of some, of the gauge that it has; and why not, where there is none. */
    beside(tips: readonly string[]): { readonly shapes: StiltShape[]; readonly reason: string | null } {
      const field = ground.ownField(), standing = ground.stilts().map(s => s.path[0]), shapes: StiltShape[] = []
      let reason: string | null = null
      for (const tip of tips) {
        const stilt = stiltOf(tip), made = stilt && besideStilt(ground.surface(), stilt, gaugeOfStilt(stilt), ground.plate(), standing, field)
        if (!made) continue
        if ('ok' in made) {
          reason = made.reason
          continue
        }
        shapes.push(made)
        standing.push(made.path[0])
        field.field.put(`beside ${shapes.length}`, beamsOfShape(made).map(beam => ({ owner: `beside ${shapes.length}`, beam })))
      }
      return { shapes, reason }
    },

    /** A branch whose tip moves to a point of the skin that its joint does not reach: with a joint elsewhere, and the rows for it. Null where it is no branch. */
    slide(branch: Stilt, at: { readonly point: Vec3; readonly normal: Vec3 }): MovedTip | null {
      const s = branch.alone < branch.nodes.length ? stiltOf(branch.id) : null
      if (!s) return null
      const slid = slideBranch(ground.surface(), ground.index(), s, at.point, at.normal, gaugeOfStilt(s), ground.others(s.id))
      if (!slid.ok) return slid
      const { put, drop } = slid.change
      return { ok: true, shape: slid.shape, gapMm: slid.gapMm, edit: { put: { nodes: put?.nodes ?? [], beams: put?.beams ?? [] }, drop: { nodes: drop?.nodes ?? [], beams: drop?.beams ?? [] } } }
    },

    /** The branch between where a ray meets the model and a stilt, or the stilts around; null where it meets nothing. */
    branchGhost(host: string | null, origin: Vec3, direction: Vec3, visibleMm: Heights, gauge: string): BranchGhost | null {
      const own = ground.surface(), hit = own.castBetween(origin, direction, visibleMm)
      if (!hit) return null
      const branch = branchAt(host, hit, gaugeOf(gauge, ground.gauges())), at = anchorOf(own, hit)
      if (!branch.ok) return { ok: false, reason: branch.reason }
      const shape = shapeOfBranch({ anchor: at, gauge, role: 'detail' }, branch)
      return { ok: true, shape, host: branch.joint.host.number, facts: factsOf(shape, hit, branch.gapMm), at }
    },

    /** Branches from points of the skin; several share the lowest of their joints where all can, like fingers. */
    branches(host: string | null, points: readonly Anchor[], gauge: string): Tied {
      const own = ground.surface(), g = gaugeOf(gauge, ground.gauges())
      const at = points.map(p => ({ anchor: p, point: fromSource(own, p.point), normal: normalFromSource(own, p.normal) }))
      const first = at.map(p => branchAt(host, p, g)), joint = lowestShared(first)
      const draft = new PlanDraft(ground.index(), [...new Set(first.flatMap(b => (b.ok ? [b.joint.host.id] : [])))])
      const tips: string[] = []
      let reason: string | null = null, number = ground.index().nextNumber(ground.stilts()[0]?.part ?? '')
      for (const [i, p] of at.entries()) {
        const shared = joint ? branchAt(host, p, g, joint) : null, branch = shared?.ok ? shared : first[i]
        if (!branch.ok) {
          reason ??= branch.reason
          continue
        }
        const rows = rowsOfBranch(draft.index, shapeOfBranch({ anchor: p.anchor, gauge, role: 'detail' }, branch), branch.joint, number++)
        draft.put(rows)
        tips.push(...rows.nodes.flatMap(n => (n.kind === 'tip' ? [n.id] : [])))
      }
      return { edit: editOf(draft), count: tips.length, reason, tips }
    },

    /** The brace between two places of stilts, or why not. */
    braceGhost(from: StiltPlace, to: StiltPlace): BraceGhost {
      const brace = braceEnds(from, to)
      return brace.ok ? { ok: true, from: brace.lower.at, to: brace.upper.at, gapMm: brace.gapMm, lengthMm: brace.lengthMm, riseDeg: brace.riseDeg, diameterMm: brace.diameterMm } : brace
    },

    brace(from: StiltPlace, to: StiltPlace): Tied {
      const brace = braceEnds(from, to), draft = new PlanDraft(ground.index(), [from.tip, to.tip])
      if (brace.ok) draft.put(rowsOfBrace(draft.index, brace))
      return { edit: editOf(draft), count: brace.ok ? 1 : 0, reason: brace.ok ? null : brace.reason, tips: [] }
    },

    /** Zigzags of braces between all neighbours among some stilts. */
    braceThese(tips: readonly string[], bracing: Bracing): Tied {
      const stilts = tips.flatMap(t => stiltOf(t) ?? []), draft = new PlanDraft(ground.index(), tips)
      const braces = braceThese(ground.surface(), stilts, bracing, s => gaugeOfStilt(s).braceDiameterMm, pair => ground.others(...pair.map(s => s.id)))
      draft.put(rowsOfBraces(draft.index, braces))
      const reason = braces.length > 0 ? null : neighboursOf(stilts, bracing.reachMm).length === 0 ? `No two of them stand within ${bracing.reachMm} mm of each other.` : 'Between these the part or other stilts are in the way, or there is no height in common.'
      return { edit: editOf(draft), count: braces.length, reason, tips: [] }
    },

    /** Ties neighbours among some stilts to each other as high as possible. */
    join(tips: readonly string[], reachMm: number): Tied {
      const stilts = tips.flatMap(t => stiltOf(t) ?? []), draft = new PlanDraft(ground.index(), tips)
      const pairs = neighboursOf(stilts, reachMm)
      let reason: string | null = pairs.length === 0 ? `No two of them stand within ${reachMm} mm of each other.` : null
      const joins = pairs.flatMap(([a, b]) => {
        const brace = joinHigh(ground.surface(), a, b, Math.min(gaugeOfStilt(a).braceDiameterMm, gaugeOfStilt(b).braceDiameterMm), ground.others(a.id, b.id))
        if (!brace.ok) reason ??= brace.reason
        return brace.ok ? [brace] : []
      })
      draft.put(rowsOfBraces(draft.index, joins))
      return { edit: editOf(draft), count: joins.length, reason, tips: [] }
    },

    /** Gathers stilts on a stem in their middle. */
    gather(tips: readonly string[], gauge: string): Tied {
      const gathered = gatherOnStem(ground.surface(), ground.index(), tips, gaugeOf(gauge, ground.gauges()), ground.gauges(), ground.plate(), ground.others(...tips))
      return gathered.ok ? { edit: editOf(gathered.draft), count: gathered.count, reason: gathered.reason, tips: [gathered.stem] } : { edit: editOf(new PlanDraft(ground.index(), [])), count: 0, reason: gathered.reason, tips: [] }
    },

    /** Props under leaning stilts. */
    prop(tips: readonly string[]): Tied {
      const draft = new PlanDraft(ground.index(), tips)
      let count = 0, reason: string | null = null
      for (const s of tips.flatMap(t => stiltOf(t) ?? [])) {
        const prop = propUnder(ground.surface(), s, gaugeOfStilt(s), ground.plate(), ground.others(s.id))
        if (prop.ok) {
          draft.put(rowsOfProp(draft.index, prop))
          count++
        } else reason ??= prop.reason
      }
      return { edit: editOf(draft), count, reason, tips: [] }
    },

    /** A node of a stilt somewhere else, with all that follows it, or why it cannot be there. */
    moveNode(tip: string, node: number, to: Vec3, force: boolean): MovedNode | null {
      const s = stiltOf(tip)
      return s && moveNode({ surface: ground.surface(), index: ground.index(), gauge: gaugeOfStilt(s), plate: ground.plate(), others: ground.others(tip), force }, s, node, to)
    },

    /** Puts a joint into a shaft, or takes the one away that is there, where nothing hangs on it. */
    toggleJoint({ tip, at }: StiltPlace): Tied & { readonly added: boolean } {
      const s = stiltOf(tip), place = s && placeNear(s, at), draft = new PlanDraft(ground.index(), [tip]), rows = place && rowsOfJoint(draft.index, place)
      const there = s && !rows ? s.nodes.find((_, i) => i > 1 && i < s.alone && distance(s.path[i], at) < SAME_JOINT_MM) : undefined, held = there !== undefined && ground.index().isHeld(there)
      const gone = there !== undefined && !held && takeJointAway(draft, there)
      if (rows) draft.put(rows)
      return { edit: editOf(draft), count: rows || gone ? 1 : 0, added: !!rows, tips: [], reason: rows || gone ? null : held ? 'Something hangs on this joint or is braced to it; take that away first.' : 'There is no shaft between knee and foot here to put a joint into.' }
    },
  }
}

/** The lowest of the joints of branches on one stilt; null where they are fewer than two or of several. */
function lowestShared(branches: readonly (Branch | NoRoute)[]): Joint | null {
  const joints = branches.flatMap(b => (b.ok ? [b.joint] : []))
  if (joints.length < 2 || joints.some(j => j.host.id !== joints[0].host.id)) return null
  return joints.reduce((a, b) => (b.at[2] < a.at[2] ? b : a))
}

/** How far a point is from a line between two, seen from above, mm. */
function acrossTo(p: Vec3, a: Vec3, b: Vec3): number {
  const ux = b[0] - a[0], uy = b[1] - a[1], l = ux * ux + uy * uy, t = l > 0 ? Math.max(0, Math.min(1, ((p[0] - a[0]) * ux + (p[1] - a[1]) * uy) / l)) : 0
  return Math.hypot(p[0] - a[0] - ux * t, p[1] - a[1] - uy * t)
}
