import type { Gauge } from '@oak-stilts/core/contract'
import { joinMeshes, type Mesh, type Vec3 } from '@oak-stilts/core/mesh'
import { moveMesh, standOf } from '@oak-stilts/core/pose'
import { raftSolid } from '@oak-stilts/core/raft'
import { BeamField, beamsOfShape, gaugeOf, routeStilt, shapeOfRoute, solidOfStilts, Surface, type StiltShape } from '@oak-stilts/core/stilts'
import { carve } from '../sculpt/carve'
import { limb, mass, piece, torus, type Piece } from '../sculpt/field'

/** How it was laid for printing: leaning back, above its raft. */
const TILT_DEG = 28, LIFT_MM = 6
/** Supports as somebody else made them: a row every so many mm, with tips that are too thin to carry it. */
const EVERY_MM = 3.4
const THIN: Gauge = { ...gaugeOf('light'), tipDiameterMm: 0.25, penetrationMm: 0.2, coneLengthMm: 2.2, kneeDiameterMm: 1, shaftFootDiameterMm: 1.3, footDiameterMm: 2.6, footHeightMm: 0.7, preferredLeanDeg: 25, gapMm: 0.3 }

/**
 * The signal buoy: a riveted float with its fender, a lattice mast, a lantern under a hood. It arrives as somebody printed it: leaning, on
 * a raft, with columns whose tips of 0.25 mm are too thin.
 */
export async function buoy(): Promise<Mesh> {
  const upright = await carve(buoyPieces(), 0.3), stand = standOf(upright.positions, { tiltXDeg: TILT_DEG, tiltYDeg: 0, liftMm: LIFT_MM }, 0.05), body = moveMesh(upright, stand), columns = columnsUnder(body)
  const raft = raftSolid({ kind: 'plate', thicknessMm: 0.8, marginMm: 1.2, lipDeg: 50, barMm: 2, reachMm: 12, ventMm: 2.4, ventEveryMm: 7 }, columns.map(c => ({ x: c.path[c.path.length - 1][0], y: c.path[c.path.length - 1][1], radiusMm: c.sizes.footDiameterMm / 2 })))
  return joinMeshes([body, solidOfStilts(columns), ...(raft ? [raft] : [])])
}

/** Columns on a hexagonal grid wherever something looks down, clear of each other. */
function columnsUnder(body: Mesh): StiltShape[] {
  const surface = new Surface(body), field = new BeamField(), out: StiltShape[] = [], plate = { widthMm: 120, depthMm: 120 }
  for (let j = -14; j <= 14; j++) {
    for (let i = -14; i <= 14; i++) {
      const at = surface.cast([(i + (j % 2 ? 0.5 : 0)) * EVERY_MM, j * EVERY_MM * 0.866, -1], [0, 0, 1])
      // what is steep carries itself
      if (!at || at.normal[2] > -0.6) continue
      const route = routeStilt(surface, at.point, at.normal, THIN, plate, undefined, { field, limitMm: 0.3 })
      if (!route.ok || route.foot !== 'plate') continue
      const shape = shapeOfRoute(surface, THIN, 'structural', route, at.normal)
      field.put(`${i} ${j}`, beamsOfShape(shape).map(beam => ({ owner: `${i} ${j}`, beam })))
      out.push(shape)
    }
  }
  return out
}

/** Radius of the float at a height, mm: a keel cone, a belt, a sloping deck. */
function float(z: number): number {
  if (z < 9) return 2.6 + 9.6 * (z / 9) ** 0.72
  if (z < 14) return 12.2
  return 12.2 - (z - 14)
}
const around = (r: number, a: number, z: number): Vec3 => [r * Math.cos(a), r * Math.sin(a), z]

