import type { Cup, FloatingStilt, Island, Ledge, Pool } from '../contract'
import type { Mesh, Vec3 } from '../mesh'
import { AS_IS, type RigidMotion } from '../pose'
import { aimsOf } from './findings/aims'
import { cupsOf, findHanging, poolsOf } from './findings/findings'
import { emptySpaceAt, findNarrowVents, type NarrowVent } from './findings/narrow-vents'
import { hangsOn, type HangsOn } from './findings/hangs-on'
import { signalsOf, type Signals } from './findings/signals'
import type { Folded, OwnReach } from './findings/types'
import { proposeVents, type HoleCost } from './findings/vents'
import { BandedBody, type MadeLayers } from './graph/banded-body'
import { componentsAt, componentsBeside, type EmptySpot, type LaidAt } from './graph/components-at'
import { joinLayers, sourcesOf, type LayerSource } from './graph/join-layers'
import type { GraphChunk, LayerGraph } from './graph/layer-graph'
import { bodyOf, type Body, type Raster } from './raster/body'
import { orSpans, type BandSpans, type Frame } from './raster/spans'
import { Covering } from './reach/covering'
import { joinLedges } from './reach/join-ledges'
import { ModelBands, ReachRun, type LoggedReach } from './reach/reach-run'
import { DEFAULT_LOADS, DEFAULT_SETTINGS, type Loads, type ScanSettings } from './settings'
import { SupportedGraph } from './supports/supported-graph'
import { grazingFlakes } from './sweeps/grazing'
import type { Grounded } from './sweeps/grounding'
import { joinTree, type JoinTree } from './sweeps/join-tree'
import { findPools, findSuction, type Suction } from './sweeps/suction'

/** What a result covers: layers so far; what touches what; reach as well; all. */
export type ScanStage = 'layers' | 'graph' | 'reach' | 'all'

export interface ScanResult {
  readonly layerMm: number
  readonly pixelMm: number
  readonly layerCount: number
  readonly stage: ScanStage
  /** Layers that the result speaks of; all of them but while the first stage is under way. */
  readonly covered: number
  /** Worst first. */
  readonly islands: Island[]
  /** What hangs most first; those that carry themselves last. */
  readonly ledges: Ledge[]
  readonly cups: Cup[]
  /** Cups under the reporting limits. */
  readonly smallCups: number
  readonly pools: Pool[]
  readonly floating: FloatingStilt[]
  /** What hangs and is in no finding that is open or held in part. */
  readonly folded: Folded
  readonly signals: Signals
  /** Solid area of every layer, model and stilts, mm². */
  readonly areaMm2: Float64Array
  /** Solid area of the model's widest layer, without stilts, mm². */
  readonly widestMm2: number
  readonly unclosedRows: number
}

export interface ScanProgress {
  readonly stage: ScanStage
  readonly done: number
  readonly total: number
  /** What is known once a stage is done. */
  readonly result?: ScanResult
}

/**
 * The scan of one model on one raster and pose, kept up to date while its supports change. The stages follow each other: the
 * model's own layers, once; the graph of model and supports; the reach; vents. `run` is a generator so that its caller can show
 * progress, breathe and stop between bands; bands may be made elsewhere and handed in.
 */
export class ModelScan {
  readonly raster: Raster
  #settings: ScanSettings
  #loads: Loads = DEFAULT_LOADS
  readonly model: Body
  readonly #banded: BandedBody
  readonly #chunks: (GraphChunk | null)[]
  #reach: ReachRun
  #ownReach: OwnReach | null = null
  #solids: readonly Mesh[] = []
  #own: LayerGraph | null = null
  #tree: JoinTree | null = null
  #aims: (readonly [number, number, number])[] = []
  #grazing: ReadonlySet<number> = NONE
  #ownSuction: Suction | null = null
  #pools: Pool[] = []
  #narrowVents: NarrowVent[] | null = null
  #vented: Cup[] = []
  #whole: SupportedGraph | null = null
  #graph: LayerGraph | null = null
  /** Whether other supports were taken than the graph speaks of. */
  #moved = true
  #suction: Suction | null = null
  #grounded: Grounded | null = null

