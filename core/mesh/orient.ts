import Flatbush from 'flatbush'
import { InsideTest } from './inside'
import type { Box, Mesh } from './triangle-mesh'

/** A piece of a mesh whose triangles hang together. */
export interface Shell {
  readonly triangles: Uint32Array
  /** Negative where it faces inward. */
  readonly volumeMm3: number
  readonly box: Box
  readonly sheet: boolean
  /** Whether it is to face the other way than in the file. */
  turned: boolean
}

/** Vertices of a shell, at the most, that must all lie within another one for it to be inside. */
const SAMPLES = 48
/** As many where there are thousands of shells. */
const FEW_SAMPLES = 6
const MANY_SHELLS = 500

/**
 * Decides which way every shell is to face, from the outermost inward. An outermost shell faces outward; where it does not, it was
 * written inside out with everything in it, and all of that is turned. Within others a shell that faces inward is a cavity where
 * there is solid around it, and a solid that was written inside out where there is none, as in a cavity; one that faces outward
 * is solid anywhere.
 * @returns shells that are cavities, and shells that are solid within other solid
 */
export function orientShells(mesh: Mesh, shells: readonly Shell[]): { readonly cavities: Shell[]; readonly within: Shell[] } {
  const order = shells.map((_, i) => i).filter(i => !shells[i].sheet).sort((a, b) => sizeOfBox(shells[b].box) - sizeOfBox(shells[a].box) || a - b)
  if (order.length === 0) return { cavities: [], within: [] }
  const rank = new Int32Array(shells.length)
  order.forEach((s, i) => (rank[s] = i))
  const tree = new Flatbush(order.length)
  for (const s of order) tree.add(shells[s].box.min[0], shells[s].box.min[1], shells[s].box.max[0], shells[s].box.max[1])
  tree.finish()
  const tests = new Map<number, InsideTest>()
  const testOf = (s: number): InsideTest => {
    let test = tests.get(s)
    if (!test) tests.set(s, (test = new InsideTest(mesh, shells[s].triangles)))
    return test
  }
  const samples = order.length > MANY_SHELLS ? FEW_SAMPLES : SAMPLES
  /** Of each shell: 1 where it will face outward, −1 inward; and whether its outermost shell was inside out. */
  const facing = new Int8Array(shells.length), insideOut = new Uint8Array(shells.length)
  const cavities: Shell[] = [], within: Shell[] = []
  for (const s of order) {
    const shell = shells[s], { min, max } = shell.box
    const around = tree.search((min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[0] + max[0]) / 2, (min[1] + max[1]) / 2)
      .map(i => order[i]).filter(o => rank[o] < rank[s] && holds(shells[o].box, shell.box)).sort((a, b) => rank[a] - rank[b])
      .filter(o => isInside(mesh, shell, testOf(o), samples))
    let wanted = shell.volumeMm3 < 0 ? -1 : 1
    if (around.length === 0) {
      insideOut[s] = wanted < 0 ? 1 : 0
      wanted = 1
    } else {
      insideOut[s] = insideOut[around[0]]
      if (insideOut[s]) wanted = -wanted
      if (wanted < 0) {
        const solid = around.reduce((n, o) => n + facing[o], 0) > 0
        if (solid) cavities.push(shell)
        else wanted = 1
      } else if (around.reduce((n, o) => n + facing[o], 0) > 0) within.push(shell)
    }
    facing[s] = wanted
    shell.turned = wanted < 0 !== shell.volumeMm3 < 0
  }
  return { cavities, within }
}

function sizeOfBox({ min, max }: Box): number {
  return (max[0] - min[0]) * (max[1] - min[1]) * (max[2] - min[2])
}

function holds(outer: Box, inner: Box): boolean {
  return [0, 1, 2].every(a => outer.min[a] <= inner.min[a] && outer.max[a] >= inner.max[a])
}

function isInside(mesh: Mesh, shell: Shell, other: InsideTest, samples: number): boolean {
  const step = Math.max(1, Math.floor(shell.triangles.length / samples))
  for (let i = 0; i < shell.triangles.length; i += step) {
    const v = 3 * mesh.triangles[3 * shell.triangles[i]]
    const p = mesh.positions
    if (other.winding(p[v], p[v + 1], p[v + 2]) === 0) return false
  }
  return true
}
