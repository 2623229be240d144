import { expose } from 'comlink'
import { loadsOf, type Change, type Gauge, type Improvement, type Island, type Ledge, type PlanBeam, type PlanMeasures, type PlanNode, type PlanOptions, type Raft, type Resin, type Role, type ScanSettings, type Waiver } from '@oak-stilts/core/contract'
import { decodeMesh, type Mesh, type Vec3 } from '@oak-stilts/core/mesh'
import { freeSpaceOf, holdOpenIslands, holeCostOf, rolesOfTips, spotsUnder, type GrowthWatch, type NotHeld, type PlanAim } from '@oak-stilts/core/plan'
import { scanPlate, type PlateScanResult, type ScannedPart, type StandingCopy } from '@oak-stilts/core/plate'
import { AS_IS, UNSHAPED, type Shape, type Stand, type TiltAngles } from '@oak-stilts/core/pose'
import { lookAtLayer, prove, withWritten, type LayerProof, type OnPlate, type Proof, type Proven } from '@oak-stilts/core/proof'
import { areasAlone, makeReady, measuresOf, optimised, planned, proved, type OptimiseMemory, type OptimiseStep, type Ready } from '@oak-stilts/core/ready'
import { contourOf, firstLook, hangingContour, hangingOutline, islandOutline, layerPicture, ModelScan, warmUp, type FirstLook, type HoleCost, type LayerPicture, type Loads, type Raster, type ScanResult } from '@oak-stilts/core/scan'
import { PlanIndex, Surface, type Plate, type Stilt, type StiltShape } from '@oak-stilts/core/stilts'
import { BandPool } from './band-pool'
import type { PlatePart } from './plate-bodies'
import { PlanReplica, type AllPlans, type PlanEdit } from './plan-replica'
import { breathe } from './breathe'
import { holdLife } from './supervised'

/** What to hold: all that is open, or these islands, or one ledge. */
export interface HoldWhat {
  readonly only?: number[]
  readonly ledges?: boolean
  readonly ledge?: Ledge
}

export interface HoldAnswer {
  readonly added: StiltShape[]
  readonly notHeld: NotHeld[]
  /** How many of them stand nearer to others than the resin keeps open. */
  readonly near: number
}

/** A plan of a part that is looked at beside others: as it is, or what is planned from it. */
export interface PlanToTry {
  readonly nodes: readonly PlanNode[]
  readonly beams: readonly PlanBeam[]
  readonly raft: Raft
  /** What it is asked for; null where it is taken as it is. */
  readonly options: PlanOptions | null
}

/** What a plan comes to, and its rows. */
export interface TriedPlan {
  readonly nodes: readonly PlanNode[]
  readonly beams: readonly PlanBeam[]
  readonly stilts: readonly Stilt[]
  readonly measures: PlanMeasures
  readonly checks: Proof['checks']
  readonly seconds: number
}

/** What a plan becomes by improvements. */
export interface OptimisedPlan extends Pick<TriedPlan, 'nodes' | 'beams' | 'stilts'> {
  readonly change: Change
  readonly steps: readonly OptimiseStep[]
}

/** A plan while it is made: what stands of it, and tips that were chosen beside. */
export interface Growth {
  readonly stilts: readonly Stilt[]
  readonly braces: readonly { readonly from: Vec3; readonly to: Vec3; readonly diameterMm: number }[]
}

export interface ScanListener {
  progress(stage: string, done: number, total: number): void
  firstLook(look: FirstLook): void
  /** What is known so far; its `stage` says how much that is. */
  found(result: ScanResult): void
}

/** Time between two partial results, and from when on they are worth it, ms. */
const PARTIAL_MS = 450
/** Time between two breaths: how long a newer request or Cancel may have to wait, ms. */
const BREATH_MS = 40

/** Time between two looks at a plan that is being made, ms. */
const GROWTH_MS = 300

/** Edits that follow within this time are taken together before the reach is measured, ms. */
const CALM_MS = 250
function pause(ms: number): Promise<void> {
  return new Promise(resolve => setTimeout(resolve, ms))
}

