import { leastDiameter, type Room } from '../forest'
import type { Vec3 } from '../mesh'
import { FEET_APART_MM, gaugeOf, GAP_FLOOR_MM, LEAST_RIM_MM, onPlate, placeNow, rowsOfProp, sizesOf, type Joint, type PlanDraft, type Plate, type Prop, type Surface } from '../stilts'
import type { Gauge } from '../contract'
import { meetingAt } from './struts'
import { barStiffness, barVolume, eased, type MovingPlace, type Swaying } from './swaying'

/** A leg leans by so much, degrees, and stands so far to a side at the most, mm; it is tried to so many sides. */
const LEANS_DEG = [40, 32, 25, 18], ACROSS_MM = 24, SIDES = 12
/** No leg is thinner than that, nor its foot wider than it has to be, mm; nor does it join a trunk lower than that. */
const LEAST_MM = 0.9, FOOT_MM = 2.4, LOWEST_MM = 6
/** What sways by no more than so many times what it may gets no leg; nor is there one that eases less than this share of it. */
const LEGS_FROM = 4, LEAST_EASED = 0.4
/** So many places are tried for each piece. */
const MOST_TRIED = 200

interface Leg {
  readonly joint: Joint
  readonly foot: Vec3
  readonly diameterMm: number
  /** What it eases, by its resin. */
  readonly worth: number
}

/** Gives a leg to what holds the piece that sways most of those that sway much too far: from a trunk to a foot of its own, where it eases most for its resin. Gives whether one found room. */
export function legUnder(surface: Surface, room: Room, draft: PlanDraft, part: string, places: readonly MovingPlace[], swaying: readonly Swaying[], of: { readonly gauges: readonly Gauge[]; readonly plate: Plate; readonly webMm: number; readonly modulusNMm2: number }): boolean {
  for (const [i, piece] of swaying.entries()) {
    if (piece.times < LEGS_FROM) continue
    const field = draft.clearance.field(part), feet = [...draft.index.nodes.values()].flatMap(n => (n.kind === 'foot' && n.part === part && n.on.kind === 'plate' ? [n.at] : []))
    for (const leg of legsFor(places, i, piece, of.modulusNMm2).slice(0, MOST_TRIED)) {
      const prop = propOf(surface, room, { ...leg, joint: placeNow(draft.index, leg.joint) }, of.gauges, of.plate, feet)
      if (!prop || field.isNear([beamOf(prop)], of.webMm, new Set(meetingAt(draft.index, prop.at)))) continue
      draft.put(rowsOfProp(draft.index, prop))
      return true
    }
  }
  return false
}

/** Legs that would ease one piece, the best first. */
function legsFor(places: readonly MovingPlace[], which: number, piece: Swaying, modulusNMm2: number): Leg[] {
  const out: Leg[] = []
  for (const { joint, moved } of places) {
    const [x, y, z] = joint.at, moves = moved[which]
    if (!moves || z < LOWEST_MM) continue
    for (const lean of LEANS_DEG) {
      const across = z * Math.tan((lean * Math.PI) / 180), length = Math.hypot(across, z), diameterMm = Math.max(LEAST_MM, leastDiameter(length))
      if (across > ACROSS_MM) continue
      for (let side = 0; side < SIDES; side++) {
        const a = (2 * Math.PI * side) / SIDES, dx = across * Math.cos(a), dy = across * Math.sin(a), share = eased(piece, barStiffness(modulusNMm2, diameterMm, length), [-dx / length, -dy / length, z / length], moves, null)
        if (share >= LEAST_EASED) out.push({ joint, foot: [x + dx, y + dy, 0], diameterMm, worth: share / barVolume(diameterMm, length) })
      }
    }
  }
  return out.sort((a, b) => b.worth - a.worth)
}

/** A leg as it would stand; null where it would come too near to the part or to other feet, or leave the plate. */
function propOf(surface: Surface, room: Room, { joint, foot, diameterMm }: Leg, gauges: readonly Gauge[], plate: Plate, feet: readonly Vec3[]): Prop | null {
  const sizes = { ...sizesOf(gaugeOf(joint.host.gauge, gauges)), shaftFootDiameterMm: diameterMm, footDiameterMm: Math.max(FOOT_MM, diameterMm + LEAST_RIM_MM) }, end: Vec3 = [foot[0], foot[1], sizes.footHeightMm], radius = diameterMm / 2
  if (!onPlate(foot, sizes, plate) || feet.some(f => Math.hypot(f[0] - foot[0], f[1] - foot[1]) < sizes.footDiameterMm + FEET_APART_MM)) return null
  if (!room.isClear(joint.at, end, radius, radius, GAP_FLOOR_MM) || surface.gapOfDisc(foot, sizes.footDiameterMm / 2, sizes.footHeightMm * 0.4) < GAP_FLOOR_MM) return null
  const gapMm = surface.gapOfBeam(joint.at, end, radius, radius)
  return gapMm >= GAP_FLOOR_MM ? { ok: true, at: joint, foot, sizes, gapMm } : null
}
function beamOf({ at, foot, sizes }: Prop): { from: Vec3; to: Vec3; fromRadius: number; toRadius: number } {
  const radius = sizes.shaftFootDiameterMm / 2
  return { from: at.at, to: [foot[0], foot[1], sizes.footHeightMm], fromRadius: radius, toRadius: radius }
}
