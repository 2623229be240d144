import { computed, shallowRef, watch } from 'vue'
import { newId, sortedById, WORTHS, type Mark, type Worth } from '@oak-stilts/core/contract'
import { codeOf, runsOf, worthOfFaces, worthsOf } from '@oak-stilts/core/marks'
import { NO_SOURCE, type Vec3 } from '@oak-stilts/core/mesh'
import { PICKED, type createAiming } from './aiming'
import type { BenchContext } from './context'

/** Marks of a part above which they are put together with the next one. */
const MOST_MARKS = 60

/** What the faces of the part are worth: marked, told to the workers, counted in mm² of skin. */
export function createMarking({ store, state, workers, model, current, say }: BenchContext, { pickedFaces: picked, pickFaces: pick }: Pick<ReturnType<typeof createAiming>, 'pickedFaces' | 'pickFaces'>) {
  /** Of each face of the part's mesh; null where none is marked. */
  const worths = shallowRef<Uint8Array | null>(null)
  /** Skin of each worth, mm². */
  const skin = shallowRef<readonly number[]>([0, 0, 0, 0])
  /** Where skin of different worth meets: line segments in the part; null where nothing is marked. */
  const borders = shallowRef<Float32Array | null>(null)
  /** What is shown of faces outside Pose: marks where they are wanted, and what is picked for a plan. */
  const shownWorths = computed<Uint8Array | null>(() => {
    const marked = state.marksShown ? worths.value : null, mesh = model.value?.mesh
    if (picked.value.size === 0 || !mesh) return marked
    const out = marked?.slice() ?? new Uint8Array(mesh.triangles.length / 3)
    for (const f of picked.value) out[f] = PICKED
    return out
  })
  watch([() => store.marks, model, workers], async () => {
    const loaded = model.value, w = workers.value, marks = sortedById(store.marks)
    worths.value = loaded && marks.length > 0 ? worthOfFaces(loaded.mesh, worthsOf(marks, facesOfFile())) : null
    if (!worths.value) borders.value = null
    if (!loaded || !w) return
    try {
      const [areas] = await Promise.all([w.surface.setWorths(worths.value), w.scan.setWorths(worths.value)])
      if (model.value !== loaded) return
      skin.value = areas
      const lines = worths.value ? await w.surface.markBorders() : null
      if (model.value === loaded) borders.value = lines
    } catch {
      // workers that died are started again, and then told again
    }
  }, { immediate: true })

  /** Triangles of the file; of a mesh that does not say where its faces come from, its own. */
  function facesOfFile(): number {
    const mesh = model.value?.mesh
    return mesh?.from ? (store.part?.source.summary.triangles ?? 0) : (mesh?.triangles.length ?? 0) / 3
  }

  /** Gives faces of the part's mesh a worth; one step of undo. */
  function mark(faces: ArrayLike<number>, worth: Worth): void {
    const loaded = model.value, { part } = current()
    if (!loaded || faces.length === 0) return
    const { from } = loaded.mesh
    const sources = from ? Array.from(faces, f => from[f]).filter(f => f !== NO_SOURCE) : faces
    const changed = Array.from(faces).some(f => (worths.value?.[f] ?? 0) !== codeOf(worth))
    if (!changed || sources.length === 0) {
      say(sources.length === 0 ? 'This skin was made when the mesh was mended, and cannot be marked.' : `These faces are ${worth} already.`)
      return
    }
    const row: Mark = { id: newId(), part: part.id, worth, runs: runsOf(sources) }
    const label = worth === 'plain' ? 'take marks off' : `mark ${worth}`
    if (store.marks.length < MOST_MARKS) store.apply({ label, put: { marks: [row] } })
    else store.apply({ label, put: { marks: together([...sortedById(store.marks), row]) }, drop: { marks: store.marks.map(m => m.id) } })
  }
  /** Many marks as one for each worth. */
  function together(marks: readonly Mark[]): Mark[] {
    const all = worthsOf(marks, facesOfFile())
    return WORTHS.filter(w => w !== 'plain').flatMap(worth => {
      const code = codeOf(worth), faces = Array.from(all.keys()).filter(f => all[f] === code)
      return faces.length > 0 ? [{ id: newId(), part: marks[0].part, worth, runs: runsOf(faces) }] : []
    })
  }

  /** Everything that is seen from an eye of the stand gets a worth, or is picked for a plan. @param within planes through the eye that look inward; all of it where there are none */
  async function markSeen(eye: Vec3, worth: Worth | 'picked', within: readonly Vec3[] = []): Promise<void> {
    state.busy = 'Looking at what is seen from here'
    try {
      const faces = await current().workers.surface.facesSeen(eye, within)
      if (faces.length === 0) {
        say('No face is seen there.')
        return
      }
      if (worth === 'picked') return pick(faces)
      mark(faces, worth)
      say(within.length > 0 ? `What is seen in the box is ${worth} now.` : `What is seen from here is ${worth} now.`)
    } catch (error) {
      say(`It could not be marked: ${(error as Error).message}`)
    } finally {
      state.busy = ''
    }
  }

  /** Takes all marks off. */
  function clearMarks(): void {
    if (store.marks.length > 0) store.apply({ label: 'take all marks off', drop: { marks: store.marks.map(m => m.id) } })
  }

  return { worths, shownWorths, skin, borders, mark, markSeen, clearMarks }
}