/** What is kept of a part while another one is on the bench. */
interface KeptPart {
  readonly mesh: Mesh
  readonly surface: Surface | null
  readonly scan: ModelScan | null
  readonly placed: string
  readonly result: ScanResult | null
}
/** Parts whose scans are kept beside the one on the bench. */
const MOST_KEPT = 3
const kept = new Map<string, KeptPart>()
let loaded = ''
/** How the source became the part. */
let shape: Shape = UNSHAPED
/** What the faces of the part are worth; null where none is marked. */
let worths: Uint8Array | null = null
let mesh: Mesh | null = null
let surface: Surface | null = null
let scan: ModelScan | null = null
let placed = ''
let result: ScanResult | null = null
/** The state of the stilts that the result speaks of. */
let heldBy = ''
let newest = 0, plates = 0
const pool = new BandPool()
const plan = new PlanReplica()
/** What was measured of improvements of a plan as it stands. */
let optimisedBefore: { readonly key: string; readonly memory: OptimiseMemory } = { key: '', memory: new Map() }
/** Models of all parts of the job by hash, and what the plate knows of every part. */
const meshes = new Map<string, Mesh>()
const onPlate = new Map<string, { readonly key: string; readonly part: ScannedPart }>()

/** The first stage on all cores. */
function makeBands(current: ModelScan, raster: Raster, stand: Stand, ticket: number, listener: ScanListener): Promise<boolean> {
  let shown = performance.now(), partial = shown
  return pool.make(current, raster, stand, async (made, total) => {
    if (performance.now() - shown > BREATH_MS) {
      listener.progress('layers', made, total)
      shown = performance.now()
    }
    if (performance.now() - partial > PARTIAL_MS && made < total) {
      listener.found(current.partial())
      partial = performance.now()
    }
    await breathe()
    return ticket === newest
  })
}

