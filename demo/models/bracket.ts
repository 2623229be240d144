import Module, { type CrossSection, type Manifold } from 'manifold-3d'
import type { Mesh } from '@oak-stilts/core/mesh'

/** Corners of a full circle: what is bored is true to three thousandths of a millimetre. */
const ROUND = 96

/** The bores: axis, radius and length, mm. The first carries the crank, along y; the others take screws, along z. */
export const BORES = [
  { axis: 'y', at: [0, 0, 27], radius: 5 },
  ...([[-18, -9], [18, -9], [-18, 9], [18, 9]] as const).map(([x, y]) => ({ axis: 'z' as const, at: [x, y, 0] as const, radius: 2.1 })),
] as const satisfies readonly { readonly axis: 'y' | 'z'; readonly at: readonly [number, number, number]; readonly radius: number }[]

/** The crank bracket: a foot with sunk screw holes, an upright with a bored boss, a keyway, ribs, fillets all around. 48 × 28 × 38 mm, its underside flat. */
export async function bracket(): Promise<Mesh> {
  const wasm = await Module()
  wasm.setup()
  const { CrossSection, Manifold } = wasm
  const rounded = (width: number, depth: number, r: number): CrossSection => CrossSection.square([width - 2 * r, depth - 2 * r], true).offset(r, 'Round', 2, ROUND)
  /** Inner corners filled with an arc of this radius. */
  const filleted = (outline: CrossSection, r: number): CrossSection => outline.offset(r, 'Round', 2, ROUND).offset(-r, 'Round', 2, ROUND)
  /** An outline in x and z, drawn out along y about the middle. */
  const across = (outline: CrossSection, thickness: number): Manifold => outline.extrude(thickness, 0, 0, [1, 1], true).rotate([90, 0, 0])
  /** One in y and z, drawn out along x. */
  const along = (outline: CrossSection, thickness: number): Manifold => outline.extrude(thickness, 0, 0, [1, 1], true).rotate([90, 0, 90])
  const boreY = (radius: number, length: number, x: number, z: number): Manifold => Manifold.cylinder(length, radius, radius, ROUND, true).rotate([90, 0, 0]).translate([x, 0, z])

  const foot = rounded(48, 28, 4).extrude(4.4).add(rounded(48, 28, 4).extrude(0.6, 0, 0, [46.8 / 48, 26.8 / 28]).translate([0, 0, 4.4]))
  const upright = across(filleted(CrossSection.hull([CrossSection.square([25, 1], true).translate([0, 4]), CrossSection.circle(10.4, ROUND).translate([0, 27])]).add(CrossSection.square([40, 5], true).translate([0, 2.5])), 4.5), 9)
  const rib = along(filleted(CrossSection.hull([CrossSection.square([21, 1], true).translate([0, 4]), CrossSection.square([9, 1], true).translate([0, 20])]).add(CrossSection.square([25, 5], true).translate([0, 2.5])), 3), 3.6)
  const ribs = [-8, 8].map(x => rib.translate([x, 0, 0]))
  const boss = boreY(9, 17, 0, 27).add(boreY(8.4, 18.2, 0, 27))
  let solid = foot.add(upright).add(boss)
  for (const r of ribs) solid = solid.add(r)
  // the crank's bore with its keyway, chamfered at both ends
  solid = solid.subtract(boreY(5, 30, 0, 27)).subtract(Manifold.cube([3, 30, 2.6], true).translate([0, 0, 27 + 5.2]))
  for (const s of [-1, 1]) solid = solid.subtract(Manifold.cylinder(0.6, 5, 5.6, ROUND, true).rotate([s > 0 ? -90 : 90, 0, 0]).translate([0, s * 8.8, 27]))
  // a grub screw from above, oil groove beside it
  solid = solid.subtract(Manifold.cylinder(14, 1.25, 1.25, 64).translate([0, 4.6, 29]))
  for (const { axis, at: [x, y], radius } of BORES) {
    if (axis !== 'z') continue
    solid = solid.subtract(Manifold.cylinder(12, radius, radius, ROUND).translate([x, y, -1])).subtract(Manifold.cylinder(2.2, radius, 4.3, ROUND).translate([x, y, 2.81]))
  }
  // a slot lightens the upright
  solid = solid.subtract(across(CrossSection.hull([CrossSection.circle(2.2, 96).translate([0, 10.2]), CrossSection.circle(2.2, 96).translate([0, 14])]), 20))
  // no long slivers: faces are marked by triangles
  const out = solid.refineToLength(3).getMesh()
  const positions = Float32Array.from({ length: out.numVert * 3 }, (_, i) => out.vertProperties[Math.floor(i / 3) * out.numProp + (i % 3)])
  return { positions, triangles: out.triVerts.slice() }
}
