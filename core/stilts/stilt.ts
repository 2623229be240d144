import { newId, type Anchor, type Gauge, type TipShape, type PlanBeam, type PlanNode, type Role } from '../contract'
import { degrees, distance, radians, type Vec3 } from '../mesh'
import { neckOf } from './contact'

/** The shape of one stilt's tip and its sizes, mm. */
export interface StiltSizes {
  readonly tipShape: TipShape
  readonly tipDiameterMm: number
  readonly penetrationMm: number
  readonly coneLengthMm: number
  readonly kneeDiameterMm: number
  readonly shaftFootDiameterMm: number
  readonly footDiameterMm: number
  /** Height of a foot on the plate; length of the cone of a foot on the model. */
  readonly footHeightMm: number
  /** How deep a foot on the model goes in; 0 on the plate. */
  readonly footPenetrationMm: number
}
export type SizeName = Exclude<keyof StiltSizes, 'tipShape'>

/** On how many points a foot on the model stands, and how far each is from their middle. */
export interface FootSpread {
  readonly footPoints: number
  readonly footSpreadMm: number
}
/** Sizes that were set by hand. */
export type OwnSizes = Partial<StiltSizes & FootSpread>
/** The sizes that a stilt is to have on the plate, and what was set by hand of its foot on the model. */
export interface WantedSizes extends StiltSizes {
  readonly onModel?: OwnSizes
}

export const TIP_SIZES = ['tipShape', 'tipDiameterMm', 'penetrationMm', 'coneLengthMm', 'kneeDiameterMm'] as const satisfies readonly (keyof StiltSizes)[]
export const FOOT_SIZES = ['shaftFootDiameterMm', 'footDiameterMm', 'footHeightMm', 'footPenetrationMm'] as const satisfies readonly SizeName[]
const SPREAD_SIZES = ['footPoints', 'footSpreadMm'] as const satisfies readonly (keyof FootSpread)[]
/** All that can be set by hand of a lower end. */
export const OWN_FOOT_SIZES = [...FOOT_SIZES, ...SPREAD_SIZES] as const

/** A way down that belongs to another stilt, which this one joins. */
export interface SharedWay {
  /** The node of the path where it joins. */
  readonly from: number
  /** Diameters of the shared segments at both ends, from there down to the foot, mm. */
  readonly diameters: readonly (readonly [number, number])[]
}

/** A further point of the model that a stick stands on, where its foot is spread; reached from the last joint of its path. */
export interface Leg {
  readonly at: Vec3
  readonly anchor: Anchor
}

/** How one support is made, from its tip to its foot, whatever rows of a plan hold it. */
export interface StiltShape {
  readonly gauge: string
  readonly role: Role
  /** As it stands: what routing made of gauge and own sizes. */
  readonly sizes: StiltSizes
  /** Sizes that were set by hand. */
  readonly own: OwnSizes
  /** Where it touches, in the source's coordinates. */
  readonly anchor: Anchor
  /** Tip, knee, joints if any, foot; in the stand of the part. Above a foot on the model the last joint is where its cone begins. */
  readonly path: readonly Vec3[]
  /** On the plate, on the model (a stick), or lost: no way down was found after a change of pose. */
  readonly foot: 'plate' | 'model' | 'lost'
  /** Where a foot on the model stands, in the source's coordinates. */
  readonly footAnchor?: Anchor
  /** Where else it stands. */
  readonly legs?: readonly Leg[]
  /** Why a foot is lost. */
  readonly lostFor?: string
  /** Its foot was put there by hand. */
  readonly footPinned: boolean
  /** The spread that it was placed with. */
  readonly spread?: string
  /** Why it should not stand, where it was placed against advice. */
  readonly forced?: string
  /** Where it is a branch: what it hangs on. Its own shaft ends where it joins, as thick as its sizes have the shaft at the foot. */
  readonly shared?: SharedWay
}

/** One support as the person handles it: a way down through the graph of a plan. Ways of several tips may share their lower part. */
export interface Stilt extends StiltShape {
  /** That of its tip. */
  readonly id: string
  readonly part: string
  /** What people call it. */
  readonly number: number
  /** The rows along the way, tip first. */
  readonly nodes: readonly string[]
  readonly beams: readonly string[]
  /** So many of the nodes, from the tip on, are its own; where they are not all, it is a branch, and what follows belongs to the stilt that it joins. */
  readonly alone: number
  /** The first node on which something else depends, since it joins there or is braced to it; as many as there are nodes where nothing does. */
  readonly bound: number
}

