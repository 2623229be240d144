import { proxy } from 'comlink'
import { computed, ref, shallowRef } from 'vue'
import { gaugesToKeep, newId, type Gauge, type Part, type PlanBeam, type PlanNode, type RecipeOfPlans, type Version } from '@oak-stilts/core/contract'
import { standOf, type Stand } from '@oak-stilts/core/pose'
import { verdictOf, type OnPlate } from '@oak-stilts/core/proof'
import { raftAsked, raftOf } from '@oak-stilts/core/raft'
import { api } from '../api/client'
import type { PlanToTry, TriedPlan } from '../workers/scan.worker'
import type { BenchContext } from './context'
import { meshKeyOf } from './meshes'

/** A plan of the part on the bench that is looked at beside others. */
export interface ComparedPlan {
  readonly id: string
  readonly name: string
  readonly from: 'now' | 'version' | 'recipe'
  /** The part as that plan has it. */
  readonly part: Part
  readonly gauges: readonly Gauge[]
  readonly stand: Stand
  readonly toTry: PlanToTry
  readonly state: 'waiting' | 'working' | 'done' | 'failed'
  /** What is being done, or why it failed. */
  readonly said: string
  readonly found: TriedPlan | null
  readonly ready: boolean
  readonly verdict: string
}

/** Plans of a part beside each other: the one that it has, versions of the job, and what recipes make of it. Nothing is changed until one is taken. */
export function createComparing({ store, state, workers, model, plate, current, say }: BenchContext, gauges: () => readonly Gauge[], onPlate: () => OnPlate, rescan: () => Promise<void>, isProving: () => boolean) {
  const plans = shallowRef<readonly ComparedPlan[]>([])
  const shown = ref(false)
  /** Whether something other than the plan of now was scanned since, so that the bench has to be scanned again. */
  let scannedOthers = false
  /** Which turn goes through the list; 0 while none does. A turn that is over leaves the list alone. */
  let running = 0, turns = 0

  function put(id: string, change: Partial<ComparedPlan>): void {
    plans.value = plans.value.map(p => (p.id === id ? { ...p, ...change } : p))
  }

  function openCompare(): void {
    if (shown.value || state.busy || isProving() || !store.job || !store.part) return
    plans.value = []
    shown.value = true
    const { part, nodes, beams } = rowsNow()
    add({ name: 'As it is now', from: 'now', part, gauges: gauges(), toTry: { nodes, beams, raft: raftOf(part), options: null } })
  }
  function rowsNow(): { readonly part: Part; readonly nodes: PlanNode[]; readonly beams: PlanBeam[] } {
    const { part } = current(), { nodes, beams } = store.plan()
    return { part, nodes: [...nodes.values()].filter(n => n.part === part.id), beams: [...beams.values()].filter(b => b.part === part.id) }
  }

  /** Takes a version of the job beside the others, with the pose that it had. */
  async function addVersion({ id, name }: Version): Promise<void> {
    const { job, part } = current(), there = await api.version(job.id, id).catch((error: unknown) => void say((error as Error).message)), was = there?.parts.find(p => p.id === part.id)
    if (!there || !shown.value) return
    if (!was) say(`“${name}” has no ${part.name}.`)
    else if (meshKeyOf(was) !== meshKeyOf(part)) say(`In “${name}” the part had another size or mesh; go back to it to see it.`)
    else add({ name, from: 'version', part: was, gauges: [...there.gauges, ...gauges().filter(g => !there.gauges.some(o => o.id === g.id))], toTry: { nodes: there.nodes.filter(n => n.part === part.id), beams: there.beams.filter(b => b.part === part.id), raft: raftOf(was), options: null } })
  }
  /** Takes what a recipe makes of the part beside the others: from nothing, but for stilts of which something is pinned. */
  function addRecipe({ name, options }: RecipeOfPlans): void {
    const { part, nodes, beams } = rowsNow(), pinned = new Set(nodes.flatMap(n => (n.pinned ? [n.id] : []))), kept = new Set(store.stilts.flatMap(s => (s.nodes.some(id => pinned.has(id)) ? s.nodes : [])))
    add({ name, from: 'recipe', part: options.raft === null ? part : { ...part, raft: { ...part.raft, kind: options.raft } }, gauges: gauges(), toTry: { nodes: nodes.filter(n => kept.has(n.id)), beams: beams.filter(b => kept.has(b.from) && kept.has(b.to)), raft: raftAsked(options, part), options } })
  }
  function add(plan: Pick<ComparedPlan, 'name' | 'from' | 'part' | 'gauges' | 'toTry'>): void {
    const { raster } = current(), mesh = model.value?.mesh
    if (!mesh) return
    plans.value = [...plans.value, { ...plan, id: newId(), stand: standOf(mesh.positions, plan.part.pose, raster.pixelMm), state: 'waiting', said: 'Waiting', found: null, ready: false, verdict: '' }]
    void work()
  }

  /** Goes through what waits, one after the other. */
  async function work(): Promise<void> {
    if (running > 0) return
    const ticket = ++turns
    running = ticket
    for (;;) {
      const next = plans.value.find(p => p.state === 'waiting')
      if (!next || !shown.value) break
      await look(next, ticket)
      if (ticket !== turns) return
    }
    running = 0
  }
  async function look({ id, part, gauges: own, stand, toTry }: ComparedPlan, ticket: number): Promise<void> {
    put(id, { state: 'working', said: 'Scanning' })
    scannedOthers = true
    let under = true
    try {
      const { job, raster, workers: w } = current()
      const found = await w.scan.tryPlan(toTry, raster, stand, job.settings, part.id, own, job.resin, plate.value, onPlate(), store.waivers, proxy((said: string) => {
        if (under && ticket === turns) put(id, { said })
      }))
      if (ticket !== turns) return
      if (!found) put(id, { state: 'waiting', said: 'Waiting' })
      else {
        const { ready, verdict } = verdictOf(found.checks, store.checkWaivers)
        put(id, { state: 'done', said: '', found, ready, verdict })
      }
    } catch (error) {
      if (ticket === turns) put(id, { state: 'failed', said: (error as Error).message })
    } finally {
      under = false
    }
  }

  function removeCompared(id: string): void {
    plans.value = plans.value.filter(p => p.id !== id)
  }
  /** Puts a plan in the place of the one that the part has. One step of undo. */
  function takeCompared(id: string): void {
    const plan = plans.value.find(p => p.id === id), found = plan?.found
    if (!plan || !found || plan.from === 'now') return closeCompare()
    const { part, nodes, beams } = rowsNow(), kept = new Set([...found.nodes, ...found.beams].map(r => r.id)), used = new Set(found.nodes.flatMap(n => (n.kind === 'tip' ? [n.gauge] : [])))
    const goesIn = gaugesToKeep(plan.gauges, used).filter(g => !store.gauges.some(o => o.id === g.id)), next: Part = { ...part, pose: plan.part.pose, raft: plan.part.raft, plannedBy: plan.from === 'recipe' ? plan.name : plan.part.plannedBy }
    store.apply({
      label: `take the plan “${plan.name.slice(0, 80)}”`,
      put: { nodes: [...found.nodes], beams: [...found.beams], ...(goesIn.length > 0 && { gauges: goesIn }), ...(JSON.stringify(next) !== JSON.stringify(part) && { parts: [next] }) },
      drop: { nodes: nodes.flatMap(n => (kept.has(n.id) ? [] : [n.id])), beams: beams.flatMap(b => (kept.has(b.id) ? [] : [b.id])) },
    })
    closeCompare()
    say(`“${plan.name}” is the plan now. One undo brings the other one back.`)
  }
  function closeCompare(): void {
    if (!shown.value) return
    shown.value = false
    turns++
    running = 0
    plans.value = []
    if (scannedOthers) void workers.value?.scan.cancel().catch(() => undefined).then(rescan)
    scannedOthers = false
  }

  /** What those that are looked at already come to. */
  const done = computed(() => plans.value.flatMap(p => (p.found ? [p.found.measures] : [])))
  return { comparedPlans: plans, compareShown: shown, comparedDone: done, openCompare, addVersion, addRecipeToCompare: addRecipe, removeCompared, takeCompared, closeCompare }
}
