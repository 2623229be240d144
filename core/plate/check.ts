import type { Printer } from '../contract'
import type { Vec3 } from '../mesh'
import { after, plateOf, type PlateShift, type RigidMotion, type Stand } from '../pose'
import { Body } from './body'
import { outlineOnPlate, outlinesMeet, type Footprint, type FlatPoint } from './footprint'

/** A part as it stands by itself: its model where that is placed, its stilts in the stand. */
export interface StandingPart {
  readonly id: string
  readonly footprint: Footprint
  readonly model: Body
  readonly stand: Stand
  /** Null where it has none. */
  readonly stilts: Body | null
}

export interface StandingCopy {
  readonly id: string
  readonly part: string
  readonly shift: PlateShift
}

/** What is wrong with how copies stand on the plate. Places are in the coordinates of the plate. */
export interface PlateCheck {
  /** How far a copy reaches over what of the plate can be printed on, or above what the printer can print, mm; 0 where it does not. */
  readonly outside: readonly { readonly copy: string; readonly overMm: number; readonly aboveMm: number; readonly at: Vec3 }[]
  /** Pairs that run into each other, and a place where they do. */
  readonly overlaps: readonly { readonly copies: readonly [string, string]; readonly at: Vec3 }[]
  /** The box of every copy on the plate, and its convex outline, mm. */
  readonly boxes: readonly { readonly copy: string; readonly min: FlatPoint; readonly max: FlatPoint; readonly outline: readonly FlatPoint[] }[]
}

/** Less than this over an edge is rounding, mm. */
const SLACK_MM = 1e-3

/** Whether copies stand on the plate, and clear of each other. Outlines are compared first; only where these meet, the bodies are. */
export function checkPlate(parts: readonly StandingPart[], copies: readonly StandingCopy[], printer: Pick<Printer, 'widthMm' | 'depthMm' | 'heightMm'> & Partial<Pick<Printer, 'edgesMm'>>): PlateCheck {
  const of = new Map(parts.map(p => [p.id, p])), [left, right, front, back] = printer.edgesMm ?? [0, 0, 0, 0]
  const standing = copies.flatMap(copy => {
    const part = of.get(copy.part)
    return part ? [{ copy, part, outline: outlineOnPlate(part.footprint, copy.shift) }] : []
  })
  const outside: { copy: string; overMm: number; aboveMm: number; at: Vec3 }[] = []
  const boxes: { copy: string; min: FlatPoint; max: FlatPoint; outline: readonly FlatPoint[] }[] = []
  for (const { copy, part, outline } of standing) {
    const reach = ([x, y]: FlatPoint): number => Math.max(x - printer.widthMm / 2 + right, -x - printer.widthMm / 2 + left, y - printer.depthMm / 2 + back, -y - printer.depthMm / 2 + front)
    const far = outline.reduce((a, b) => (reach(b) > reach(a) ? b : a), outline[0] ?? [0, 0])
    const overMm = reach(far), aboveMm = part.footprint.topMm - printer.heightMm
    if (overMm > SLACK_MM || aboveMm > SLACK_MM) outside.push({ copy: copy.id, overMm: Math.max(0, overMm), aboveMm: Math.max(0, aboveMm), at: overMm > SLACK_MM ? [far[0], far[1], 0] : [copy.shift.xMm, copy.shift.yMm, part.footprint.topMm] })
    const xs = outline.map(p => p[0]), ys = outline.map(p => p[1])
    boxes.push({ copy: copy.id, min: [Math.min(...xs), Math.min(...ys)], max: [Math.max(...xs), Math.max(...ys)], outline })
  }
  const overlaps: { copies: [string, string]; at: Vec3 }[] = []
  for (const [i, a] of standing.entries()) {
    for (const b of standing.slice(i + 1)) {
      if (!outlinesMeet(a.outline, b.outline)) continue
      const at = meeting(a.part, a.copy.shift, b.part, b.copy.shift)
      if (at) overlaps.push({ copies: [a.copy.id, b.copy.id], at })
    }
  }
  return { outside, overlaps, boxes }
}

function meeting(a: StandingPart, shiftA: PlateShift, b: StandingPart, shiftB: PlateShift): Vec3 | null {
  const plateA = plateOf(shiftA), plateB = plateOf(shiftB)
  const bodies = (p: StandingPart, plate: RigidMotion<'stand', 'plate'>): [Body, RigidMotion][] => [[p.model, after(plate, p.stand)], ...(p.stilts ? [[p.stilts, plate] as [Body, RigidMotion]] : [])]
  for (const [one, placedOne] of bodies(a, plateA)) {
    for (const [other, placedOther] of bodies(b, plateB)) {
      const at = Body.meet(one, placedOne, other, placedOther)
      if (at) return at
    }
  }
  return null
}
