import type { Mesh } from '../mesh'
import { AS_IS, type Placement } from '../pose'
import { bandIndexOf, bodyOf, type BandIndex, type Body, type Raster } from './body'
import { CLASS_LIMITS, classOfIsland, type IslandClass } from './classes'
import { groundedWhenLaid } from './grounding'
import { joinTree, type JoinTree } from './join-tree'
import { LayerGraphBuilder, type LayerGraph } from './layer-graph'
import { labelLayer, newLabels, type LayerLabels } from './layer-labels'
import { frameOf, orSpans, spansOfBand, spansOfLayers, SpanScratch, type BandSpans, type Frame } from './spans'
import { findSuction, type CupEnd, type Suction } from './suction'

export type FindingState = 'open' | 'partly' | 'held' | 'noted' | 'waived'

/** A region of a layer that is printed on nothing. */
export interface Island {
  readonly id: number
  /** First layer, counted from 0, and the height of its middle above the plate. */
  readonly layer: number
  readonly zMm: number
  readonly areaMm2: number
  /** Centre of its first layer, build coordinates. */
  readonly center: readonly [number, number, number]
  /** The layer where it joins something heavier; null where it never does. */
  readonly joinsLayer: number | null
  /** What it gathers before it joins. */
  readonly volumeMm3: number
  readonly largestAreaMm2: number
  readonly class: IslandClass
  readonly state: FindingState
  /** Its component among the solid components of all layers of the model. */
  readonly component: number
}

/** A space that pulls on the film while it is printed, or stays sealed. */
export interface Cup {
  readonly id: number
  readonly firstLayer: number
  readonly lastLayer: number
  readonly peakAreaMm2: number
  readonly peakLayer: number
  readonly volumeMm3: number
  readonly ends: CupEnd
  /** A point of the space in its peak layer, build coordinates. */
  readonly at: readonly [number, number, number]
}

/** A part of the stilts that hangs in the air when its first layer is printed. */
export interface FloatingStilt {
  readonly layer: number
  readonly center: readonly [number, number, number]
}

export interface ScanResult {
  readonly layerMm: number
  readonly pixelMm: number
  readonly layerCount: number
  /** Worst first. */
  readonly islands: Island[]
  readonly cups: Cup[]
  /** Cups under the reporting limits. */
  readonly smallCups: number
  readonly floating: FloatingStilt[]
  /** Solid area of every layer, model and stilts, mm². */
  readonly areaMm2: Float64Array
  readonly unclosedRows: number
}

/** Limits under which suction is counted but not listed (common practice). */
export const SUCTION_LIMITS = { peakAreaMm2: 1, layers: 4 }

/** Layers that a flake may take to join and still be only noted. */
const NOTED_WITHIN_LAYERS = 3

/** Crossings per band that keep the working set in the cache; bands are at least 8 layers. */
const BAND_LAYERS = 32

export interface ScanProgress {
  readonly done: number
  readonly total: number
}

/**
 * The scan of one model on one raster and pose: the model's own graph, made once, and the graph of model and stilts, made again
 * whenever the stilts change. `run` is a generator so that its caller can show progress, breathe and stop between bands.
 */
export class ModelScan {
  readonly raster: Raster
  readonly model: Body
  #stilts: Body | null = null
  #modelGraph: LayerGraph | null = null
  #tree: JoinTree | null = null
  #suction: Suction | null = null
  #graph: LayerGraph | null = null
  #frame: Frame
  #modelIndex: BandIndex
  #stiltIndex: BandIndex | null = null
  readonly #scratch = new SpanScratch()

  /** @throws MeshError `too-big-to-scan` */
  constructor(mesh: Mesh, raster: Raster, placement: Placement = AS_IS) {
    this.raster = raster
    this.model = bodyOf(mesh, raster, placement)
    this.#frame = frameOf([this.model])
    this.#modelIndex = bandIndexOf(this.model, BAND_LAYERS, this.#frame.layerCount)
  }

  /** Takes the stilts for the next run; null or an empty mesh for none. Their coordinates are build coordinates. */
  setStilts(mesh: Mesh | null): void {
    this.#stilts = mesh && mesh.triangles.length > 0 ? bodyOf(mesh, this.raster) : null
    this.#graph = null
  }

  get layerCount(): number {
    return this.#frame.layerCount
  }

