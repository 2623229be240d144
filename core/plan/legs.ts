import { leastDiameter, type Room } from '../forest'
import type { Vec3 } from '../mesh'
import { FEET_APART_MM, GAP_FLOOR_MM, LEAST_RIM_MM, onPlate, placeAtHeight, sizesOf, type Others, type Plate, type Prop, type Stilt, type Surface } from '../stilts'
import type { Gauge } from '../contract'

/** A leg joins a trunk so high up, as shares of it, the highest first; and leans by so much, degrees, the widest first. */
const HEIGHTS = [0.97, 0.85, 0.7, 0.55, 0.4], LEANS_DEG = [40, 32, 25, 18]
/** A leg stands so far to a side at the most, mm. */
const ACROSS_MM = 28
/** To how many sides legs are tried; two of them stand apart by this at least and at most, in steps of these sides. */
const SIDES = 12, APART = [3, 4, 2, 5]
/** No leg is thinner than that, nor its foot wider, mm; nor is a trunk lower. */
const LEAST_MM = 0.9, FOOT_MM = 2.4, LOWEST_MM = 6

/**
 * Legs for a trunk that makes something sway: they lean against it from two sides, so that it stands like a tripod and no longer bends as a
 * mast does. Fewer where there is no room.
 * @param topMm how high its shaft reaches
 */
export function* legsUnder(surface: Surface, room: Room, stilt: Stilt, topMm: number, gauge: Gauge, plate: Plate, others: Others, feet: readonly Vec3[]): Generator<Prop, void, void> {
  if (topMm < LOWEST_MM) return
  const free = (side: number): Prop | null => {
    const a = (2 * Math.PI * side) / SIDES
    for (const share of HEIGHTS) {
      const at = placeAtHeight(stilt, share * topMm)
      for (const lean of at ? LEANS_DEG : []) {
        const joint = at as NonNullable<typeof at>, [x, y] = joint.at, across = joint.at[2] * Math.tan((lean * Math.PI) / 180), foot: Vec3 = [x + across * Math.cos(a), y + across * Math.sin(a), 0], length = Math.hypot(across, joint.at[2])
        const thick = Math.max(LEAST_MM, leastDiameter(length)), sizes = { ...sizesOf(gauge), shaftFootDiameterMm: thick, footDiameterMm: Math.max(FOOT_MM, thick + LEAST_RIM_MM) }, end: Vec3 = [foot[0], foot[1], sizes.footHeightMm]
        if (across > ACROSS_MM) continue
        if (!onPlate(foot, sizes, plate) || feet.some(f => Math.hypot(f[0] - foot[0], f[1] - foot[1]) < sizes.footDiameterMm + FEET_APART_MM)) continue
        if (!room.isClear(joint.at, end, thick / 2, thick / 2, GAP_FLOOR_MM) || surface.gapOfDisc(foot, sizes.footDiameterMm / 2, sizes.footHeightMm * 0.4) < GAP_FLOOR_MM) continue
        if (others.field.isNear([{ from: joint.at, to: end, fromRadius: thick / 2, toRadius: thick / 2 }], others.limitMm, others.but)) continue
        const gapMm = surface.gapOfBeam(joint.at, end, thick / 2, thick / 2)
        if (gapMm >= GAP_FLOOR_MM) return { ok: true, at: joint, foot, sizes, gapMm }
      }
    }
    return null
  }
  const sides = Array.from({ length: SIDES }, (_, i) => free(i))
  for (const apart of APART) {
    const i = sides.findIndex((s, i) => s && sides[(i + apart) % SIDES])
    if (i < 0) continue
    yield sides[i] as Prop
    yield sides[(i + apart) % SIDES] as Prop
    return
  }
  const one = sides.find(s => s)
  if (one) yield one
}