/** Nodes and beams of some stilts. */
export interface PlanRows {
  readonly nodes: readonly PlanNode[]
  readonly beams: readonly PlanBeam[]
}

export function sizesOf(gauge: Gauge): StiltSizes {
  const { tipShape, tipDiameterMm, penetrationMm, coneLengthMm, kneeDiameterMm, shaftFootDiameterMm, footDiameterMm, footHeightMm } = gauge
  return { tipShape, tipDiameterMm, penetrationMm, coneLengthMm, kneeDiameterMm, shaftFootDiameterMm, footDiameterMm, footHeightMm, footPenetrationMm: 0 }
}

/** Sizes with a shaft that is thicker where it is long, as its gauge wants it; one that was set by hand stays. A taper of 3° from radius 0.3 reaches radius 1 after 13.36 mm. */
export function thickened(gauge: Gauge, sizes: StiltSizes, lengthMm: number): StiltSizes {
  if (gauge.thickenDeg === 0 || sizes.shaftFootDiameterMm !== gauge.shaftFootDiameterMm) return sizes
  const opened = Math.min(gauge.thickestMm, sizes.kneeDiameterMm + 2 * lengthMm * Math.tan(radians(gauge.thickenDeg)))
  return opened > sizes.shaftFootDiameterMm ? { ...sizes, shaftFootDiameterMm: opened } : sizes
}

/**
 * The sizes that are wanted of a stilt: its gauge's, and those that were set by hand. What was set of a foot on the model is for one there.
 * @param foot where it stands so far
 */
export function wantedSizes(gauge: Gauge, own: OwnSizes, foot: StiltShape['foot'] = 'plate'): WantedSizes {
  const stick = foot === 'model', sizes = only(own, stick ? TIP_SIZES : [...TIP_SIZES, ...FOOT_SIZES])
  return { ...sizesOf(gauge), ...sizes, onModel: only(own, stick ? OWN_FOOT_SIZES : SPREAD_SIZES) }
}

/** What was set by hand of a stilt whose foot stands elsewhere from now on: sizes of a foot on the plate are not those of one on the model. */
export function ownOn(own: OwnSizes, before: StiltShape['foot'], now: StiltShape['foot']): OwnSizes {
  return before === now || before === 'lost' || now === 'lost' ? own : only(own, [...TIP_SIZES, ...SPREAD_SIZES])
}

/** Some of the sizes, as far as they are there. */
function only<N extends keyof OwnSizes>(sizes: OwnSizes, names: readonly N[]): { [K in N]?: OwnSizes[K] } {
  return Object.fromEntries(names.flatMap(n => (sizes[n] === undefined ? [] : [[n, sizes[n]]]))) as { [K in N]?: OwnSizes[K] }
}

/** Which rows a stilt is written to. */
export interface RowNames {
  readonly part: string
  readonly number: number
  /** Ids to use for its nodes from the tip on and for its foot, and for its beams; new ones are made where there are too few. */
  readonly nodes?: readonly string[]
  readonly foot?: string
  readonly beams?: readonly string[]
}

/** The nodes and beams of one stilt by itself. */
export function rowsOfStilt(stilt: StiltShape, names: RowNames): { nodes: PlanNode[]; beams: PlanBeam[] } {
  const { sizes, own, path } = stilt, { part } = names
  const last = path.length - 1
  const ids = path.map((_, i) => (i === last ? (names.foot ?? newId()) : (names.nodes?.[i] ?? newId())))
  const nodes = path.map((p, i): PlanNode => {
    const base = { id: ids[i], part, at: [p[0], p[1], p[2]] as [number, number, number], pinned: i === last && stilt.footPinned }
    if (i === 0) {
      return { ...base, kind: 'tip', number: names.number, gauge: stilt.gauge, role: stilt.role, anchor: copyOf(stilt.anchor), own: only(own, TIP_SIZES), fitted: tipSizes(sizes), ...(stilt.spread !== undefined && { spread: stilt.spread }), ...(stilt.forced !== undefined && { forced: stilt.forced.slice(0, 300) }) }
    }
    if (i < last) return { ...base, kind: i === 1 ? 'knee' : 'joint' }
    const on = stilt.foot === 'model' ? { kind: 'model' as const, anchor: copyOf(stilt.footAnchor ?? stilt.anchor) } : stilt.foot === 'plate' ? { kind: 'plate' as const } : { kind: 'lost' as const, reason: (stilt.lostFor ?? '').slice(0, 300) }
    return { ...base, kind: 'foot', on, own: only(own, OWN_FOOT_SIZES), fitted: footSizes(sizes) }
  })
  const beams = diametersOf(stilt).map(([fromDiameterMm, toDiameterMm], i): PlanBeam => ({
    id: names.beams?.[i] ?? newId(), part, kind: i === 0 ? 'cone' : i + 1 === stilt.shared?.from ? 'branch' : 'shaft', from: ids[i], to: ids[i + 1], fromDiameterMm, toDiameterMm,
  }))
  for (const leg of legsOf(stilt)) {
    const id = newId(), at = [leg.at[0], leg.at[1], leg.at[2]] as [number, number, number]
    nodes.push({ id, part, at, pinned: false, kind: 'foot', on: { kind: 'model', anchor: copyOf(leg.anchor) }, own: only(own, OWN_FOOT_SIZES), fitted: footSizes(sizes) })
    beams.push({ id: newId(), part, kind: 'leg', from: ids[last - 1], to: id, fromDiameterMm: sizes.shaftFootDiameterMm, toDiameterMm: sizes.footDiameterMm })
  }
  return { nodes, beams }
}