/** Its pieces upright, in mm, the mooring eye down. */
export function buoyPieces(): Piece[] {
  const out: Piece[] = []
  let group = 0
  out.push(piece([[0, 0, 0], [0, 0, 16]], 13.5, (x, y, z) => {
    const r = Math.hypot(x, y)
    return Math.max((r - float(Math.max(0, Math.min(15, z)))) * 0.62, -z, z - 15)
  }, { group: ++group, blend: 0.3 }))
  // the eye that its mooring shackles to, and the shackle plate
  out.push(torus([0, 0, -1.6], [0, 1, 0], 1.9, 0.75, { group: ++group }), limb([0, 0, -0.4], [0, 0, 1.4], 1.5, 2.4, { group, blend: 0.4 }))
  // fender with its straps, a weld seam above
  out.push(torus([0, 0, 11.4], [0, 0, 1], 12.3, 1.15, { group: ++group }))
  for (let i = 0; i < 12; i++) {
    const a = (i / 12) * 2 * Math.PI
    out.push(limb(around(11.6, a, 9.6), around(11.9, a, 13.4), 0.5, 0.5, { group: ++group }))
    out.push(mass(around(12.4, a + 0.26, 13.3), [0.5, 0.5, 0.38], [Math.cos(a + 0.26), Math.sin(a + 0.26), 0], [0, 0, 1], { group: ++group }))
  }
  out.push(torus([0, 0, 8.9], [0, 0, 1], 12, 0.32, { group: ++group }))
  // deck: hatch with its dogs, two lifting lugs
  out.push(piece([[0, 0, 15], [0, 0, 17]], 6, (x, y, z) => Math.max(Math.hypot(x, y) - 4.9, 15 - z, z - 16.2), { group: ++group }))
  for (let i = 0; i < 8; i++) out.push(mass(around(4.1, (i / 8) * 2 * Math.PI + 0.2, 16.25), [0.55, 0.4, 0.4], [Math.cos((i / 8) * 2 * Math.PI + 0.2), Math.sin((i / 8) * 2 * Math.PI + 0.2), 0], [0, 0, 1], { group: ++group }))
  for (const side of [-1, 1]) out.push(torus([side * 7.4, 0, 15.9], [0, 1, 0], 1.05, 0.42, { group: ++group }))
  // mast: four legs, rings and crossed stays between them
  const leg = (i: number, z: number): Vec3 => around(5.6 - 3.3 * ((z - 15) / 20), (i / 4) * 2 * Math.PI + Math.PI / 4, z)
  for (let i = 0; i < 4; i++) out.push(limb(leg(i, 14.6), leg(i, 35), 0.72, 0.56, { group: ++group }))
  for (const z of [20.5, 26, 31]) for (let i = 0; i < 4; i++) out.push(limb(leg(i, z), leg((i + 1) % 4, z), 0.45, 0.45, { group: ++group }))
  for (const [low, high] of [[15.4, 20.5], [20.5, 26], [26, 31]]) for (let i = 0; i < 4; i++) out.push(limb(leg(i, low), leg((i + 1) % 4, high), 0.36, 0.36, { group: ++group }))
  // lantern on its table, guarded by bars, under a hood with a finial
  out.push(piece([[0, 0, 34], [0, 0, 36]], 4.4, (x, y, z) => Math.max(Math.hypot(x, y) - 3.9, 34.4 - z, z - 35.6), { group: ++group }))
  out.push(mass([0, 0, 38.1], [2.15, 2.15, 2.6], [1, 0, 0], [0, 1, 0], { group: ++group }))
  for (let i = 0; i < 3; i++) out.push(torus([0, 0, 37 + i * 1.1], [0, 0, 1], 2.1, 0.22, { group: ++group }))
  for (let i = 0; i < 6; i++) out.push(limb(around(3.3, (i / 6) * 2 * Math.PI, 35.2), around(2.9, (i / 6) * 2 * Math.PI, 40.9), 0.34, 0.34, { group: ++group }))
  out.push(piece([[0, 0, 40.4], [0, 0, 44]], 4.6, (x, y, z) => Math.max((Math.hypot(x, y) - 4.1 * Math.max(0.08, 1 - (z - 40.6) / 3.2) ** 0.8) * 0.7, 40.6 - z, z - 43.6), { group: ++group }))
  out.push(mass([0, 0, 44], [0.75, 0.75, 1.1], [1, 0, 0], [0, 1, 0], { group: group + 1 }))
  return out
}