  /** Sweeps all layers; yields after each band. */
  *run(): Generator<ScanProgress, ScanResult, void> {
    const bodies = this.#stilts ? [this.model, this.#stilts] : [this.model]
    const frame = frameOf(bodies)
    const index = frame.layerCount === this.#frame.layerCount ? this.#modelIndex : bandIndexOf(this.model, BAND_LAYERS, frame.layerCount)
    const stiltIndex = this.#stilts ? bandIndexOf(this.#stilts, BAND_LAYERS, frame.layerCount) : null
    const modelBuilder = this.#modelGraph && this.#modelGraph.layerCount === frame.layerCount ? null : new LayerGraphBuilder(frame)
    const unionBuilder = this.#stilts ? new LayerGraphBuilder(frame) : null
    if (frame.rows > 0) {
      for (let b = 0; b < index.bands; b++) {
        const model = spansOfBand(this.model, index, b, frame, this.#scratch)
        modelBuilder?.add(model)
        if (unionBuilder && stiltIndex && this.#stilts) unionBuilder.add(orSpans(model, spansOfBand(this.#stilts, stiltIndex, b, frame, this.#scratch)))
        yield { done: b + 1, total: index.bands }
      }
    }
    this.#frame = frame
    this.#modelIndex = index
    this.#stiltIndex = stiltIndex
    if (modelBuilder) {
      this.#modelGraph = modelBuilder.finish()
      this.#tree = joinTree(this.#modelGraph)
    }
    this.#graph = unionBuilder ? unionBuilder.finish() : this.#modelGraph
    const graph = this.#graph as LayerGraph
    this.#suction = findSuction(graph)
    return this.#result(graph)
  }

  /** All of `run` at once. */
  runToEnd(): ScanResult {
    const steps = this.run()
    for (;;) {
      const step = steps.next()
      if (step.done) return step.value
    }
  }

  #result(graph: LayerGraph): ScanResult {
    const { pixelMm, layerMm } = this.raster
    const pixelArea = pixelMm * pixelMm, voxel = pixelArea * layerMm
    const suction = this.#suction as Suction
    const cups: Cup[] = []
    let smallCups = 0
    suction.cups.forEach((c, id) => {
      const peakAreaMm2 = c.peakPixels * pixelArea
      if (peakAreaMm2 < SUCTION_LIMITS.peakAreaMm2 || c.lastLayer - c.firstLayer + 1 < SUCTION_LIMITS.layers) {
        smallCups++
        return
      }
      const at = [(graph.emptyPixel[c.peakComponent] + 0.5) * pixelMm, (graph.emptyRow[c.peakComponent] + 0.5) * pixelMm, (c.peakLayer + 0.5) * layerMm] as const
      cups.push({ id, firstLayer: c.firstLayer, lastLayer: c.lastLayer, peakAreaMm2, peakLayer: c.peakLayer, volumeMm3: c.volumePixels * voxel, ends: c.ends, at })
    })
    cups.sort((a, b) => b.volumeMm3 - a.volumeMm3 || a.id - b.id)
    const { islands, floating } = this.#settle(graph)
    return {
      layerMm, pixelMm,
      layerCount: graph.layerCount,
      islands, cups, smallCups, floating,
      areaMm2: Float64Array.from(graph.layerPixels, n => n * pixelArea),
      unclosedRows: graph.unclosedRows,
    }
  }

  /** States of the islands, judged in the graph of model and stilts, and stilts that begin in the air. */
  #settle(graph: LayerGraph): { islands: Island[]; floating: FloatingStilt[] } {
    const { pixelMm, layerMm } = this.raster
    const pixelArea = pixelMm * pixelMm, voxel = pixelArea * layerMm
    const own = this.#modelGraph as LayerGraph, tree = this.#tree as JoinTree
    const grounded = groundedWhenLaid(graph)
    const first = this.#stilts ? this.#unionComponents(own, tree) : null
    const islandComponents = new Set<number>(first ?? [])
    const islands = tree.islands.map((record, id): Island => {
      const c = record.component
      const area = own.solidPixels[c]
      const largestAreaMm2 = record.largestPixels * pixelArea, volumeMm3 = record.volumePixels * voxel
      const kind = classOfIsland(id === tree.body, largestAreaMm2, volumeMm3)
      const held = first !== null && first[id] >= 0 && grounded[first[id]] === 1
      const noted = kind === 'flake' && record.joinsLayer >= 0 && record.joinsLayer - record.firstLayer <= NOTED_WITHIN_LAYERS
      const zMm = (record.firstLayer + 0.5) * layerMm
      return {
        id, layer: record.firstLayer, zMm, areaMm2: area * pixelArea,
        center: [(own.solidSumX[c] / area + 0.5) * pixelMm, (own.solidSumY[c] / area + 0.5) * pixelMm, zMm],
        joinsLayer: record.joinsLayer < 0 ? null : record.joinsLayer,
        volumeMm3, largestAreaMm2, class: kind,
        state: held ? 'held' : noted ? 'noted' : 'open',
        component: c,
      }
    })
    const rank: Record<IslandClass, number> = { body: 0, limb: 1, detail: 2, flake: 3 }
    islands.sort((a, b) => rank[a.class] - rank[b.class] || b.volumeMm3 - a.volumeMm3 || a.id - b.id)
    const floating: FloatingStilt[] = []
    if (first) {
      for (let k = 1; k < graph.layerCount; k++) {
        const hasBelow = new Set<number>()
        for (let e = graph.solidEdgeStarts[k]; e < graph.solidEdgeStarts[k + 1]; e++) hasBelow.add(graph.solidUpper[e])
        for (let c = graph.solidStarts[k]; c < graph.solidStarts[k + 1]; c++) {
          // what begins here without an island of the model in it begins with stilt pixels alone
          if (hasBelow.has(c) || islandComponents.has(c)) continue
          const n = graph.solidPixels[c]
          if (n * pixelArea <= CLASS_LIMITS.flakeAreaMm2 && joinsGroundedWithin(graph, grounded, c, k, NOTED_WITHIN_LAYERS)) continue
          floating.push({ layer: k, center: [(graph.solidSumX[c] / n + 0.5) * pixelMm, (graph.solidSumY[c] / n + 0.5) * pixelMm, (k + 0.5) * layerMm] })
        }
      }
    }
    return { islands, floating }
  }

