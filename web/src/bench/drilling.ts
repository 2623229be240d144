import { newId, type Cup, type HoleStep, type SourcePoint, type StandPoint } from '@oak-stilts/core/contract'
import { BEYOND_WALL, directionOf } from '@oak-stilts/core/finish'
import { add, scale, type Vec3 } from '@oak-stilts/core/mesh'
import { fromSource, moveDirection, moveDirectionBack, shapeOf, toSource } from '@oak-stilts/core/pose'
import { shallowRef } from 'vue'
import type { AimedBore } from '../workers/surface.worker'
import type { BenchContext } from './context'
import type { createEditing } from './editing'

/** A hole that resin runs out of: common practice is 2 to 3 mm. */
const USUAL_MM = 2
/** A hole is looked at from so far, mm. */
const LOOK_MM = 30

/** The holes of the part. */
export function createDrilling({ store, stand, flyTo, current, say }: BenchContext, { setRecipe }: Pick<ReturnType<typeof createEditing>, 'setRecipe'>) {
  /** Drills where the scan proposes to vent a space. One step of undo. */
  async function drillVent({ vent }: Pick<Cup, 'vent'>): Promise<void> {
    if (!vent) return
    const { part, stand: now } = current(), shape = shapeOf(part.recipe), standing = { shape, stand: now }
    const outside = add(vent.at, scale(vent.direction, vent.wallMm)), into = directionOf(moveDirectionBack(now, scale(vent.direction, -1)), shape)
    const hole: HoleStep = { id: newId(), on: true, at: toSource(standing, outside), into: [...into], diameterMm: USUAL_MM, endDiameterMm: USUAL_MM, depthMm: vent.wallMm + BEYOND_WALL * USUAL_MM }
    await setRecipe({ holes: [...part.recipe.holes, hole] }, 'drill a vent')
    if (store.part?.recipe.holes.some(h => h.id === hole.id)) say(`A hole of ${USUAL_MM} mm was drilled; its sizes are in Part.`)
  }
  /** Sizes of the next hole. */
  const nextHole = shallowRef<{ readonly diameterMm: number; readonly upright: boolean }>({ diameterMm: USUAL_MM, upright: false })
  /** Drills where somebody points. One step of undo. */
  async function drillAt({ at, into, depthMm, worth }: AimedBore): Promise<void> {
    if (worth === 'off-limits') {
      say('This face is off limits: nothing was drilled. Choose another place, or take its mark off.')
      return
    }
    const { part, stand: now } = current(), shape = shapeOf(part.recipe), { diameterMm } = nextHole.value
    const hole: HoleStep = { id: newId(), on: true, at: toSource({ shape, stand: now }, at as StandPoint), into: [...directionOf(moveDirectionBack(now, into), shape)], diameterMm, endDiameterMm: diameterMm, depthMm }
    await setRecipe({ holes: [...part.recipe.holes, hole] }, 'drill a hole')
    if (store.part?.recipe.holes.some(h => h.id === hole.id)) say(`A hole of ${diameterMm} mm was drilled${worth === 'prized' ? ', into prized skin' : ''}.`)
  }
  function changeHole(id: string, change: Partial<HoleStep>, label: string): void {
    const { part } = current()
    void setRecipe({ holes: part.recipe.holes.map(h => (h.id === id ? { ...h, ...change } : h)) }, label)
  }
  function dropHole(id: string): void {
    const { part } = current()
    void setRecipe({ holes: part.recipe.holes.filter(h => h.id !== id) }, 'take a hole away')
  }
  /** Brings a hole into view, from outside. */
  function showHole(id: string): void {
    const { part } = store, hole = part?.recipe.holes.find(h => h.id === id)
    if (!part || !hole || !stand.value) return
    const shape = shapeOf(part.recipe), at: Vec3 = fromSource({ shape, stand: stand.value }, hole.at as SourcePoint), out = scale(moveDirection(stand.value, directionOf(hole.into, shape)), -1)
    flyTo.value?.(at, out, LOOK_MM)
  }

  return { nextHole, drillVent, drillAt, changeHole, dropHole, showHole }
}
