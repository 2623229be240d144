import { computed, shallowRef, watch } from 'vue'
import type { HollowStep } from '@oak-stilts/core/contract'
import { directionOf } from '@oak-stilts/core/finish'
import { LEAST_CELLS } from '@oak-stilts/core/hollow'
import { dot, type Vec3 } from '@oak-stilts/core/mesh'
import { shapedSize, shapeOf, upOfTilt } from '@oak-stilts/core/pose'
import type { FinishWorker, HollowLook, ToldOfFinish } from '../workers/finish.worker'
import type { Supervised } from '../workers/supervised'
import type { BenchContext } from './context'
import type { createEditing } from './editing'
import { meshKeyOf, startFinisher } from './meshes'

/** What is asked of a hollow. */
export interface HollowAsked extends Pick<HollowStep, 'wallMm' | 'cellMm'> {
  readonly carries: boolean
}
const USUAL_CELL_MM = 0.2
/** A first look is made in so many cells along the part, and in cells of this size at the most, mm. */
const LOOK_CELLS = 100, COARSEST_MM = 0.6
/** A look takes so much of the time that the same cells would take for good, or more: it measures nothing between corners. */
const LOOK_SHARE = 0.5
/** What is being written is not looked at before it rests, ms. */
const RESTS_MS = 250
/** Two ways up are the same where they are within half a degree. */
const SAME_WAY = Math.cos((0.5 * Math.PI) / 180)

/** A first look at a hollow: coarse, with what the fine one would come to. All of it is estimated. */
export interface Looked extends HollowLook {
  readonly cellMm: number
  /** Triangles and seconds that it would take in the cells that are asked for. */
  readonly fineTriangles: number
  readonly fineSeconds: number
}

/** The hollow of the part: asked for, looked at, made. */
export function createHollowing({ store, state, model, sourceOf, toldOf, say }: BenchContext, { setRecipe }: Pick<ReturnType<typeof createEditing>, 'setRecipe'>) {
  /** The wall that the resin asks for. */
  const usual = (): HollowAsked => ({ wallMm: store.job?.resin.wallMm ?? 2, cellMm: USUAL_CELL_MM, carries: false })
  const asked = shallowRef<HollowAsked>(usual())
  const step = computed(() => store.part?.recipe.hollow ?? null)
  watch([() => store.part?.id, step], () => {
    const now = step.value
    asked.value = now ? { wallMm: now.wallMm, cellMm: now.cellMm, carries: now.carries !== null } : usual()
  }, { immediate: true })

  /** The way up as the part stands, as a step keeps it. */
  const up = computed<Vec3 | null>(() => (store.part ? directionOf(upOfTilt(store.part.pose), shapeOf(store.part.recipe)) : null))
  /** Whether its ceilings were shaped for another tilt than it has. */
  const otherWay = computed(() => !!step.value?.on && !!step.value.carries && !!up.value && dot(step.value.carries.up, up.value) < SAME_WAY)
  /** Whether something else is asked for than what there is. */
  const differs = computed(() => {
    const now = step.value, { wallMm, cellMm, carries } = asked.value
    return !now?.on || now.wallMm !== wallMm || now.cellMm !== cellMm || (now.carries !== null) !== carries || (carries && otherWay.value)
  })

  /** What the steps of the part came to. */
  const told = shallowRef<ToldOfFinish | null>(null)
  watch([model, () => store.part?.recipe], async () => {
    const { part } = store
    const next = part && model.value ? await toldOf(part).catch(() => null) : null
    if (part === store.part) told.value = next
  }, { immediate: true })

  const looked = shallowRef<Looked | null>(null), looking = shallowRef(false)
  let looker: Supervised<FinishWorker> | null = null, waiting: ReturnType<typeof setTimeout> | undefined, newest = 0
  function stopLooking(): void {
    newest++
    clearTimeout(waiting)
    looking.value = false
    looker?.end()
    looker = null
  }
  async function look(): Promise<void> {
    const { part } = store, ticket = ++newest, { wallMm, cellMm } = asked.value
    if (!part) return
    const largest = Math.max(...shapedSize(part.source.summary.sizeMm, shapeOf(part.recipe))), coarse = Math.max(cellMm, Math.min(wallMm / LEAST_CELLS, largest / LOOK_CELLS, COARSEST_MM)), finer = (coarse / cellMm) ** 2
    try {
      const source = await sourceOf(part), { unitMm, scale, mirrored } = part.recipe
      looker ??= startFinisher()
      const next = await looker.remote.look(source, { unitMm, scale: [...scale], mirrored }, wallMm, coarse)
      if (ticket === newest) looked.value = { ...next, cellMm: coarse, fineTriangles: (next.triangles.length / 3) * finer, fineSeconds: (next.seconds * finer) / LOOK_SHARE }
    } catch {
      // a look that fails is none; what is wrong is said when it is made
      if (ticket === newest) looked.value = null
    } finally {
      if (ticket === newest) looking.value = false
    }
  }
  const wanted = shallowRef(false)
  watch([wanted, () => asked.value.wallMm, () => asked.value.cellMm, differs, () => (store.part ? meshKeyOf({ source: store.part.source, recipe: { ...store.part.recipe, hollow: null, holes: [] } }) : '')], () => {
    stopLooking()
    looked.value = null
    if (!wanted.value || !differs.value || !store.part || asked.value.wallMm < LEAST_CELLS * asked.value.cellMm) return
    looking.value = true
    waiting = setTimeout(() => void look(), RESTS_MS)
  })

  /** Hollows the part as it is asked for. One step of undo. */
  async function makeHollow(): Promise<void> {
    const { job } = store, { wallMm, cellMm, carries } = asked.value
    if (!job || !up.value) return
    stopLooking()
    const { slopeDeg, flapMm } = job.settings, hollow: HollowStep = { on: true, wallMm, cellMm, carries: carries ? { up: [...up.value], slopeDeg, flapMm } : null }
    state.busy = 'Hollowing the part'
    await setRecipe({ hollow }, step.value ? 'hollow anew' : 'hollow')
  }
  /** Switches the hollow off or on again. */
  function switchHollow(on: boolean): void {
    if (!step.value) return
    void setRecipe({ hollow: { ...step.value, on } }, on ? 'hollow again' : 'leave it solid')
  }
  function askHollow(next: Partial<HollowAsked>): void {
    const merged = { ...asked.value, ...next }
    if (merged.wallMm < LEAST_CELLS * merged.cellMm) {
      if (next.cellMm !== undefined) {
        say(`A wall of ${merged.wallMm} mm needs cells of ${Number((merged.wallMm / LEAST_CELLS).toPrecision(3))} mm or less.`)
        return
      }
      asked.value = { ...merged, cellMm: Number((merged.wallMm / LEAST_CELLS).toFixed(3)) }
      return
    }
    asked.value = merged
  }

  return { hollowing: { asked, step, told, looked, looking, wanted, differs, otherWay }, makeHollow, switchHollow, askHollow, endHollowing: stopLooking }
}