  /** For every island the component of model and stilts, in its first layer, that holds its first pixel. */
  #unionComponents(own: LayerGraph, tree: JoinTree): Int32Array {
    const graph = this.#graph as LayerGraph
    const found = new Int32Array(tree.islands.length).fill(-1)
    const byLayer = new Map<number, number[]>()
    tree.islands.forEach((island, id) => {
      const list = byLayer.get(island.firstLayer)
      if (list) list.push(id)
      else byLayer.set(island.firstLayer, [id])
    })
    for (const [layer, ids] of byLayer) {
      const picture = this.layerSpans(layer)
      const labels = labelsOf(picture.all, this.#frame)
      for (const id of ids) {
        const c = tree.islands[id].component
        const row = own.solidRow[c] - this.#frame.row0, pixel = own.solidPixel[c]
        for (let s = picture.all.starts[row]; s < picture.all.starts[row + 1]; s++) {
          if (picture.all.pairs[2 * s] <= pixel && pixel < picture.all.pairs[2 * s + 1]) found[id] = graph.solidStarts[layer] + labels.solid[s]
        }
      }
    }
    return found
  }

  /** Spans of one layer: the model's and those of model and stilts. Made again from the meshes at every call. */
  layerSpans(layer: number): { model: BandSpans; stilts: BandSpans | null; all: BandSpans } {
    const model = this.#layerOf(this.model, this.#modelIndex, layer)
    const stilts = this.#stilts && this.#stiltIndex ? this.#layerOf(this.#stilts, this.#stiltIndex, layer) : null
    return { model, stilts, all: stilts ? orSpans(model, stilts) : model }
  }

  #layerOf(body: Body, index: BandIndex, layer: number): BandSpans {
    const band = Math.floor(layer / index.bandLayers)
    return spansOfLayers(body, index.triangles.subarray(index.starts[band], index.starts[band + 1]), layer, 1, this.#frame, this.#scratch)
  }

  get frame(): Frame {
    return this.#frame
  }

  /** The model's own graph and join tree, once a run has ended. */
  get modelTree(): { graph: LayerGraph; tree: JoinTree } | null {
    return this.#modelGraph && this.#tree ? { graph: this.#modelGraph, tree: this.#tree } : null
  }

  /** The graph of model and stilts and its suction, once a run has ended. */
  get wholeSuction(): { graph: LayerGraph; suction: Suction } | null {
    return this.#graph && this.#suction ? { graph: this.#graph, suction: this.#suction } : null
  }
}

/** Whether what begins with a component of layer k meets something grounded within some layers: then it is a flake that joins at once. */
function joinsGroundedWithin(graph: LayerGraph, grounded: Uint8Array, component: number, k: number, layers: number): boolean {
  let reached = new Set([component])
  for (let l = k + 1; l <= Math.min(k + layers, graph.layerCount - 1); l++) {
    const next = new Set<number>()
    for (let e = graph.solidEdgeStarts[l]; e < graph.solidEdgeStarts[l + 1]; e++) if (reached.has(graph.solidLower[e])) next.add(graph.solidUpper[e])
    for (const c of next) if (grounded[c]) return true
    reached = next
  }
  return false
}

function labelsOf(spans: BandSpans, frame: Frame): LayerLabels {
  const labels = newLabels()
  labelLayer(spans.starts, 0, frame.rows, spans.pairs, labels)
  return labels
}