/** The legs of a stilt's own foot: none of a branch, or of one that stands elsewhere. */
export function legsOf({ foot, shared, legs }: Pick<StiltShape, 'foot' | 'shared' | 'legs'>): readonly Leg[] {
  return foot === 'model' && !shared ? (legs ?? []) : []
}

function tipSizes({ tipShape, tipDiameterMm, penetrationMm, coneLengthMm, kneeDiameterMm }: StiltSizes): Extract<PlanNode, { kind: 'tip' }>['fitted'] {
  return { tipShape, tipDiameterMm, penetrationMm, coneLengthMm, kneeDiameterMm }
}
function footSizes({ shaftFootDiameterMm, footDiameterMm, footHeightMm, footPenetrationMm }: StiltSizes): Extract<PlanNode, { kind: 'foot' }>['fitted'] {
  return { shaftFootDiameterMm, footDiameterMm, footHeightMm, footPenetrationMm }
}

function copyOf({ point, normal }: Anchor): Anchor {
  return { point: [point[0], point[1], point[2]], normal: [...normal] }
}

/** How thick each segment of a stilt is at both ends, mm: its cone from its neck to the knee, and a shaft that tapers evenly from there to its end. */
export function diametersOf({ path, sizes, foot, shared }: Pick<StiltShape, 'path' | 'sizes' | 'foot' | 'shared'>): [number, number][] {
  const last = path.length - 1, own = shared?.from ?? last, end = sizes.shaftFootDiameterMm
  // above a foot on the model the shaft ends where its cone begins
  const stick = !shared && foot === 'model', run = path.slice(0, own + 1)
  const at = (i: number): number => sizes.kneeDiameterMm + (end - sizes.kneeDiameterMm) * (stick && i === last - 1 ? 1 : shaftShare(run, i))
  return Array.from({ length: last }, (_, i): [number, number] => {
    if (shared && i >= own) return [...shared.diameters[i - own]] as [number, number]
    return [i === 0 ? neckOf(sizes) : at(i), i === 0 ? sizes.kneeDiameterMm : stick && i + 1 === last ? sizes.footDiameterMm : at(i + 1)]
  })
}

/** How far along the shaft, from knee (0) to foot (1), node i of a path lies. */
export function shaftShare(path: readonly Vec3[], i: number): number {
  let total = 0, before = 0
  for (let k = 1; k + 1 < path.length; k++) {
    const l = distance(path[k + 1], path[k])
    if (k < i) before += l
    total += l
  }
  return total > 0 ? before / total : 0
}

/** Length of the shaft from knee to foot, mm, and its largest lean from vertical, degrees. */
export function shaftOf(path: readonly Vec3[]): { lengthMm: number; leanDeg: number } {
  let lengthMm = 0, leanDeg = 0
  for (let i = 1; i + 1 < path.length; i++) {
    const a = path[i], b = path[i + 1]
    const across = Math.hypot(b[0] - a[0], b[1] - a[1]), down = a[2] - b[2]
    lengthMm += Math.hypot(across, down)
    leanDeg = Math.max(leanDeg, degrees(Math.atan2(across, down)))
  }
  return { lengthMm, leanDeg }
}
