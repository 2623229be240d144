import { newId, type Copy, type Cup, type FindingOf, type HoleStep, type Part, type Pool, type SourcePoint, type StandPoint } from '@oak-stilts/core/contract'
import { BEYOND_WALL, directionOf, type WayOut } from '@oak-stilts/core/finish'
import { add, decodeMesh, scale, type Vec3 } from '@oak-stilts/core/mesh'
import { fromSource, movedBounds, moveDirection, moveDirectionBack, shapeOf, standOf, toSource } from '@oak-stilts/core/pose'
import { shallowRef, watch } from 'vue'
import type { OpeningTroubles } from '../findings'
import type { AimedBore } from '../workers/surface.worker'
import type { BenchContext } from './context'
import type { createEditing } from './editing'
import type { createHollowing } from './hollowing'
import type { createParts } from './parts'

/** A hole is looked at from so far, from outside and from within, mm. */
const LOOK_MM = 30, LOOK_INSIDE_MM = 9
/** Gap around a plug, mm (common practice for resin prints: 0.1 to 0.2). */
const PLUG_GAP_MM = 0.15
/** A hole that is as wide as is asked for but for this is wide enough, mm. */
const SAME_MM = 1e-6

/** The holes of the part. */
export function createDrilling({ store, state, model, stand, flyTo, current, meshOf, say }: BenchContext, { setRecipe, inTurn }: Pick<ReturnType<typeof createEditing>, 'setRecipe' | 'inTurn'>, { hollowing: { told } }: Pick<ReturnType<typeof createHollowing>, 'hollowing'>, { roomFor }: Pick<ReturnType<typeof createParts>, 'roomFor'>) {
  /** How wide a hole has to be that resin runs out of. */
  const usualMm = (): number => store.job?.resin.holeMm ?? 2.5
  /** The hole whose sizes are shown. */
  const chosenHole = shallowRef<string | null>(null)
  watch(() => store.part?.id, () => (chosenHole.value = null))

  /** Those holes of a part that are drilled: what is told of them counts them so. */
  const drilled = (part: Part): HoleStep[] => part.recipe.holes.filter(h => h.on)
  /** Puts a hole through a wall, where somebody proposed one. One step of undo. */
  async function drillOut(at: Vec3, into: Vec3, wallMm: number, label: string): Promise<void> {
    const { part, stand: now } = current(), shape = shapeOf(part.recipe), mm = usualMm()
    await drill({ at: toSource({ shape, stand: now }, at as StandPoint), into: [...directionOf(moveDirectionBack(now, into), shape)], diameterMm: mm, endDiameterMm: mm, depthMm: wallMm + BEYOND_WALL * mm }, label, `A hole of ${mm} mm was drilled; its sizes are in Part.`)
  }
  async function drill(sizes: Omit<HoleStep, 'id' | 'on'>, label: string, said: string): Promise<void> {
    const hole: HoleStep = { id: newId(), on: true, ...sizes }
    await setRecipe(now => ({ holes: [...now.holes, hole] }), label)
    if (!store.part?.recipe.holes.some(h => h.id === hole.id)) return
    chosenHole.value = hole.id
    say(said)
  }
  /** Drills where the scan proposes to vent a space. */
  async function drillVent({ vent }: Pick<Cup, 'vent'>): Promise<void> {
    if (vent) await drillOut(add(vent.at, scale(vent.direction, vent.wallMm)), scale(vent.direction, -1), vent.wallMm, 'drill a vent')
  }
  /** Drills where a pool gathers as the part hangs: through the least wall at its end, off no skin that may not be touched. */
  async function drainPool({ at }: Pick<Pool, 'at'>): Promise<void> {
    await drillWay(await current().workers.surface.drainFrom(at, false, usualMm()), 'drill a drain')
  }
  /** Drills one more opening into a hollow, far from what opens it. */
  async function openMore({ chamber }: FindingOf<'openings'>): Promise<void> {
    const { part, stand: now, workers: w } = current(), own = told.value?.openings[chamber], shape = shapeOf(part.recipe)
    if (!own) return
    const holes = drilled(part).filter((_, i) => own.holes.includes(i)).map(h => fromSource({ shape, stand: now }, h.at as SourcePoint))
    await drillWay(await w.surface.openChamber(own.box.min, own.box.max, holes, part.recipe.hollow?.wallMm ?? 0, usualMm()), 'drill another opening')
  }
  async function drillWay(way: WayOut | null, label: string): Promise<void> {
    if (way) await drillOut(way.at, way.into, way.wallMm, label)
    else say('No way leads out through one wall whose skin may be drilled. Point at a place in Part, Holes.')
  }
  /** Makes a hole as wide as the resin asks for. */
  function widen({ hole, wantedMm }: FindingOf<'narrow'>): void {
    const sizes = current().part.recipe.holes.find(h => h.id === hole)
    if (sizes) changeHole(hole, { diameterMm: Math.max(sizes.diameterMm, wantedMm), endDiameterMm: Math.max(sizes.endDiameterMm, wantedMm) }, 'widen a hole')
  }

  /** Sizes of the next hole; as wide as the resin asks for until somebody says otherwise. */
  const nextHole = shallowRef<{ readonly diameterMm: number; readonly upright: boolean }>({ diameterMm: usualMm(), upright: false })
  watch(() => store.job?.resin.holeMm, () => (nextHole.value = { ...nextHole.value, diameterMm: usualMm() }))
  function mayDrill({ worth }: AimedBore): boolean {
    if (worth === 'off-limits') say('This face is off limits: nothing was drilled. Choose another place, or take its mark off.')
    return worth !== 'off-limits'
  }
  /** A hole as a step keeps it, where somebody points. */
  function placed({ at, into, depthMm }: AimedBore): Pick<HoleStep, 'at' | 'into' | 'depthMm'> {
    const { part, stand: now } = current(), shape = shapeOf(part.recipe)
    return { at: toSource({ shape, stand: now }, at as StandPoint), into: [...directionOf(moveDirectionBack(now, into), shape)], depthMm }
  }
  /** Drills where somebody points. One step of undo. */
  async function drillAt(bore: AimedBore): Promise<void> {
    const { diameterMm } = nextHole.value
    if (mayDrill(bore)) await drill({ ...placed(bore), diameterMm, endDiameterMm: diameterMm }, 'drill a hole', `A hole of ${diameterMm} mm was drilled${bore.worth === 'prized' ? ', into prized skin' : ''}.`)
  }
  /** Moves a hole to where somebody points. One step of undo. */
  function moveHole(id: string, bore: AimedBore): void {
    if (mayDrill(bore)) changeHole(id, placed(bore), 'move a hole')
  }
  function changeHole(id: string, change: Partial<HoleStep>, label: string): void {
    const changed = (holes: readonly HoleStep[]): HoleStep[] => holes.map(h => (h.id === id ? { ...h, ...change } : h)), next = changed(current().part.recipe.holes).find(h => h.id === id)
    // its plug goes on fitting
    const plugs = next ? store.parts.flatMap(p => (p.recipe.plug?.hole.id === id ? [{ ...p, recipe: { ...p.recipe, plug: { ...p.recipe.plug, hole: next } } }] : [])) : []
    void setRecipe(now => ({ holes: changed(now.holes) }), label, plugs)
  }
  function dropHole(id: string): void {
    void setRecipe(({ holes }) => ({ holes: holes.filter(h => h.id !== id) }), 'take a hole away')
  }
  /** Where a hole begins and goes as the part stands; null for none. */
  function holeAt(id: string): { readonly at: Vec3; readonly into: Vec3; readonly hole: HoleStep } | null {
    const { part } = store, hole = part?.recipe.holes.find(h => h.id === id)
    if (!part || !hole || !stand.value) return null
    const shape = shapeOf(part.recipe)
    return { at: fromSource({ shape, stand: stand.value }, hole.at as SourcePoint), into: moveDirection(stand.value, directionOf(hole.into, shape)), hole }
  }
  /** Brings a hole into view, from outside or from within. */
  function showHole(id: string, inside = false): void {
    const there = holeAt(id)
    if (!there) return
    chosenHole.value = id
    const { at, into, hole } = there
    if (inside) flyTo.value?.(add(at, scale(into, hole.depthMm ?? 0)), into, LOOK_INSIDE_MM)
    else flyTo.value?.(at, scale(into, -1), LOOK_MM)
  }

  /** Makes the plug of a hole, as a part of its own. One step of undo. */
  function makePlug(id: string): Promise<void> {
    return inTurn(async () => {
      const { part, raster } = current(), hole = part.recipe.holes.find(h => h.id === id)
      if (!hole) return
      const fresh = newId(), plug: Part = { ...part, id: fresh, name: plugName(part.name), recipe: { ...part.recipe, holes: [], cuts: [], plug: { hole, clearanceMm: PLUG_GAP_MM } }, pose: { ...part.pose, liftMm: Math.max(part.pose.liftMm, 1) } }
      const { positions } = decodeMesh(await meshOf(plug, true)), { min, max } = movedBounds(positions, standOf(positions, plug.pose, raster.pixelMm))
      state.busy = ''
      if (store.part !== part) return
      const copy: Copy = { id: newId(), part: fresh, turnDeg: 0, ...roomFor([max[0] - min[0], max[1] - min[1]]) }
      store.apply({ label: 'make a plug', put: { parts: [plug], copies: [copy] } })
      say(`${plug.name} stands beside it on the plate, with a gap of ${PLUG_GAP_MM} mm all around.`)
    }, 'The plug could not be made')
  }
  function plugName(name: string): string {
    const names = new Set(store.parts.map(p => p.name))
    for (let n = 1; ; n++) {
      const next = `${name.slice(0, 100)}, plug${n === 1 ? '' : ` ${n}`}`
      if (!names.has(next)) return next
    }
  }

  // hollows with fewer openings than the resin asks for, and openings that are too narrow for it, until they are put right
  watch([told, model, () => store.part?.recipe.holes, () => store.job?.resin, stand], () => {
    const { part, job } = store, now = stand.value, all = told.value?.openings ?? []
    state.openings = part && job && now && all.length > 0 ? troublesOf(part, all, job.resin) : { few: [], narrow: [] }
  })
  function troublesOf(part: Part, all: NonNullable<typeof told.value>['openings'], { holes: wanted, holeMm }: { readonly holes: number; readonly holeMm: number }): OpeningTroubles {
    const { stand: now } = current(), shape = shapeOf(part.recipe)
    return {
      // one that nothing opens is a sealed space to the scan
      few: all.flatMap((o, chamber) => (o.count > 0 && o.count < wanted ? [{ at: fromSource({ shape, stand: now }, [o.at[0] / shape[0], o.at[1] / shape[1], o.at[2] / shape[2]]), chamber, volumeMm3: o.volumeMm3, count: o.count, wanted }] : [])),
      narrow: drilled(part).flatMap((h, i) => {
        const diameterMm = Math.min(h.diameterMm, h.endDiameterMm)
        return diameterMm < holeMm - SAME_MM && all.some(o => o.holes.includes(i)) ? [{ at: fromSource({ shape, stand: now }, h.at as SourcePoint), hole: h.id, diameterMm, wantedMm: holeMm }] : []
      }),
    }
  }

  return { nextHole, chosenHole, drillVent, drainPool, openMore, widen, drillAt, moveHole, changeHole, dropHole, holeAt, showHole, makePlug }
}