const scanWorker = {
  /** Takes a part onto the bench. What was scanned of it before is used again, while there is room to keep it. */
  load(buffer: ArrayBuffer, part: string, newShape: Shape): void {
    shape = newShape
    if (mesh && loaded) kept.set(loaded, { mesh, surface, scan, placed, result })
    const known = kept.get(part)
    kept.delete(part)
    for (const oldest of kept.keys()) if (kept.size > MOST_KEPT) kept.delete(oldest)
    loaded = part
    worths = null
    ;({ mesh, surface, scan, placed, result } = known ?? { mesh: decodeMesh(buffer), surface: null, scan: null, placed: '', result: null })
    newest++
    pool.load(buffer)
  },

  /** Takes what the faces of the part are worth. */
  setWorths(next: Uint8Array | null): void {
    worths = next
    scan?.setHoleCost(holeCost())
  },

  /** Takes the plans of all parts, and then every edit of them. */
  plan(rows: AllPlans): void {
    plan.load(rows)
  },
  edit(edit: PlanEdit): void {
    plan.edit(edit)
  },

  /** Scans a part with its stilts, where it stands by itself; null where a newer request or `cancel` ended it. */
  async scan(raster: Raster, stand: Stand, settings: ScanSettings, loads: Loads, part: string, listener: ScanListener): Promise<ScanResult | null> {
    const ticket = ++newest
    if (!mesh) throw new Error('No model is loaded.')
    if (keyOf(raster, stand) !== placed) listener.firstLook(firstLook(mesh, stand, settings))
    const current = prepare(raster, stand, settings)
    current.setLoads(loads)
    const fresh = !current.allBands
    if (fresh) {
      if (!(await makeBands(current, raster, stand, ticket, listener))) return null
    }
    current.setStilts(plan.solids(part))
    const state = plan.stateOf(part)
    let shown = performance.now()
    const steps = current.run()
    for (;;) {
      const step = steps.next()
      if (step.done) {
        result = step.value
        heldBy = state
        return step.value
      }
      if (step.value.result) {
        result = step.value.result
        listener.found(result)
        if (step.value.stage === 'graph' && !fresh) {
          // while edits follow each other quickly, what touches what is answered each time and the reach only after the last
          await pause(CALM_MS)
          if (ticket !== newest) return null
        }
      }
      if (performance.now() - shown > BREATH_MS) {
        listener.progress(step.value.stage, step.value.done, step.value.total)
        shown = performance.now()
        await breathe()
        if (ticket !== newest) return null
      }
    }
  },

  /** Takes a model of the job, whichever part it belongs to. */
  addMesh(hash: string, buffer: ArrayBuffer): void {
    meshes.set(hash, decodeMesh(buffer))
  },

  /** What all copies on the plate come to; null where a newer request ended it. Parts that are not on the bench are scanned where that is due. Their models have to be there. */
  async plate(parts: readonly PlatePart[], copies: readonly StandingCopy[], raster: Raster, settings: ScanSettings, loads: Loads): Promise<PlateScanResult | null> {
    const ticket = newest, own = ++plates, isCurrent = (): boolean => ticket === newest && own === plates
    const scannedParts: ScannedPart[] = []
    for (const part of parts) {
      const made = await scannedPart(part, raster, settings, loads, isCurrent)
      if (!made) return null
      scannedParts.push(made)
    }
    return toEnd(scanPlate(scannedParts, copies, raster, settings, loads), isCurrent)
  },

  /** What the stilts of a part carry, by the last scan; ids of tips. Empty while there is none. */
  roles(part: string): [string, Role][] {
    if (!scan || !result) return []
    return [...rolesOfTips(scan, result, plan.stilts(part))]
  },

  /** Looks into a layer of the part with its stilts; null where what was scanned last is of other stilts, or not at its end yet. */
  lookAt(layer: number, part: string, stand: Stand, resin: Resin): LayerProof | null {
    if (!scan || !result || result.stage !== 'all' || heldBy !== plan.stateOf(part) || !loaded.startsWith(part)) return null
    return lookAtLayer({ scan, result, index: plan.index, part, surface: skinOf(stand), resin }, layer)
  },

  /** Proves a part with its stilts where it stands by itself; null where a newer request or `cancel` ended it. */
  async prove(raster: Raster, stand: Stand, settings: ScanSettings, part: string, gauges: readonly Gauge[], resin: Resin, onPlate: OnPlate, waivers: readonly Waiver[], progress: (sentence: string) => void): Promise<Proof | null> {
    const ticket = ++newest, isCurrent = (): boolean => ticket === newest, current = prepare(raster, stand, settings), state = plan.stateOf(part)
    current.setLoads(loadsOf(resin))
    if (!result || result.stage !== 'all' || heldBy !== state) {
      progress('Scanning')
      current.setStilts(plan.solids(part))
      const found = await toEnd(current.run(), isCurrent)
      if (!found) return null
      result = found
      heldBy = state
    }
    const roles = rolesOfTips(current, result, plan.stilts(part))
    const proven: Proven = { scan: current, result, index: plan.index, part, surface: skinOf(stand), raft: plan.raftOf(part), resin, gauges, roleOf: tip => roles.get(tip) ?? 'detail', onPlate, waivers }, steps = prove(proven)
    for (let said = ''; ;) {
      const step = steps.next()
      if (step.done) {
        progress('Reading back what is written')
        return withWritten(proven, step.value)
      }
      if (step.value !== said) progress(step.value)
      said = step.value
      await breathe()
      if (!isCurrent()) return null
    }
  },

  /** Measures the room around the part for the plans to come; ends with any newer request. */
  async measureRoom(stand: Stand, plate: Plate): Promise<void> {
    const ticket = newest
    if (mesh) await toEnd(freeSpaceOf(skinOf(stand), plate), () => ticket === newest)
  },

  /** Brings a part as it stands to a proof: by stilts that stand each by itself, or by a forest where it is told what a plan is asked for, and of that only what was picked; null where a newer request or `cancel` ended it. Gives what to change of its plan. */
  async makeReady(options: PlanOptions | null, aim: PlanAim | null, pose: TiltAngles, raster: Raster, stand: Stand, settings: ScanSettings, part: string, gauges: readonly Gauge[], raft: Raft, resin: Resin, plate: Plate, onPlate: OnPlate, waivers: readonly Waiver[], progress: (sentence: string) => void, grows: (growth: Growth) => void): Promise<Omit<Ready, 'proven'> | null> {
    const ticket = ++newest, watch = new WatchedGrowth(part, grows), of = { scan: prepare(raster, stand, settings), surface: skinOf(stand), part, index: plan.index, raft, resin, gauges, plate, onPlate, waivers }, steps = options ? planned({ ...of, options, aim: aim ?? undefined, pose, watch }) : makeReady(of)
    result = null
    const made = await toEnd(watch.with(told<Ready>(steps, progress)), () => ticket === newest)
    if (!made) return null
    progress('Reading back what is written')
    const { proven, ...ready } = made
    return { ...ready, proof: await withWritten(proven, made.proof) }
  },

  /** Proves a plan of the part beside the one that it has, or plans one for it; null where a newer request or `cancel` ended it. Nothing is changed. */
  async tryPlan(plan: PlanToTry, raster: Raster, stand: Stand, settings: ScanSettings, part: string, gauges: readonly Gauge[], resin: Resin, plate: Plate, onPlate: OnPlate, waivers: readonly Waiver[], progress: (sentence: string) => void): Promise<TriedPlan | null> {
    const ticket = ++newest, isCurrent = (): boolean => ticket === newest, current = prepare(raster, stand, settings), { options, raft } = plan, began = performance.now()
    result = null
    current.setLoads(loadsOf(resin))
    const alone = await toEnd(areasAlone(current), isCurrent)
    if (!alone) return null
    const of = { scan: current, surface: skinOf(stand), part, index: new PlanIndex(new Map(plan.nodes.map(n => [n.id, n])), new Map(plan.beams.map(b => [b.id, b]))), raft, resin, gauges, plate, onPlate, waivers }
    const made = await toEnd(told(options ? planned({ ...of, options }) : proved(of), progress), isCurrent)
    if (!made) return null
    const { proof, proven } = made, { index } = proven
    return { nodes: [...index.nodes.values()], beams: [...index.beams.values()], stilts: index.stiltsOf(part), measures: measuresOf(proof, proven, alone), checks: proof.checks, seconds: (performance.now() - began) / 1000 }
  },

  /** What the plan of the part becomes by some improvements, each measured; null where a newer request or `cancel` ended it. Nothing is changed. */
  async optimise(asked: readonly Improvement[], raster: Raster, stand: Stand, settings: ScanSettings, part: string, gauges: readonly Gauge[], resin: Resin, plate: Plate, onPlate: OnPlate, waivers: readonly Waiver[], progress: (sentence: string) => void): Promise<OptimisedPlan | null> {
    const ticket = ++newest, isCurrent = (): boolean => ticket === newest, current = prepare(raster, stand, settings)
    result = null
    current.setLoads(loadsOf(resin))
    const key = JSON.stringify([part, loaded, raster, stand, settings, gauges, resin, plate, onPlate, waivers, plan.stateOf(part), plan.raftOf(part)])
    if (optimisedBefore.key !== key) optimisedBefore = { key, memory: new Map() }
    const made = await toEnd(told(optimised({ scan: current, surface: skinOf(stand), part, index: plan.index, raft: plan.raftOf(part), resin, gauges, plate, onPlate, waivers }, asked, optimisedBefore.memory), progress), isCurrent)
    if (!made) return null
    const { index } = made.proven, ofPart = (r: { readonly part: string }): boolean => r.part === part
    return { change: made.change, steps: made.steps, nodes: [...index.nodes.values()].filter(ofPart), beams: [...index.beams.values()].filter(ofPart), stilts: index.stiltsOf(part) }
  },

  /** Ends whatever is under way. */
  cancel(): void {
    newest++
  },

  /** The picture of one layer of the last scan; null while there is none. */
  picture(layer: number): LayerPicture | null {
    return scan && result && layer < result.covered ? layerPicture(scan, result, layer) : null
  },

  /** The outline of the model in a layer as line segments, and of what hangs there; null while there is no scan. */
  contour(layer: number): { all: Float32Array; hanging: Float32Array } | null {
    return scan && result && layer >= 0 && layer < result.covered ? { all: contourOf(scan, layer), hanging: hangingContour(scan, result, layer) } : null
  },
  /** The outline of what hangs of a finding; of an island that is open, its first layer. */
  outline(labels: readonly number[], island: { layer: number; component: number } | null): Float32Array | null {
    if (!scan?.modelTree) return null
    if (labels.length > 0) return hangingOutline(scan, labels)
    return island ? islandOutline(scan, island.layer, island.component - scan.modelTree.graph.solidStarts[island.layer]) : null
  },

  /** Places under a finding that may be tried for tips, a little inside the part; empty while there is no scan of it. */
  spots(what: { readonly island: Island } | { readonly ledge: Ledge }, most: number): Vec3[] {
    return scan && result ? spotsUnder(scan, what, most) : []
  },

  /** Holds open islands, or ledges as well; null where it was ended. Gives the stilts to add. */
  async hold(raster: Raster, stand: Stand, settings: ScanSettings, part: string, gauges: readonly Gauge[], plate: Plate, webMm: number, what: HoldWhat, progress: (sentence: string) => void): Promise<HoldAnswer | null> {
    const ticket = ++newest
    const current = prepare(raster, stand, settings)
    const solids = plan.solids(part)
    current.setStilts(solids)
    const steps = holdOpenIslands(current, skinOf(stand), solids, { gauges, plate, others: { field: plan.copyOfField(part), limitMm: webMm }, only: what.only ? new Set(what.only) : undefined, ledges: what.ledges, ledge: what.ledge })
    let shown = 0, breathed = performance.now()
    for (;;) {
      const step = steps.next()
      if (step.done) {
        result = step.value.result
        return { added: step.value.added, notHeld: step.value.notHeld, near: step.value.near }
      }
      const now = performance.now()
      if (step.value !== null && now - shown > 60) {
        progress(step.value)
        shown = now
      }
      if (now - breathed < BREATH_MS) continue
      await breathe()
      breathed = performance.now()
      if (ticket !== newest) {
        result = null
        return null
      }
    }
  },
}

