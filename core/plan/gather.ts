import type { Gauge, PlanNode } from '../contract'
import { beamsOfTree, grown, headsOfTree, rowsOfTrees, type Head, type Tree } from '../forest'
import { normalFromSource } from '../pose'
import { Clearance, gaugeOf, PlanDraft, type Beam, type BeamField, type Plate, type Stilt, type Surface } from '../stilts'
import { GAP_MM, offSkin } from './forest'
import { freeSpaceOf } from './free-space'
import type { HoldStep } from './hold'
import { isFree } from './straighten'

/** How far branches reach across, mm. */
const REACH_MM = 9

/**
 * Gathers stilts that stand each by itself on shared trunks. Their tips stay where they are and as wide; what is pinned, forced or tied to
 * something stays as a whole. Gives how many were gathered.
 * @param draft the plan, which is changed; it has to cover all of the part
 */
export function* gathered(surface: Surface, draft: PlanDraft, part: string, { gauges, plate, webMm }: { readonly gauges: readonly Gauge[]; readonly plate: Plate; readonly webMm: number }): Generator<HoldStep, number, void> {
  const some = draft.index.stiltsOf(part).filter(s => isFree(s, draft)), byId = new Map(some.map(s => [s.id, s]))
  if (some.length < 2) return 0
  const { room, ways } = yield* freeSpaceOf(surface, plate)
  yield 'Gathering stilts on trunks'
  const heads = some.map((s): Head => ({ point: s.path[0], normal: normalFromSource(surface, s.anchor.normal), knee: s.path[1], sizes: s.sizes, gauge: s.gauge, role: s.role, gapMm: gaugeOf(s.gauge, gauges).gapMm, tip: draft.index.nodes.get(s.id) as Extract<PlanNode, { kind: 'tip' }> }))
  const standing = (kept: ReadonlySet<string>): BeamField => {
    const rest = new PlanDraft(draft.index, [...draft.index.nodes.keys()])
    for (const s of some) if (!kept.has(s.id)) rest.drop(s.nodes, s.beams)
    return new Clearance(rest.index).field(part)
  }
  const idsOf = (tree: Tree): string[] => headsOfTree(tree).map(h => h.tip?.id as string), forest = grown(heads, { room, ways, plate, gapMm: GAP_MM, shared: true, reachMm: REACH_MM, isOff: offSkin(surface), others: { field: standing(new Set()), limitMm: webMm } })
  // what finds no way stays as it is; so does what a tree would bring too near to that, and what would be by itself again
  const kept = new Set(forest.left.map(h => h.tip?.id as string))
  let trees = forest.trees
  for (let settled = false; !settled; ) {
    const field = standing(kept), good = trees.filter(t => idsOf(t).length > 1 && !field.isNear(withFoot(t), webMm))
    for (const t of trees) if (!good.includes(t)) for (const id of idsOf(t)) kept.add(id)
    settled = good.length === trees.length
    trees = good
  }
  const gone = trees.flatMap(idsOf).map(id => byId.get(id) as Stilt)
  if (gone.length === 0) return 0
  for (const s of gone) draft.drop(s.nodes.slice(1), s.beams)
  draft.put(rowsOfTrees(surface, trees, part, draft.index.nextNumber(part)))
  return gone.length
}

/** The beams of a tree, and its foot as a short thick one. */
function withFoot(tree: Tree): Beam[] {
  const [x, y] = tree.way[tree.way.length - 1], radius = tree.foot.footDiameterMm / 2
  return [...beamsOfTree(tree), { from: [x, y, tree.foot.footHeightMm], to: [x, y, 0], fromRadius: radius, toRadius: radius }]
}
