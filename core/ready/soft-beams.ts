import type { PlanBeam, PlanNode } from '../contract'
import { distance } from '../mesh'
import type { Swaying } from '../plan'
import { swayEnergies, swayMotion, type Loaded, type Swayed } from '../proof'
import type { PlanIndex } from '../stilts'

/** What sways is brought to this share of what it may. */
const SWAY_AIM = 0.9
/** What stores this many times less for its volume than what stores most is not made thicker. */
const DENSITIES = 8
/** Nothing is made so many times thicker than that at once because something sways: what is below it has to follow. */
const MOST_STIFFER = 1.3
/** Nothing is made thicker than that only because something sways, mm. */
const THICKEST_SWAY = 3
/** Beams are grown until cones store so much of what is left. */
const MOST_CONES = 0.8

/** Beams that make a part sway. */
export interface Soft {
  /** How many times as thick they have to be, so that no piece sways more than it may, with least resin. */
  readonly times: ReadonlyMap<string, number>
  /** By how much all of them together sway too far, in times of what they may. */
  readonly over: number
}

/**
 * What makes pieces sway, and how much thicker it has to be. The work that a beam stores goes with the fourth power of its thickness and its
 * resin with the square; resin is least where every beam that is grown stores alike for its volume (optimality criterion of structures of
 * least weight under one displacement), so each grows by the sixth root of what it stores for its volume.
 * @param blocked what has no room to grow: the others have to do it
 */
export function softBeams({ supports, pushes, sways }: Loaded, index: PlanIndex, limitMm: number, blocked: ReadonlySet<string>): Soft {
  const times = new Map<string, number>(), energies = swayEnergies(supports, pushes, sways.map(s => s.layer))
  for (const { layer, mm } of sways) {
    const stored = [...(energies.get(layer) ?? [])].filter(([, e]) => e > 0), total = stored.reduce((sum, [, e]) => sum + e, 0), wanted = (total * limitMm * SWAY_AIM) / mm
    const grows = stored.flatMap(([id, e]) => {
      const b = index.beams.get(id) as PlanBeam, length = distance((index.nodes.get(b.from) as PlanNode).at, (index.nodes.get(b.to) as PlanNode).at), d = (b.fromDiameterMm + b.toDiameterMm) / 2
      return d >= THICKEST_SWAY || blocked.has(id) ? [] : [{ id, e, density: e / (length * d * d + 1e-9), most: THICKEST_SWAY / d }]
    })
    const stays = total - grows.reduce((sum, g) => sum + g.e, 0), left = (even: number): number => grows.reduce((sum, g) => sum + g.e / Math.min(g.most, Math.max(1, (g.density / even) ** (1 / 6))) ** 4, stays)
    // what stores little for its volume stays, whatever the others cannot do
    const densest = grows.reduce((most, g) => Math.max(most, g.density), 0)
    let low = densest / DENSITIES, high = densest
    // where cones are what is soft, thicker beams below them are no help
    const least = Math.max(wanted, stays / MOST_CONES)
    for (let i = 0; i < 40; i++) {
      const even = (low + high) / 2
      if (left(even) > least) high = even
      else low = even
    }
    for (const g of grows) if (g.density > low) times.set(g.id, Math.max(times.get(g.id) ?? 1, Math.min(g.most, MOST_STIFFER, (g.density / low) ** (1 / 6))))
  }
  return { times, over: sways.reduce((sum, s) => sum + s.mm / limitMm - 1, 0) }
}

/** Pieces that sway too far, each in the layer in which it sways most, and how what holds them moves then. */
export function swayingIn({ supports, pushes, sways }: Swayed, limitMm: number): Swaying[] {
  return sways.flatMap(({ layer, mm }) => {
    const pushed = pushes.get(layer)
    return pushed ? [{ times: mm / limitMm, ...swayMotion(supports, pushed) }] : []
  })
}
