import { joinMeshes, type Mesh, type Vec3 } from '@oak-stilts/core/mesh'
import { Body, convexHull, footprintOf, type Footprint, type StandingCopy, type StandingPart } from '@oak-stilts/core/plate'
import { after, AS_IS, plateOf, type Stand } from '@oak-stilts/core/pose'
import type { PlanReplica } from './plan-replica'

/** A part as it stands by itself, and what its mesh is known by. */
export interface PlatePart {
  readonly id: string
  readonly meshKey: string
  readonly stand: Stand
}

/** What was made for a part: its outline for as long as it stands as it does, all of it for as long as its stilts stay as well. */
interface Made {
  readonly modelKey: string
  readonly model: Footprint
  readonly stiltKey: string
  readonly footprint: Footprint
  /** What its stilts are, as one mesh. */
  readonly stilts: Mesh
  stiltBody?: Body | null
}

/** Bodies and footprints of all parts on the plate. Trees are only made once two outlines meet, or something is pointed at. */
export class PlateBodies {
  readonly #meshes = new Map<string, Mesh>()
  readonly #models = new Map<string, Body>()
  readonly #made = new Map<string, Made>()

  add(key: string, mesh: Mesh): void {
    this.#meshes.set(key, mesh)
  }

  /** @throws Error where the model is not there */
  mesh({ meshKey }: Pick<PlatePart, 'meshKey'>): Mesh {
    const mesh = this.#meshes.get(meshKey)
    if (!mesh) throw new Error('This model is not loaded.')
    return mesh
  }

  /** @throws Error where the model is not there */
  standing({ id, meshKey, stand }: PlatePart, plan: PlanReplica): StandingPart {
    const mesh = this.mesh({ meshKey })
    const modelKey = `${meshKey} ${stand.join()}`, stiltKey = plan.stateOf(id)
    let made = this.#made.get(id)
    if (made?.modelKey !== modelKey || made.stiltKey !== stiltKey) {
      const own = made?.modelKey === modelKey ? made.model : footprintOf([{ mesh, motion: stand }])
      const stilts = joinMeshes(plan.solids(id)), theirs = footprintOf([{ mesh: stilts, motion: AS_IS }])
      made = { modelKey, model: own, stiltKey, stilts, footprint: { outline: convexHull([...own.outline, ...theirs.outline]), topMm: Math.max(own.topMm, theirs.topMm) } }
      this.#made.set(id, made)
    }
    const own = made
    const model = (): Body => {
      let body = this.#models.get(meshKey)
      if (!body) this.#models.set(meshKey, (body = new Body(mesh)))
      return body
    }
    return {
      id, stand, footprint: own.footprint,
      get model() {
        return model()
      },
      get stilts() {
        own.stiltBody ??= own.stilts.triangles.length > 0 ? new Body(own.stilts) : null
        return own.stiltBody
      },
    }
  }

  /** The copy whose part or stilts a ray meets first. @param direction of length 1 */
  pick(origin: Vec3, direction: Vec3, parts: readonly StandingPart[], copies: readonly StandingCopy[]): { copy: string; distanceMm: number } | null {
    let best: { copy: string; distanceMm: number } | null = null
    for (const { id, part, shift } of copies) {
      const standing = parts.find(p => p.id === part), plate = plateOf(shift)
      if (!standing) continue
      const distanceMm = Math.min(standing.model.cast(origin, direction, after(plate, standing.stand)), standing.stilts?.cast(origin, direction, plate) ?? Infinity)
      if (distanceMm < (best?.distanceMm ?? Infinity)) best = { copy: id, distanceMm }
    }
    return best
  }
}