/** The skin of the part as it stands, with its worths; its tree is made once it is asked for. */
function skinOf(stand: Stand): Surface {
  surface ??= new Surface(mesh as Mesh, { shape, stand })
  surface.setStand(stand)
  surface.setWorths(worths)
  return surface
}
/** What holes cost where the part has marks. */
function holeCost(): HoleCost | undefined {
  return worths ? at => holeCostOf(skinOf(standNow))(at) : undefined
}
let standNow: Stand = AS_IS

/** Tells how a plan grows, not too often. */
class WatchedGrowth implements GrowthWatch {
  readonly #part: string
  readonly #tell: (growth: Growth) => void
  #index: PlanIndex | null = null
  #tips: Growth['braces'][number][] = []
  #changed = false
  #told = 0

  constructor(part: string, tell: (growth: Growth) => void) {
    this.#part = part
    this.#tell = tell
  }
  tip(from: Vec3, to: Vec3, diameterMm: number): void {
    this.#tips.push({ from, to, diameterMm })
    this.#changed = true
  }
  plan(index: PlanIndex): void {
    this.#index = index
    this.#tips = []
    this.#changed = true
  }
  *with<T>(steps: Generator<string, T, void>): Generator<string, T, void> {
    for (;;) {
      const step = steps.next(), now = performance.now()
      if (step.done) return step.value
      if (this.#changed && now - this.#told > GROWTH_MS) {
        const index = this.#index ?? plan.index, part = this.#part, at = (id: string): Vec3 => (index.nodes.get(id) as PlanNode).at
        this.#tell({ stilts: index.stiltsOf(part), braces: [...this.#tips, ...[...index.beams.values()].flatMap(b => (b.kind === 'brace' && b.part === part ? [{ from: at(b.from), to: at(b.to), diameterMm: b.fromDiameterMm }] : []))] })
        this.#changed = false
        this.#told = now
      }
      yield step.value
    }
  }
}

