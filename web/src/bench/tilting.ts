import { useDebounceFn } from '@vueuse/core'
import { computed, shallowRef, triggerRef, watch } from 'vue'
import { PRIZED } from '@oak-stilts/core/marks'
import { decodeMesh, type Mesh } from '@oak-stilts/core/mesh'
import { standOf, type Stand, type TiltAngles } from '@oak-stilts/core/pose'
import { DEFAULT_WEIGHTS, keyOf, PRIZED_WEIGHTS, Room, TiltSearch, type Aim, type Symmetry, type TriedTilt, type Weights } from '@oak-stilts/core/tilts'
import { TiltPool } from '../workers/tilt-pool'
import { WorkerDied } from '../workers/supervised'
import type { BenchContext } from './context'
import { meshKeyOf } from './meshes'
import type { createEditing } from './editing'

export type TiltPhase = 'none' | 'reading' | 'looking' | 'scanning' | 'done' | 'stopped'

/** After a slider has moved, and before the tilts that it brings up are scanned, ms. */
const CALM_MS = 700
/** Time between two pictures of what was found so far, ms. */
const SHOWN_EVERY_MS = 250
/** Size of the picture of a card, pixels of the page. */
export const CARD_PICTURE = { width: 84, height: 64 } as const

/** The search for a tilt of the part on the bench: nothing of it changes the job but `takeTilt`. */
export function createTilting({ store, state, model, say }: BenchContext, worths: { readonly value: Uint8Array | null }, { setPose }: Pick<ReturnType<typeof createEditing>, 'setPose'>) {
  /** Whether the sheet of the search is open. */
  const shown = shallowRef(false)
  const phase = shallowRef<TiltPhase>('none')
  const progress = shallowRef<readonly [done: number, total: number]>([0, 1])
  /** Why a search ended early; empty where it did not. */
  const trouble = shallowRef('')
  const search = shallowRef<TiltSearch | null>(null)
  /** As they were set; null while nobody has. */
  const asked = shallowRef<Weights | null>(null)
  const weights = computed<Weights>(() => asked.value ?? (worths.value?.includes(PRIZED) ? PRIZED_WEIGHTS : DEFAULT_WEIGHTS))
  /** The tilt that is pointed at. */
  const pointed = shallowRef<TiltAngles | null>(null)
  const pictures = shallowRef<ReadonlyMap<string, Uint8Array>>(new Map())
  /** What the search was made for. */
  const madeFor = shallowRef('')
  let pool: TiltPool | null = null
  let light: Mesh | null = null
  let room: Room | null = null
  let newest = 0

  const tiltNow = computed<TiltAngles | null>(() => (store.part ? anglesOf(store.part.pose) : null))
  /** What tilts are judged by, in words that change with it. The tilt itself is not among it. */
  const terms = computed(() => {
    const { part, job, raster, marks } = store
    return part && job && raster ? JSON.stringify([part.id, meshKeyOf(part), part.pose.zero ?? null, part.pose.liftMm, job.settings, job.resin, job.printer, raster, marks.map(m => m.id)]) : ''
  })
  /** Whether the part has changed since it was searched. */
  const stale = computed(() => search.value !== null && madeFor.value !== terms.value)
  const offered = computed<readonly TriedTilt[]>(() => {
    const now = tiltNow.value
    // while tilts are still looked at, what would be offered changes with every one
    return search.value?.looked && !stale.value ? search.value.offered(weights.value).filter(t => !now || keyOf(t.tilt) !== keyOf(now)) : []
  })
  /** The tilt that was picked by hand, as far as it is measured. */
  const picked = computed(() => {
    const own = search.value, tilt = own?.picked
    return own && tilt && !stale.value ? own.fullOf(tilt) ?? { tilt, measures: null } : null
  })
  const measuresNow = computed(() => (search.value && tiltNow.value ? search.value.of(tiltNow.value) : undefined)?.measures ?? null)
  const isRunning = computed(() => phase.value === 'reading' || phase.value === 'looking' || phase.value === 'scanning')
  /** Where the part would stand, tilted as pointed at: for a ghost of it. */
  const ghost = computed<Stand | null>(() => {
    const { part, raster } = store, tilt = pointed.value
    return shown.value && tilt && part && raster && light ? standOf(light.positions, { ...part.pose, ...tilt }, raster.pixelMm) : null
  })

  /** Searches all tilts of the part. What was found before is forgotten. */
  async function findTilt(): Promise<void> {
    const { part, job, raster } = store, loaded = model.value, now = tiltNow.value
    if (!part || !job || !raster || !loaded || !now) return
    stop()
    const ticket = ++newest, isCurrent = (): boolean => ticket === newest
    shown.value = true
    phase.value = 'reading'
    progress.value = [0, 1]
    trouble.value = ''
    search.value = null
    pictures.value = new Map()
    pointed.value = null
    madeFor.value = terms.value
    try {
      const { own, symmetry, cellMm } = await workers()
      if (!isCurrent()) return
      search.value = new TiltSearch(now, { symmetry, cellMm, fits: tilt => turnFor(tilt) !== null })
      phase.value = 'looking'
      await search.value.look(own, weights.value, told(isCurrent))
      if (isCurrent()) await scanOffered()
    } catch (error) {
      fail(error, isCurrent())
    }
  }
  /** Workers that know the part; they are started where there are none. @throws WorkerDied */
  async function workers(): Promise<{ own: TiltPool; symmetry: Symmetry; cellMm: number }> {
    const { part, job, raster } = store, loaded = model.value
    if (!part || !job || !raster || !loaded) throw new Error('No job is open.')
    if (pool?.found) return { own: pool, ...pool.found }
    const own = (pool ??= new TiltPool(loaded.buffer))
    const { symmetry, cellMm, light: buffer } = await own.load(loaded.buffer, worths.value, { liftMm: part.pose.liftMm, settings: job.settings, resin: job.resin, layerMm: raster.layerMm, pixelMm: raster.pixelMm })
    light = decodeMesh(buffer)
    room = new Room(light, job.printer, part.pose.liftMm)
    return { own, symmetry, cellMm }
  }
  /** How the part has to be turned to fit, tilted so: as it is, where that will do; null where it does not fit. */
  function turnFor(tilt: TiltAngles): number | null {
    const turnDeg = store.copy?.turnDeg ?? 0
    return room ? room.turnFor(tilt, turnDeg) : turnDeg
  }

  /** Shows what came of it, a few times a second. */
  function told(isCurrent: () => boolean): (done: number, total: number) => void {
    let last = 0
    return (done, total) => {
      if (!isCurrent()) return
      progress.value = [done, total]
      const time = performance.now()
      if (time - last < SHOWN_EVERY_MS && done < total) return
      last = time
      triggerRef(search)
    }
  }
  function fail(error: unknown, current: boolean): void {
    if (!current) return
    stop()
    trouble.value = error instanceof WorkerDied ? 'The search stopped working. The part may need more memory than this browser has.' : (error as Error).message
    phase.value = 'stopped'
  }

  let scanning: Promise<void> = Promise.resolve()
  /** Scans what is offered now in full, as far as that was not done. */
  function scanOffered(): Promise<void> {
    const own = search.value, ticket = newest
    scanning = scanning.then(async () => {
      if (!own || ticket !== newest || stale.value) return
      const isCurrent = (): boolean => ticket === newest
      phase.value = 'scanning'
      await own.refine((await workers()).own, weights.value, told(isCurrent))
      if (!isCurrent()) return
      triggerRef(search)
      phase.value = 'done'
      await draw()
    }).catch((error: unknown) => fail(error, ticket === newest))
    return scanning
  }
  const scanOfferedSoon = useDebounceFn(() => {
    if (phase.value === 'done') void scanOffered()
  }, CALM_MS)

  /** Draws the pictures of what is offered that are not there yet. */
  async function draw(): Promise<void> {
    const own = pool, turnDeg = store.copy?.turnDeg ?? 0, scale = Math.min(2, devicePixelRatio || 1)
    for (const { tilt } of [...offered.value, ...(picked.value ? [picked.value] : [])]) {
      if (!own || own !== pool || pictures.value.has(keyOf(tilt))) continue
      const rgba = await own.picture(tilt, turnDeg, CARD_PICTURE.width * scale, CARD_PICTURE.height * scale)
      if (own === pool) pictures.value = new Map([...pictures.value, [keyOf(tilt), rgba]])
    }
  }

  function setWeight(aim: Aim, value: number): void {
    asked.value = { ...weights.value, [aim]: value }
    void scanOfferedSoon()
  }

  /** Takes a tilt that is pointed at among those that are offered; it is scanned in full. */
  function pick(tilt: TiltAngles): void {
    const own = search.value
    if (!own || stale.value || (phase.value !== 'done' && phase.value !== 'scanning')) return
    own.picked = tilt
    triggerRef(search)
    void scanOffered()
  }

  /** Tilts the part so, and turns it where it would not fit the plate as it is turned; one step of undo. */
  function takeTilt(tilt: TiltAngles): Promise<void> {
    pointed.value = null
    const { tiltXDeg, tiltYDeg } = tilt, turnDeg = turnFor(tilt)
    return setPose({ tiltXDeg, tiltYDeg, ...(turnDeg !== null && { turnDeg }) }, 'take a tilt')
  }

  function stop(): void {
    newest++
    pool?.end()
    pool = null
  }
  /** Ends a search that is under way; what was found so far stays. */
  function stopSearch(): void {
    if (!isRunning.value) return
    stop()
    phase.value = 'stopped'
    say('The search was stopped.')
  }
  /** Closes the sheet. The workers go; what was found stays for as long as the part is as it was. */
  function closeTilts(): void {
    stop()
    shown.value = false
    pointed.value = null
    if (phase.value !== 'done') phase.value = search.value ? 'stopped' : 'none'
  }
  function openTilts(): void {
    shown.value = true
    if (!search.value || stale.value) void findTilt()
  }
  /** Forgets everything: another part, or none, is on the bench. */
  function forget(): void {
    closeTilts()
    search.value = null
    phase.value = 'none'
    light = null
    room = null
  }
  watch(() => store.part?.id, forget)

  // a tilt that was taken, or made by hand, is the one that others are compared with
  watch(tiltNow, now => {
    const own = search.value
    if (!own || !now || stale.value) return
    own.now = now
    triggerRef(search)
    if (phase.value === 'done') void scanOffered()
  })
  watch(stale, is => {
    if (is && isRunning.value) stopSearch()
  })
  watch(() => state.tool, tool => {
    if (tool !== 'select') pointed.value = null
  })

  return { tilts: { shown, phase, progress, trouble, search, weights, pointed, pictures, stale, offered, picked, measuresNow, tiltNow, isRunning, ghost }, findTilt, openTilts, closeTilts, stopSearch, setWeight, pick, takeTilt, turnFor, forgetTilts: forget }
}

function anglesOf({ tiltXDeg, tiltYDeg, zero }: TiltAngles): TiltAngles {
  return { tiltXDeg, tiltYDeg, ...(zero && { zero }) }
}
