import { PLAN_FORMAT, PlanFileSchema, type PlanFile } from '@oak-stilts/core/contract'
import { signalsCsv } from '@oak-stilts/core/scan'
import { placementOf } from '@oak-stilts/core/pose'
import { isPlanFor, readStilts, shifted } from '@oak-stilts/core/stilts'
import { stiltsEdit } from '../stores/job'
import { samePose, type BenchContext } from './context'

/** Files that leave the bench, and plans that come back to it. */
export function createFiles({ store, state, model, current, say }: BenchContext) {
  function exportSignals(): void {
    const r = state.result
    if (!r) return
    download(new Blob([signalsCsv(r.signals, r.layerMm)], { type: 'text/csv' }), `${store.job?.name ?? 'model'} - layers.csv`)
    say(`Written: ${r.signals.areaMm2.length.toLocaleString('en')} layers.`)
  }

  async function exportFile(kind: 'stl' | 'stilts' | '3mf' | 'plan'): Promise<void> {
    const { job, workers: w } = current()
    const base = job.name.replace(/[^\p{L}\p{N} _-]/gu, '').trim() || 'model'
    if (kind === 'plan') {
      const { triangles, sizeMm } = job.mesh
      const plan: PlanFile = { format: PLAN_FORMAT, version: 2, madeFor: { pixelMm: job.printer.pixelMm, layerMm: job.printer.layerMm, triangles, sizeMm }, pose: job.pose, nodes: job.nodes, beams: job.beams }
      download(new Blob([JSON.stringify(plan)], { type: 'application/json' }), `${base} - plan.json`)
      return
    }
    if (kind === 'stilts' && store.stilts.every(s => s.foot === 'none')) {
      say('There are no stilts to export yet.')
      return
    }
    state.busy = 'Writing the file'
    let bytes: Uint8Array
    try {
      bytes = await w.place.exportFile(kind, store.stilts, base)
    } catch (error) {
      say(`The file could not be written: ${(error as Error).message}`)
      return
    } finally {
      state.busy = ''
    }
    const type = kind === '3mf' ? 'model/3mf' : 'model/stl'
    download(new Blob([bytes as BlobPart], { type }), kind === '3mf' ? `${base}.3mf` : kind === 'stilts' ? `${base} - stilts.stl` : `${base} - supported.stl`)
    const open = state.worklist.open
    say(open > 0 ? `Written, with ${open} ${open === 1 ? 'finding' : 'findings'} still open.` : 'Written. Nothing is open.')
  }

  async function readPlan(file: File): Promise<void> {
    const job = store.job
    if (!job) return
    let parsed
    try {
      parsed = PlanFileSchema.safeParse(JSON.parse(await file.text()))
    } catch {
      say(`${file.name} is not a plan: it is no JSON. Choose a plan that was exported here.`)
      return
    }
    if (!parsed.success) {
      say(`${file.name} is not a plan of stilts: ${parsed.error.issues[0].path.join('.') || 'its form'} is wrong. Choose a plan that was exported here.`)
      return
    }
    const { sizeMm, triangles } = job.mesh, { pixelMm } = job.printer
    if (!isPlanFor(parsed.data, { triangles, sizeMm, pixelMm })) {
      say(`${file.name} was made for another model, of ${parsed.data.madeFor?.sizeMm.map(v => v.toFixed(1)).join(' × ')} mm. Nothing was loaded.`)
      return
    }
    const { stilts: read, notes } = readStilts(parsed.data)
    const pose = parsed.data.pose ?? job.pose, made = parsed.data.madeFor?.pixelMm ?? pixelMm, positions = model.value?.mesh.positions
    let stilts = read
    if (positions && made !== pixelMm) {
      // the part is centred by whole pixels: on another pixel it stands a little beside
      const here = placementOf(positions, pose, pixelMm), there = placementOf(positions, pose, made)
      stilts = shifted(read, here[3] - there[3], here[7] - there[7])
    }
    const drop = store.stilts.map(s => s.id).filter(id => !stilts.some(s => s.id === id))
    store.apply({ ...stiltsEdit(job, 'load a plan', stilts, drop), ...(!samePose(pose, job.pose) && { pose }), poseSettled: true })
    say(`${stilts.length === 1 ? '1 stilt was' : `${stilts.length} stilts were`} loaded.${notes.length ? ` Of the plan ${notes.join(' ')}` : ''}`)
  }

  return { exportFile, exportSignals, readPlan }
}

function download(blob: Blob, name: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(blob)
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 10000)
}
