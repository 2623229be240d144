import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { KIT_FORMAT, KitFileSchema, kitOf, newId, RecipeFileSchema, type Gauge, type KitEntry, type KitFile, type PegBed, type Printer, type RecipeOfPlans, type Resin, type SelectRule } from '@oak-stilts/core/contract'
import { api } from '../api/client'

/** Printers, resins, gauges, recipes of plans and beds of pegs: those that everybody has, and the person's own, which are kept with the workshop. */
export const useKitStore = defineStore('kit', () => {
  const own = shallowRef<readonly KitEntry[]>([])
  /** Why the last change could not be kept; empty where it could. */
  const problem = ref('')
  const kit = computed(() => kitOf(own.value))

  /** @throws ApiError */
  async function load(): Promise<void> {
    own.value = await api.kit()
  }

  // what is changed quickly goes in order
  let saving: Promise<void> = Promise.resolve()
  function save(work: () => Promise<void>): Promise<void> {
    saving = saving.then(work).then(() => void (problem.value = ''), (error: unknown) => void (problem.value = (error as Error).message))
    return saving
  }

  /** Puts entries, shown at once and kept by the server. What it refuses is taken back. */
  function put(entries: readonly KitEntry[]): Promise<void> {
    const before = own.value
    own.value = [...before.map(e => entries.find(n => n.id === e.id) ?? e), ...entries.filter(e => !before.some(b => b.id === e.id))]
    return save(async () => {
      try {
        await api.putKit(entries)
      } catch (error) {
        own.value = before
        throw error
      }
    })
  }

  /** A new entry of one's own, from values that are there. */
  function add(from: { readonly printer: Printer } | { readonly resin: Resin }): KitEntry {
    const entry: KitEntry = 'printer' in from ? { id: newId(), kind: 'printer', printer: { ...from.printer, name: nameFor(from.printer.name, kit.value.printers.map(p => p.printer.name)) } } : { id: newId(), kind: 'resin', resin: { ...from.resin, name: nameFor(from.resin.name, kit.value.resins.map(r => r.resin.name)) } }
    void put([entry])
    return entry
  }

  /** Keeps a gauge with the workshop: in the place of the one with its id, else as a new one. */
  function putGauge(gauge: Gauge): Promise<void> {
    return put([{ id: own.value.find(e => e.kind === 'gauge' && e.gauge.id === gauge.id)?.id ?? newId(), kind: 'gauge', gauge }])
  }
  /** Keeps a recipe with the workshop: in the place of the one with its id, else as a new one. */
  function putRecipe(recipe: RecipeOfPlans): Promise<void> {
    return put([{ id: own.value.find(e => e.kind === 'recipe' && e.recipe.id === recipe.id)?.id ?? newId(), kind: 'recipe', recipe }])
  }
  /** A new recipe of one's own with the values of another, that nothing was proved with yet. */
  function addRecipe(from: RecipeOfPlans): RecipeOfPlans {
    const names = kit.value.recipes.map(r => r.recipe.name), recipe = { ...from, id: newId(), name: names.includes(from.name) ? nameFor(from.name, names) : from.name, provedWith: [], cameOut: 0, failed: 0, earlier: undefined }
    void putRecipe(recipe)
    return recipe
  }
  /** Keeps a rule to select stilts by under a name; in the place of the one that has it. */
  function putRule(name: string, rule: SelectRule): Promise<void> {
    return put([{ id: kit.value.rules.find(r => r.name === name)?.id ?? newId(), kind: 'rule', name, rule }])
  }
  /** Keeps a bed of pegs under its name; in the place of the one that has it. @returns its id */
  async function putBed(bed: PegBed): Promise<string> {
    const id = kit.value.beds.find(b => b.bed.name === bed.name)?.id ?? newId()
    await put([{ id, kind: 'bed', bed }])
    return id
  }
  /** A new gauge of one's own with the values of another, after all others. */
  function addGauge(from: Gauge): Gauge {
    const all = kit.value.gauges.map(g => g.gauge), gauge = { ...from, id: newId(), name: nameFor(from.name, all.map(g => g.name)), order: Math.max(0, ...all.map(g => g.order)) + 10 }
    void putGauge(gauge)
    return gauge
  }
  /** Moves a gauge by one place. A built-in one becomes one's own by that, as it is. */
  function moveGauge(id: string, by: 1 | -1): void {
    const all = kit.value.gauges.map(g => g.gauge), at = all.findIndex(g => g.id === id), other = all[at + by], beyond = all[at + 2 * by]
    if (at < 0 || !other) return
    void putGauge({ ...all[at], order: beyond ? (other.order + beyond.order) / 2 : other.order + 10 * by })
  }

  function remove(id: string): Promise<void> {
    own.value = own.value.filter(e => e.id !== id)
    return save(() => api.removeKit(id))
  }

  /** The person's own, as a file. */
  function fileOf(): KitFile {
    return { format: KIT_FORMAT, version: 1, printers: own.value.flatMap(e => (e.kind === 'printer' ? [e.printer] : [])), resins: own.value.flatMap(e => (e.kind === 'resin' ? [e.resin] : [])), gauges: own.value.flatMap(e => (e.kind === 'gauge' ? [e.gauge] : [])), recipes: own.value.flatMap(e => (e.kind === 'recipe' ? [e.recipe] : [])), beds: own.value.flatMap(e => (e.kind === 'bed' ? [e.bed] : [])) }
  }

  /** Reads a kit file; gives what came of it in a sentence. What is there already, value by value, is not taken twice. */
  async function read(name: string, text: string): Promise<string> {
    let parsed
    try {
      const json: unknown = JSON.parse(text), recipe = RecipeFileSchema.safeParse(json)
      // a recipe by itself is a kit of one
      parsed = KitFileSchema.safeParse(recipe.success ? { format: KIT_FORMAT, version: 1, printers: [], resins: [], recipes: [recipe.data.recipe], gauges: recipe.data.gauges } : json)
    } catch {
      return `${name} is no kit: it is no JSON. Choose a file that was saved here.`
    }
    if (!parsed.success) return `${name} is no kit: ${parsed.error.issues[0].path.join('.') || 'its form'} ${parsed.error.issues[0].message}.`
    const known = new Set([...kit.value.printers.map(p => JSON.stringify(p.printer)), ...kit.value.resins.map(r => JSON.stringify(r.resin)), ...kit.value.gauges.map(g => JSON.stringify(g.gauge)), ...kit.value.recipes.map(r => JSON.stringify(r.recipe)), ...kit.value.beds.map(b => JSON.stringify(b.bed))])
    const taken = new Set(own.value.flatMap(e => (e.kind === 'gauge' ? [e.gauge.id] : e.kind === 'recipe' ? [e.recipe.id] : [])))
    const fresh: KitEntry[] = [
      ...parsed.data.printers.filter(p => !known.has(JSON.stringify(p))).map((printer): KitEntry => ({ id: newId(), kind: 'printer', printer })),
      ...parsed.data.resins.filter(r => !known.has(JSON.stringify(r))).map((resin): KitEntry => ({ id: newId(), kind: 'resin', resin })),
      // one that differs from another of its name here comes beside it
      ...parsed.data.gauges.filter(g => !known.has(JSON.stringify(g))).map((gauge): KitEntry => ({ id: newId(), kind: 'gauge', gauge: taken.has(gauge.id) ? { ...gauge, id: newId(), name: nameFor(gauge.name, kit.value.gauges.map(g => g.gauge.name)) } : gauge })),
      ...parsed.data.recipes.filter(r => !known.has(JSON.stringify(r))).map((recipe): KitEntry => ({ id: newId(), kind: 'recipe', recipe: taken.has(recipe.id) ? { ...recipe, id: newId(), name: nameFor(recipe.name, kit.value.recipes.map(r => r.recipe.name)) } : recipe })),
      ...parsed.data.beds.filter(b => !known.has(JSON.stringify(b))).map((bed): KitEntry => ({ id: newId(), kind: 'bed', bed: kit.value.beds.some(b => b.bed.name === bed.name) ? { ...bed, name: nameFor(bed.name, kit.value.beds.map(b => b.bed.name)) } : bed })),
    ]
    if (fresh.length > 0) await put(fresh)
    const all = parsed.data.printers.length + parsed.data.resins.length + parsed.data.gauges.length + parsed.data.recipes.length + parsed.data.beds.length
    return problem.value || `${fresh.length === 1 ? '1 entry was' : `${fresh.length} entries were`} read${all > fresh.length ? `; ${all - fresh.length} ${all - fresh.length === 1 ? 'was' : 'were'} there already` : ''}.`
  }

  return { own, kit, problem, load, put, add, putGauge, putRecipe, addRecipe, putRule, putBed, addGauge, moveGauge, remove, fileOf, read }
})

/** A name that none has yet. */
function nameFor(name: string, taken: readonly string[]): string {
  const base = name.slice(0, 110)
  for (let n = 2; ; n++) if (!taken.includes(`${base} (${n})`)) return `${base} (${n})`
}