/** The same steps, each told as a sentence where it is another one than before. */
function* told<T>(steps: Generator<string, T, void>, progress: (sentence: string) => void): Generator<string, T, void> {
  let said = '', shown = 0
  for (;;) {
    const step = steps.next(), now = performance.now()
    if (step.done) return step.value
    if (step.value !== said && now - shown > 60) {
      progress(step.value)
      said = step.value
      shown = now
    }
    yield step.value
  }
}

/** Runs steps with breaths between; null where a newer request came. */
async function toEnd<T>(steps: Generator<unknown, T, void>, isCurrent: () => boolean): Promise<T | null> {
  for (let breathed = performance.now(); ;) {
    const step = steps.next()
    if (step.done) return step.value
    if (performance.now() - breathed < BREATH_MS) continue
    await breathe()
    if (!isCurrent()) return null
    breathed = performance.now()
  }
}

/** A part with what its own scan found: that of the bench, or one that is made for the plate. */
async function scannedPart({ id, meshKey, stand }: PlatePart, raster: Raster, settings: ScanSettings, loads: Loads, isCurrent: () => boolean): Promise<ScannedPart | null> {
  const key = JSON.stringify([meshKey, stand, raster, settings, loads, plan.stateOf(id)]), known = onPlate.get(id)
  if (known?.key === key) return known.part
  const model = meshes.get(meshKey), solids = plan.solids(id)
  if (!model) throw new Error('This model is not loaded.')
  let found = loaded === `${id} ${meshKey}` && placed === keyOf(raster, stand) && heldBy === plan.stateOf(id) ? result : null
  if (!found) {
    const own = new ModelScan(model, raster, stand, settings)
    own.setLoads(loads)
    own.setStilts(solids)
    found = await toEnd(own.run(), isCurrent)
  }
  if (!found) return null
  const part: ScannedPart = { id, mesh: model, stand, solids, result: found }
  onPlate.set(id, { key, part })
  return part
}

function keyOf(raster: Raster, stand: Stand): string {
  return JSON.stringify([raster, stand])
}

/** Makes the scan of this raster and pose the current one, with these limits. */
function prepare(raster: Raster, stand: Stand, settings: ScanSettings): ModelScan {
  if (!mesh) throw new Error('No model is loaded.')
  const key = keyOf(raster, stand)
  if (!scan || placed !== key) {
    scan = new ModelScan(mesh, raster, stand, settings)
    standNow = stand
    scan.setHoleCost(holeCost())
    result = null
    placed = key
  } else if (JSON.stringify(scan.settings) !== JSON.stringify(settings)) scan.setSettings(settings)
  return scan
}

export type ScanWorker = typeof scanWorker
expose(scanWorker)
holdLife()
// the model is still on its way then
warmUp()