  /** @param mesh what is scanned; or its layers, where these were made elsewhere @throws MeshError `too-big-to-scan` */
  constructor(mesh: Mesh | MadeLayers, raster: Raster, stand: RigidMotion = AS_IS, settings: ScanSettings = DEFAULT_SETTINGS) {
    this.raster = raster
    this.#settings = settings
    this.#banded = 'frame' in mesh ? BandedBody.ofLayers(mesh) : new BandedBody(bodyOf(mesh, raster, stand))
    this.model = this.#banded.body
    this.#chunks = Array.from({ length: this.#banded.bands }, () => null)
    this.#reach = new ReachRun(this.#banded, raster, settings)
  }

  /** Takes the supports for the next run, standing as the model does: closed solids, which may overlap where they meet. The simpler each is, the sooner they are scanned. */
  setStilts(solids: Mesh | readonly Mesh[] | null): void {
    this.#solids = solids === null ? [] : Array.isArray(solids) ? solids : [solids as Mesh]
    this.#moved = true
  }

  get settings(): ScanSettings {
    return this.#settings
  }

  /** Takes what loads are estimated from, for the next run. Nothing is scanned anew for it. */
  setLoads(loads: Loads): void {
    if (JSON.stringify(loads) === JSON.stringify(this.#loads)) return
    this.#loads = loads
    // these carry an estimate of their own
    this.#narrowVents = null
    this.#vented = []
  }

  #holeCost: HoleCost | undefined
  /** Takes what the skin costs a hole, for the next run; left out where all of it is alike. */
  setHoleCost(cost: HoleCost | undefined): void {
    if (!cost && !this.#holeCost) return
    this.#holeCost = cost
    this.#narrowVents = null
    this.#vented = []
  }

  /** Takes other limits for the next run. Layers and what touches what stay as they are; the rest is judged again. */
  setSettings(settings: ScanSettings): void {
    this.#settings = settings
    this.#reach = new ReachRun(this.#banded, this.raster, settings)
    this.#ownReach = null
    this.#narrowVents = null
    this.#vented = []
    if (this.#own) this.#pools = poolsOf(findPools(this.#own), this.#own, this.raster, settings)
    if (this.#own && this.#tree) this.#grazing = grazingFlakes(this.#banded, this.#own, this.#tree, this.raster, settings)
  }

  get layerCount(): number {
    return this.#whole?.frame.layerCount ?? this.#banded.frame.layerCount
  }

  /** Rows and layers of model and supports. */
  get frame(): Frame {
    return this.#whole?.frame ?? this.#banded.frame
  }

  /** Bands of the model's own layers. */
  get bands(): number {
    return this.#banded.bands
  }

  /** Whether the first stage is complete. */
  get allBands(): boolean {
    return this.#chunks.every(c => c !== null)
  }

  hasBand(band: number): boolean {
    return this.#chunks[band] !== null
  }

  /** Makes the graph of one band. */
  makeBand(band: number): GraphChunk {
    return this.#banded.chunk(band)
  }

  /** Takes a band that was made elsewhere, with its spans where they came along. */
  takeBand(band: number, chunk: GraphChunk, spans?: BandSpans): void {
    this.#chunks[band] = chunk
    if (spans) this.#banded.keep(band, spans)
  }

  /** Spans of a band of the model, which are no longer kept here: for another worker that takes them over. */
  handOverSpans(band: number): BandSpans {
    return this.#banded.release(band)
  }

  /** What is known from the bands at the bottom that are there without a gap. */
  partial(): ScanResult {
    const there = this.#chunks.findIndex(c => c === null)
    const chunks = (there < 0 ? this.#chunks : this.#chunks.slice(0, there)) as GraphChunk[]
    const own = joinLayers(sourcesOf(chunks))
    const tree = joinTree(own), suction = findSuction(own)
    return this.#resultOf({ own, tree, graph: own, suction, whole: null, reach: [], ownReach: null, stage: 'layers', pools: [], narrowVents: null })
  }

  /** Sweeps all layers; yields after each band and whenever more is known. */
  *run(): Generator<ScanProgress, ScanResult, void> {
    const total = this.bands
    for (let b = 0; b < total; b++) {
      if (this.#chunks[b] === null) this.#chunks[b] = this.makeBand(b)
      yield { stage: 'layers', done: b + 1, total }
    }
    if (!this.#own) {
      const sources: LayerSource[] = sourcesOf(this.#chunks as GraphChunk[])
      this.#own = joinLayers(sources)
      this.#tree = joinTree(this.#own)
      this.#aims = aimsOf(this.#banded, this.#own, this.#tree, this.raster)
      this.#grazing = grazingFlakes(this.#banded, this.#own, this.#tree, this.raster, this.#settings)
      this.#ownSuction = findSuction(this.#own)
      this.#pools = poolsOf(findPools(this.#own), this.#own, this.raster, this.#settings)
      this.#whole = new SupportedGraph(this.#banded, this.#own, sources, this.raster)
    }
    const whole = this.#whole as SupportedGraph
    if (this.#moved || !this.#graph) {
      const graph = yield* this.#putTogether(whole)
      this.#graph = graph
      this.#suction = graph === this.#own ? this.#ownSuction : findSuction(graph)
      this.#reach.changed(whole.changedFrom, whole.changedTo)
      this.#moved = false
    }
    yield { stage: 'graph', done: total, total, result: this.#now('graph') }
    const layers = this.#banded.frame.layerCount
    for (const done of this.#reach.run(whole)) yield { stage: 'reach', done, total: layers }
    const { log } = this.#reach
    if (!this.#ownReach && whole.sections.length === 0) this.#ownReach = { log: [...log], records: joinLedges(log) }
    yield { stage: 'reach', done: layers, total: layers, result: this.#now('reach') }
    yield* this.#measureOwn(layers)
    if (this.#narrowVents === null) {
      const steps = findNarrowVents(this.#banded, this.#ownSuction as Suction, this.#own, this.raster, this.#settings, this.#loads)
      for (;;) {
        const step = steps.next()
        if (step.done) {
          this.#narrowVents = step.value
          this.#vented = this.#proposeVents()
          break
        }
        yield { stage: 'all', done: step.value, total: layers }
      }
    }
    return this.#now('all')
  }

  /** The reach of the model alone, against which the ledges with supports are judged; once for these limits. */
  *#measureOwn(layers: number): Generator<ScanProgress, void, void> {
    if (this.#ownReach) return
    const run = new ReachRun(this.#banded, this.raster, this.#settings)
    for (const done of run.run(new ModelBands(this.#banded))) yield { stage: 'reach', done, total: layers }
    this.#ownReach = { log: run.log, records: joinLedges(run.log) }
  }

  /** The graph of the model and the supports that were taken last. */
  *#putTogether(whole: SupportedGraph): Generator<ScanProgress, LayerGraph, void> {
    if (this.#solids.length === 0 && whole.sections.length === 0) return this.#own as LayerGraph
    const steps = whole.update(this.#solids)
    for (;;) {
      const step = steps.next()
      if (step.done) return step.value
      yield { stage: 'graph', done: step.value, total: 1 }
    }
  }

  /** The part's own cups with their vents: holes go through its walls, whatever stands around. */
  #proposeVents(): Cup[] {
    const own = this.#own as LayerGraph, suction = this.#ownSuction as Suction, banded = this.#banded
    const { cups } = cupsOf(suction, own, own, this.raster, this.#settings, this.#loads)
    const layers = { raster: this.raster, frame: banded.frame, layerSpans: (k: number) => oneLayer(banded.layer(k), banded.frame.rows) }
    return proposeVents(layers, cups, suction, own, this.#holeCost)
  }

  /** What hangs on points of the surface, by the scan of the model alone; `nothing` before its layers are there. */
  hangsOn(points: readonly Vec3[], result: ScanResult): HangsOn[] {
    if (!this.#own || !this.#tree) return points.map(() => 'nothing')
    const classes = new Map(result.islands.map(i => [i.id, i.class]))
    return hangsOn({ raster: this.raster, model: this.#banded, own: this.#own, tree: this.#tree, ownReach: this.#ownReach, classes }, points)
  }

  /** Where points of the skin are laid, and the component of the model's own graph there; null where none is near, and before its layers are there. */
  laidAt(points: readonly Vec3[]): (LaidAt | null)[] {
    const own = this.#own
    if (!own) return points.map(() => null)
    const asked = points.filter(p => !this.#laid.has(p)), found = componentsAt(this.#banded, own, this.raster, asked)
    asked.forEach((p, i) => this.#laid.set(p, found[i]))
    return points.map(p => this.#laid.get(p) ?? null)
  }
  /** Of points that were asked for before: a plan that grows asks for the same ones again and again. */
  readonly #laid = new WeakMap<Vec3, LaidAt | null>()

  /** The components of the model's own graph on both sides of empty pixels; −1 for none. */
  besideEmpty(spots: readonly EmptySpot[]): (readonly [number, number])[] {
    const own = this.#own
    return own ? componentsBeside(this.#banded, own, spots) : spots.map(() => [-1, -1])
  }

  /** All of `run` at once. */
  runToEnd(): ScanResult {
    const steps = this.run()
    for (;;) {
      const step = steps.next()
      if (step.done) return step.value
    }
  }

  /** Runs as far as a stage: to the graph for islands, suction and signals, to the reach for ledges and held shares as well. */
  runTo(stage: 'graph' | 'reach'): ScanResult {
    for (const step of this.run()) if (step.result && step.stage === stage) return step.result
    throw new Error('A run ended without a result.')
  }

  #now(stage: ScanStage): ScanResult {
    return this.#resultOf({
      own: this.#own as LayerGraph, tree: this.#tree as JoinTree, graph: this.#graph as LayerGraph, suction: this.#suction as Suction,
      whole: this.#whole, reach: this.#reach.log, ownReach: this.#ownReach, stage, pools: this.#pools, narrowVents: this.#narrowVents,
    })
  }

  #resultOf(known: { own: LayerGraph; tree: JoinTree; graph: LayerGraph; suction: Suction; whole: SupportedGraph | null; reach: readonly (LoggedReach | null)[]; ownReach: OwnReach | null; stage: ScanStage; pools: Pool[]; narrowVents: NarrowVent[] | null }): ScanResult {
    const { pixelMm, layerMm } = this.raster
    const { islands, floating, ledges, folded, grounded, hangingMm2 } = findHanging({ raster: this.raster, settings: this.#settings, aims: known.stage === 'layers' ? aimsOf(this.#banded, known.own, known.tree, this.raster) : this.#aims, grazing: known.stage === 'layers' ? NONE : this.#grazing, ...known })
    const listed = cupsOf(known.suction, known.graph, known.own, this.raster, this.#settings, this.#loads)
    if (known.graph === this.#graph) this.#grounded = grounded
    const signals = signalsOf(known.graph, known.suction, hangingMm2, pixelMm, this.#loads)
    let cups = listed.cups
    if (known.stage === 'all' && known.narrowVents) cups = mergeNarrowVents(cups, known.narrowVents, c => this.#spaceOf(c)).map(c => (c.bySupports ? c : { ...c, vent: sameCup(c, this.#vented)?.vent ?? null }))
    return {
      layerMm, pixelMm, layerCount: known.stage === 'layers' ? this.#banded.frame.layerCount : known.graph.layerCount, covered: known.graph.layerCount, stage: known.stage,
      islands, ledges, floating, folded, cups, smallCups: listed.small, pools: known.pools,
      signals, areaMm2: signals.areaMm2, widestMm2: known.own.layerPixels.reduce((most, p) => Math.max(most, p), 0) * pixelMm ** 2, unclosedRows: known.graph.unclosedRows,
    }
  }

  /** The part's own empty component, through all layers, in which a cup is widest. */
  #spaceOf({ at, peakLayer }: Cup): number {
    const { pixelMm } = this.raster
    return this.#own ? emptySpaceAt(this.#banded, this.#own, peakLayer, Math.floor(at[1] / pixelMm), Math.floor(at[0] / pixelMm)) : -1
  }

  /** Spans of one layer: the model's and those of model and stilts. */
  layerSpans(layer: number): { model: BandSpans; stilts: BandSpans | null; all: BandSpans } {
    const whole = this.#whole
    if (!whole) {
      const model = oneLayer(this.#banded.layer(layer), this.frame.rows)
      return { model, stilts: null, all: model }
    }
    const model = whole.modelSpans(layer)
    const stilts = whole.supportSpans(layer)
    return { model, stilts, all: stilts ? orSpans(model, stilts) : model }
  }

  /** The model's own graph and join tree, once the first stage has ended. */
  get modelTree(): { graph: LayerGraph; tree: JoinTree } | null {
    return this.#own && this.#tree ? { graph: this.#own, tree: this.#tree } : null
  }

  /** The graph of model and stilts and its suction, once the second stage has ended. */
  get wholeSuction(): { graph: LayerGraph; suction: Suction } | null {
    return this.#graph && this.#suction ? { graph: this.#graph, suction: this.#suction } : null
  }

  /** Over-reach by layer. */
  get reachLog(): readonly (LoggedReach | null)[] {
    return this.#reach.log
  }

  /** For every solid component of model and supports whether it is connected to the plate through layers up to its own. */
  get grounded(): Uint8Array | null {
    return this.#grounded?.components ?? null
  }

  /** The reach with the supports of the last run, to choose more for. @param spareMm what is so near to the limit is taken as beyond it @param limits in the place of those of the scan @throws Error before a run has come to the graph */
  covering(spareMm: number, limits: Partial<Pick<ScanSettings, 'flapMm' | 'tipHoldMm'>> = {}): Covering {
    if (!this.#whole) throw new Error('The model has not been scanned.')
    return new Covering(this.#banded, this.#whole, this.raster, { ...this.#settings, ...limits }, spareMm)
  }

  /** The component of model and supports, within layer k, that holds component `c` of the model's layer. */
  holderOf(k: number, c: number): number {
    return this.#whole ? this.#whole.holderOf(k, c) : c
  }

  /** Layers that were put together again when the supports changed last. */
  get renewedLayers(): number {
    return this.#whole?.renewed ?? 0
  }
}

const NONE: ReadonlySet<number> = new Set()

/** Spaces behind passages too narrow for a vent take the place of the cups that they contain. @param spaceOf the part's own space that a cup lies in */
function mergeNarrowVents(cups: readonly Cup[], narrow: readonly NarrowVent[], spaceOf: (c: Cup) => number): Cup[] {
  const others = narrow.length === 0 ? cups : cups.filter(c => {
    const space = spaceOf(c)
    return !narrow.some(o => o.spaces.has(space))
  })
  return [...others, ...narrow.map(c => c.cup)].sort((a, b) => b.volumeMm3 - a.volumeMm3 || a.firstLayer - b.firstLayer || a.at[1] - b.at[1] || a.at[0] - b.at[0])
}

/** The cup of a list that shares layers with another one and lies in the same place; of several the one that is most like it: a double wall has a space within its cup. */
function sameCup(c: Cup, list: readonly Cup[]): Cup | undefined {
  const apart = (o: Cup): number => Math.hypot(o.at[0] - c.at[0], o.at[1] - c.at[1]), unlike = (o: Cup): number => Math.abs(o.firstLayer - c.firstLayer) + Math.abs(o.lastLayer - c.lastLayer) + apart(o)
  const near = list.filter(o => o.lastLayer >= c.firstLayer - 1 && o.firstLayer <= c.lastLayer + 1 && apart(o) <= Math.sqrt(Math.max(o.peakAreaMm2, c.peakAreaMm2)))
  return near.reduce<Cup | undefined>((best, o) => (best && unlike(best) <= unlike(o) ? best : o), undefined)
}

function oneLayer({ spans, at }: { spans: BandSpans; at: number }, rows: number): BandSpans {
  const first = spans.starts[at * rows], end = spans.starts[(at + 1) * rows]
  return {
    firstLayer: spans.firstLayer + at, layers: 1,
    starts: spans.starts.slice(at * rows, (at + 1) * rows + 1).map(s => s - first),
    pairs: spans.pairs.slice(2 * first, 2 * end), unclosedRows: spans.unclosedRows.slice(at, at + 1),
  }
}
