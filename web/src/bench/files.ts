import { AnyPlanFileSchema, gaugesToKeep, newId, PLAN_FORMAT, type AnyPlanFile, type Gauge, type PlanFile } from '@oak-stilts/core/contract'
import { decodeMesh } from '@oak-stilts/core/mesh'
import { signalsCsv } from '@oak-stilts/core/scan'
import { fitOfPlan, readPlan as readRows, recipeOfPlan } from '@oak-stilts/core/stilts'
import type { StandingCopy } from '@oak-stilts/core/plate'
import type { PlatePart } from '../workers/plate-bodies'
import { api } from '../api/client'
import { download } from '../files'
import type { Ref } from 'vue'
import type { BenchContext } from './context'

/** Files that leave the bench, and plans that come back to it. */
export function createFiles({ store, state, otherPlan, current, meshOf, say }: BenchContext, standing: (only: boolean) => Promise<{ parts: PlatePart[]; copies: StandingCopy[] }>, gauges: Readonly<Ref<readonly Gauge[]>>) {
  function exportSignals(): void {
    const r = state.result, { signals } = state
    if (!r || !signals) return
    download(new Blob([signalsCsv(signals, r.layerMm)], { type: 'text/csv' }), `${store.job?.name ?? 'model'} - ${signals === r.signals ? '' : 'plate '}layers.csv`)
    say(`Written: ${signals.areaMm2.length.toLocaleString('en')} layers.`)
  }

  /** @param only the copy on the bench instead of the whole plate */
  async function exportFile(kind: 'stl' | 'stilts' | '3mf' | 'plan', only = false): Promise<void> {
    const { job, part, raster, workers: w } = current()
    const base = (only || (kind === 'plan' && store.parts.length > 1) ? `${job.name} - ${part.name}` : job.name).replace(/[^\p{L}\p{N} _-]/gu, '').trim() || 'model'
    if (kind === 'plan') {
      const { summary: { triangles, sizeMm }, meshHash } = part.source, index = store.plan()
      const mine = <R extends { readonly part: string }>(rows: Iterable<R>): R[] => [...rows].filter(r => r.part === part.id)
      const plan: PlanFile = {
        format: PLAN_FORMAT, version: 3, madeFor: { ...raster, triangles, sizeMm, meshHash }, recipe: part.recipe, pose: part.pose, raft: part.raft, turnDeg: store.copy?.turnDeg ?? 0,
        nodes: mine(index.nodes.values()).map(n => (n.kind === 'tip' ? { ...n, role: state.roleOf(n) } : n)), beams: mine(index.beams.values()),
        gauges: gaugesToKeep(gauges.value, new Set(store.stilts.map(s => s.gauge))),
      }
      download(new Blob([JSON.stringify(plan)], { type: 'application/json' }), `${base} - plan.json`)
      return
    }
    if (kind === 'stilts' && (only ? [part] : store.parts).every(p => store.stiltsOf(p.id).every(s => s.foot === 'lost'))) {
      say('There are no stilts to export yet.')
      return
    }
    state.busy = 'Writing the file'
    let bytes: Uint8Array
    try {
      const { parts, copies } = await standing(only)
      bytes = await w.surface.exportFile(kind, parts, copies, base)
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

  /** The whole job as one file, once all of it has reached the server. */
  async function exportJob(): Promise<void> {
    const { job } = current()
    state.busy = 'Writing the job'
    try {
      await store.flush()
      download(await api.wholeJob(job.id), `${job.name.replace(/[^\p{L}\p{N} _-]/gu, '').trim() || 'job'} - job.3mf`)
      say('Written: parts, stilts, marks and settings, with the files that the parts come from. Bring it in on the page of jobs.')
    } catch (error) {
      say(`The job could not be written: ${(error as Error).message}`)
    } finally {
      state.busy = ''
    }
  }

  async function readPlan(file: File): Promise<void> {
    if (!store.job) return
    let parsed
    try {
      parsed = AnyPlanFileSchema.safeParse(JSON.parse(await file.text()))
    } catch {
      say(`${file.name} is not a plan: it is no JSON. Choose a plan that was exported here.`)
      return
    }
    if (!parsed.success) {
      say(`${file.name} is not a plan of stilts: ${parsed.error.issues[0].path.join('.') || 'its form'} is wrong. Choose a plan that was exported here.`)
      return
    }
    const plan = parsed.data, { part } = current()
    // what was made for something else is only put on after a question
    if (fitOfPlan(plan, { ...part.source.summary, meshHash: part.source.meshHash }) === 'other') otherPlan.value = { name: file.name, plan }
    else await usePlan(plan)
  }

  /** Puts a plan on the part in place of the one it has. */
  async function usePlan(plan: AnyPlanFile): Promise<void> {
    const { part: { id } } = current(), recipe = recipeOfPlan(plan)
    const { positions } = decodeMesh(await meshOf({ ...current().part, recipe }))
    const { part, raster } = current(), { source: { summary, meshHash } } = part
    if (part.id !== id) return
    const read = readRows(plan, { part: part.id, positions, meshHash, triangles: summary.triangles, sizeMm: summary.sizeMm, pixelMm: raster.pixelMm }, gauges.value)
    // one that is another here under the same id comes beside it
    const renamed = new Map<string, string>(), brought = read.gauges.filter(g => !gauges.value.some(o => JSON.stringify(o) === JSON.stringify(g))).map(g => {
      if (!store.usedGauges.has(g.id) && !store.gauges.some(o => o.id === g.id)) return g
      renamed.set(g.id, newId())
      return { ...g, id: renamed.get(g.id) as string, name: `${g.name.slice(0, 50)} (plan)` }
    })
    const nodes = read.nodes.map(n => (n.kind === 'tip' && renamed.has(n.gauge) ? { ...n, gauge: renamed.get(n.gauge) as string } : n))
    const label = 'load a plan', index = store.plan()
    const theirs = <R extends { readonly id: string; readonly part: string }>(rows: Iterable<R>): string[] => [...rows].filter(r => r.part === part.id).map(r => r.id)
    const { copy } = store, turned = copy && read.pose && copy.turnDeg !== read.turnDeg
    store.apply({
      label, put: { nodes, beams: read.beams, ...(brought.length > 0 && { gauges: brought }), parts: [{ ...part, recipe, pose: read.pose ?? part.pose, poseSettled: true, ...(plan.version === 3 && { raft: plan.raft }) }], ...(turned && { copies: [{ ...copy, turnDeg: read.turnDeg }] }) },
      drop: { nodes: theirs(index.nodes.values()), beams: theirs(index.beams.values()) },
    })
    say(`${read.stilts === 1 ? '1 stilt was' : `${read.stilts} stilts were`} loaded.${read.notes.length ? ` Of the plan ${read.notes.join(' ')}` : ''}`)
  }

  return { exportFile, exportJob, exportSignals, readPlan, usePlan }
}
