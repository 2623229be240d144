import type { Island, Ledge } from '@oak-stilts/core/contract'
import { distance, type Vec3 } from '@oak-stilts/core/mesh'
import type { PlanAim } from '@oak-stilts/core/plan'
import type { ScanResult } from '@oak-stilts/core/scan'
import { UsageError, type Options } from './arguments'
import type { Posed } from './posed'

/** A place on the command line means the finding that is nearest to it, up to so far away, mm. */
const NEAR_MM = 5

/** What a plan is for where the command line picks it: findings near some places, or triangles of the file; undefined where it does not. @throws UsageError */
export function aimOf({ near, triangles }: Pick<Options, 'near' | 'triangles'>, { islands, ledges }: Pick<ScanResult, 'islands' | 'ledges'>, { mesh, fileTriangles }: Pick<Posed, 'mesh' | 'fileTriangles'>): PlanAim | undefined {
  if (triangles) {
    const last = triangles.reduce((most, [, to]) => Math.max(most, to), 0)
    if (last >= fileTriangles) throw new UsageError(`--triangles names triangle ${last}; the file has ${fileTriangles}, counted from 0.`)
    const { from } = mesh, wanted = (t: number): boolean => triangles.some(([first, to]) => t >= first && t <= to)
    return { faces: Array.from({ length: mesh.triangles.length / 3 }, (_, f) => f).filter(f => wanted(from ? from[f] : f)) }
  }
  if (!near) return undefined
  const open = ({ state }: Island | Ledge): boolean => state === 'open' || state === 'partly'
  const all = [...islands.filter(open).map(island => ({ at: island.aim, island })), ...ledges.filter(open).map(ledge => ({ at: ledge.at, ledge }))]
  const found = near.map(place => {
    const [best] = all.map(f => ({ f, mm: distance(f.at as Vec3, place) })).sort((a, b) => a.mm - b.mm)
    if (!best || best.mm > NEAR_MM) throw new UsageError(`Nothing hangs within ${NEAR_MM} mm of ${place.join(', ')}${best ? `; the nearest is ${best.mm.toFixed(1)} mm away, at ${best.f.at.map(v => v.toFixed(1)).join(', ')}` : ''}.`)
    return best.f
  })
  return { islands: found.flatMap(f => ('island' in f ? [f.island] : [])), ledges: found.flatMap(f => ('ledge' in f ? [f.ledge] : [])) }
}
