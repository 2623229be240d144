import { newId } from '../contract'
import type { Vec3 } from '../mesh'
import { FEET_APART_MM, LEAST_RIM_MM, type Beam, type Others, type Plate } from '../stilts'
import { forked } from './forks'
import { FOOT_MM } from './heads'
import type { Room } from './room'
import type { Tree } from './rows'
import { planted, trunkDiameter, type Trunk, type TrunkSizes } from './trunks'
import { leastDiameter, type Head, type IsFree, type Twig } from './twig'
import type { Ways } from './ways'

/** How a forest is grown. */
export interface Growing {
  readonly room: Room
  readonly ways: Ways
  readonly plate: Plate
  /** How far a trunk keeps from the part at least, mm. */
  readonly gapMm: number
  /** What stands already; what is grown is put there as well. */
  readonly others: Others
  /** Whether heads share forks and trunks; each has a shaft of its own where not. */
  readonly shared: boolean
  /** A branch reaches so far across at the most, mm. */
  readonly reachMm: number
  /** Whether a beam keeps a gap from the part, measured at its skin. */
  isOff(from: Vec3, to: Vec3, radiusMm: number, gapMm: number): boolean
}

/** Trees, and heads that found no way down. */
export interface Forest {
  readonly trees: Tree[]
  readonly left: Head[]
}

/** So many tips share a trunk at the most. */
const MOST_TIPS = 24
/** The thinnest trunk, and how high its foot is, mm. */
const LEAST_TRUNK_MM = 1, FOOT_HEIGHT_MM = 0.8

/** Gathers heads: near ones in forks, forks on trunks, and what is left on ways of its own. */
export function grown(heads: readonly Head[], { room, ways, plate, gapMm, shared, reachMm, isOff, others: { field, limitMm, but } }: Growing): Forest {
  const half = [plate.widthMm / 2, plate.depthMm / 2] as const, sizes: TrunkSizes = { leastMm: LEAST_TRUNK_MM, footDiameterMm: FOOT_MM, footHeightMm: FOOT_HEIGHT_MM, gapMm, mostTips: shared ? MOST_TIPS : 1, reachMm }
  const isFree: IsFree = (from, to, radiusMm, gapMm = null) => !field.isNear([{ from, to, fromRadius: radiusMm, toRadius: radiusMm }], limitMm, but) && (gapMm === null || isOff(from, to, radiusMm, gapMm))
  const isTwigFree = (twig: Twig): boolean => !field.isNear(beamsOfTwig(twig), limitMm, but)
  const trees: Tree[] = []
  const stand = (tree: Tree): void => {
    const owner = newId()
    field.put(owner, beamsOfTree(tree).map(beam => ({ owner, beam })))
    trees.push(tree)
  }
  const alone = heads.map(twigOf), twigs = shared ? forked(alone, room, ways, isFree) : alone
  const { rest } = planted(twigs, room, sizes, half, isFree, isTwigFree, t => stand(treeOf(t, sizes)))
  const left: Head[] = []
  for (const twig of rest) {
    const own = isTwigFree(twig) ? wayOf(twig, ways, isFree) : null
    if (own) stand(own)
    else left.push(...headsOf(twig))
  }
  return { trees: withFeet(trees), left }
}

function twigOf(head: Head): Twig {
  return { at: head.knee, diameterMm: head.sizes.kneeDiameterMm, tips: 1, gapMm: head.gapMm, head, up: [] }
}
function headsOf({ head, up }: Twig): Head[] {
  return head ? [head] : up.flatMap(headsOf)
}
/** All heads of a tree. */
export function headsOfTree({ hangs }: Tree): Head[] {
  return hangs.flatMap(h => headsOf(h.twig))
}

function treeOf({ x, y, hangs }: Trunk, sizes: TrunkSizes): Tree {
  const heights = [...new Set(hangs.map(h => h.z))], way = [...heights.map((z): Vec3 => [x, y, z]), [x, y, 0] as Vec3]
  return { way, hangs: hangs.map(h => ({ twig: h.twig, at: heights.indexOf(h.z) })), diameterMm: trunkDiameter(sizes, heights[0], hangs.map(h => h.twig)), foot: { footDiameterMm: sizes.footDiameterMm, footHeightMm: sizes.footHeightMm } }
}

/** A twig on a way of its own, which may bend around the part. */
function wayOf(twig: Twig, ways: Ways, isFree: IsFree): Tree | null {
  const way = ways.from(twig.at)
  if (!way || way.length < 2) return null
  const length = way.slice(1).reduce((sum, p, i) => sum + Math.hypot(p[0] - way[i][0], p[1] - way[i][1], p[2] - way[i][2]), 0), diameterMm = Math.max(LEAST_TRUNK_MM, twig.diameterMm, leastDiameter(length))
  if (way.slice(1).some((p, i) => !isFree(way[i], p, diameterMm / 2, twig.gapMm))) return null
  const rest = way.slice(1)
  // a shaft begins at a joint: where it goes straight down there is one on its way
  if (rest.length === 1) rest.unshift([(way[0][0] + rest[0][0]) / 2, (way[0][1] + rest[0][1]) / 2, way[0][2] / 2])
  return { way: rest, hangs: [{ twig, at: 0 }], diameterMm, foot: { footDiameterMm: FOOT_MM, footHeightMm: FOOT_HEIGHT_MM } }
}

/** Feet as wide as there is room between them. */
function withFeet(trees: readonly Tree[]): Tree[] {
  const feet = trees.map(t => t.way[t.way.length - 1])
  return trees.map((t, i) => {
    const room = feet.reduce((least, f, j) => (i === j ? least : Math.min(least, Math.hypot(f[0] - feet[i][0], f[1] - feet[i][1]))), Infinity) - FEET_APART_MM
    return { ...t, foot: { ...t.foot, footDiameterMm: Math.max(t.diameterMm + LEAST_RIM_MM, Math.min(FOOT_MM, room)) } }
  })
}

/** All beams above the place of a twig. */
function beamsOfTwig({ at, diameterMm, head, up }: Twig): Beam[] {
  return [...(head ? [{ from: head.point, to: at, fromRadius: head.sizes.tipDiameterMm / 2, toRadius: diameterMm / 2 }] : []), ...up.flatMap(t => [{ from: t.at, to: at, fromRadius: t.diameterMm / 2, toRadius: t.diameterMm / 2 }, ...beamsOfTwig(t)])]
}
/** All beams of a tree. */
export function beamsOfTree({ way, hangs, diameterMm }: Tree): Beam[] {
  return [
    ...hangs.flatMap(({ twig, at }) => [{ from: twig.at, to: way[at], fromRadius: twig.diameterMm / 2, toRadius: twig.diameterMm / 2 }, ...beamsOfTwig(twig)]),
    ...way.slice(1).map((to, i) => ({ from: way[i], to, fromRadius: diameterMm / 2, toRadius: diameterMm / 2 })),
  ]
}
