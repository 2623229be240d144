import { joinMeshes, writeStl } from '@oak-stilts/core/mesh'
import Module from 'manifold-3d'
import type { Mesh, Vec3 } from '@oak-stilts/core/mesh'
import { NO_RAFT } from '@oak-stilts/core/contract'
import { raftSolid } from '@oak-stilts/core/raft'
import { gaugeOf, sizesOf, solidOfStilts, type StiltShape } from '@oak-stilts/core/stilts'
import { box, lathe, sphere } from '../core/testing/shapes'

/** `count` places around the z axis, at a radius and a height, mm. */
function around(count: number, radius: number, z: (i: number) => number, turn = 0): Vec3[] {
  return Array.from({ length: count }, (_, i) => {
    const a = ((i + turn) * 2 * Math.PI) / count
    return [radius * Math.cos(a), radius * Math.sin(a), z(i)]
  })
}

/**
 * A lantern of some 5,000 triangles for trying things by hand: a bowl that pulls until it joins the outside between the pillars that
 * carry the lid, buds and drops that hang below its rim, and brackets that jut out. Everything that the bench shows is there, and a
 * scan takes moments.
 */
export function lantern(): Uint8Array {
  const places = around(4, 10.6, i => 2 + 0.2 * i)
  const buds = places.map(at => sphere(at, 1.8, 20))
  const stems = places.map(([x, y, z]) => lathe([[0, 0], [0.7, 0], [0.7, 5 - z], [0, 5 - z]], 16, [x, y, z]))
  const drops = around(4, 10.6, i => 2.4 + 0.1 * i, 0.5).map(at => lathe([[0, 0], [0.6, 0.9], [0.3, 3], [0, 3]], 24, at))
  const pillars = around(6, 7.3, () => 5.5, 0.25).map(at => lathe([[0, 0], [0.5, 0], [0.5, 4], [0, 4]], 24, at))
  return writeStl(joinMeshes([
    lathe([[0, 0], [6, 0], [8, 2], [8, 6], [6.8, 6], [6.8, 2], [0, 1.4]], 96), lathe([[7.4, 4.5], [12, 4.5], [12, 5.5], [7.4, 5.5], [7.4, 4.5]], 96),
    ...buds, ...stems, ...drops, ...pillars, lathe([[0, 9], [8, 9], [3, 11], [0, 11]], 96), box([6.5, -1.5, 9.1], [13, 1.5, 9.8]), box([-11.5, -1, 9.2], [-6.5, 1, 9.8]), sphere([0, 0, 3], 1.6, 32),
  ]), 'lantern')
}

/** A flat plate that is easily hit by a click. */
export function plate(): Uint8Array {
  return writeStl(box([-12, -8, 0], [12, 8, 3]), 'plate')
}

/** A table on one leg, with a bud that hangs below its edge: small, and quick to hold. */
export function table(): Uint8Array {
  return writeStl(joinMeshes([box([-1.5, -1.5, 0], [1.5, 1.5, 8]), box([-6, -5, 8], [6, 5, 9.5]), sphere([4.5, 0, 5.5], 1.2, 24), box([4.2, -0.3, 6], [4.8, 0.3, 8.2])]), 'table')
}

/** A broad roof on one leg: so much hangs that a plan for it takes a while. */
export function pavilion(): Uint8Array {
  return writeStl(joinMeshes([box([-1.5, -1.5, 0], [1.5, 1.5, 8]), box([-24, -20, 8], [24, 20, 9.5])]), 'pavilion')
}

/** Three walls around a room that is open to the right, with a floor of film: by itself it lets resin and air through. */
export function stall(): Uint8Array {
  return writeStl(joinMeshes([box([-10, -8, 0], [10, -6, 12]), box([-10, -6, 0], [-8, 6, 12]), box([-10, 6, 0], [10, 8, 12])]), 'stall')
}

/** A wall that shuts such a room where it stands before it, less than a pixel away. */
export function gate(): Uint8Array {
  return writeStl(box([-0.98, -8, 0], [0.98, 8, 12]), 'gate')
}

/** A floor and a roof above it that a wall at the back carries: sticks stand between them. */
export function porch(): Uint8Array {
  return writeStl(joinMeshes([box([-8, -5, 0], [8, 5, 2]), box([-8, 4, 1], [8, 5, 13]), box([-8, -5, 12], [8, 5, 14])]), 'porch')
}

/** The pieces of a small slab as somebody else made it ready: on a raft, with six columns whose tips of 0.25 mm are thin. */
function readyPieces(): Mesh[] {
  const at: [number, number][] = [[-5, -3], [0, -3], [5, -3], [-5, 3], [0, 3], [5, 3]], sizes = { ...sizesOf(gaugeOf('light')), tipDiameterMm: 0.25 }
  const columns = at.map(([x, y]): StiltShape => ({ gauge: 'light', role: 'structural', sizes, own: {}, anchor: { point: [x, y, 8] as never, normal: [0, 0, -1] }, foot: 'plate', footPinned: false, path: [[x, y, 8], [x, y, 5.5], [x, y, 0]] }))
  const raft = raftSolid({ ...NO_RAFT, kind: 'plate' }, at.map(([x, y]) => ({ x, y, radiusMm: 1.6 })))
  return [box([-7, -5, 8], [7, 5, 11]), ...columns.map(c => solidOfStilts([c])), ...(raft ? [raft] : [])]
}
export function madeReady(): Uint8Array {
  return writeStl(joinMeshes(readyPieces()), 'made ready')
}
/** The same, all of it one surface. */
export async function madeReadyFused(): Promise<Uint8Array> {
  const library = await Module()
  library.setup()
  const { vertProperties, triVerts } = library.Manifold.union(readyPieces().map(({ positions, triangles }) => {
    const part = new library.Mesh({ numProp: 3, vertProperties: positions, triVerts: triangles })
    part.merge()
    return new library.Manifold(part)
  })).getMesh()
  return writeStl({ positions: new Float32Array(vertProperties), triangles: new Uint32Array(triVerts) }, 'made ready in one')
}
