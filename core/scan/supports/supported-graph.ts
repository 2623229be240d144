import type { Mesh } from '../../mesh'
import type { BandedBody } from '../graph/banded-body'
import type { LayerSource } from '../graph/join-layers'
import type { LayerGraph } from '../graph/layer-graph'
import type { Raster } from '../raster/body'
import { orSpans, type BandSpans, type Frame } from '../raster/spans'
import { groundedWhenLaid, type Grounded } from '../sweeps/grounding'
import { SectionSet } from './section-set'
import { changeOfStanding, LEANS, STANDS, standingOf, type Standing } from './standing'
import type { Section } from './support-section'
import { modelSpans, sectionSpans, type BandWithSupports, type SectionLists } from './supported-spans'
import { SupportedUpdate, type SupportedState } from './supported-update'

/**
 * The graph of model and supports, kept up to date. Where a support stands by itself it is a column beside the graph; only layers in which supports touch something are put together pixel by pixel, and after a change only those
 * in which other supports touch something than before. The outcome is the same as that of a scan of everything at once.
 * Until an update has ended everything here speaks of the supports of before, and an update that is given up changes nothing.
 */
export class SupportedGraph {
  readonly #model: BandedBody
  readonly #own: LayerGraph
  readonly #modelLayers: readonly LayerSource[]
  readonly #sections: SectionSet
  #state: SupportedState
  /** Layers that were put together again by the last update. */
  renewed = 0
  /** First layer and one past the last in which other supports meet the model than before the last update, or the same stand otherwise. */
  changedFrom = 0
  changedTo = 0
  /** What is grounded when it is laid, of the graph that the last update gave. */
  grounded: Grounded | null = null
  #standing: Standing = new Map()

  constructor(model: BandedBody, own: LayerGraph, modelLayers: readonly LayerSource[], raster: Raster) {
    this.#model = model
    this.#own = own
    this.#modelLayers = modelLayers
    this.#sections = new SectionSet(model, own, raster)
    this.#state = { frame: model.frame, sections: [], layers: [], lists: null }
  }

  /** Rows and layers of model and supports. */
  get frame(): Frame {
    return this.#state.frame
  }

  get sections(): readonly Section[] {
    return this.#state.sections
  }

  /** The component of model and supports, within layer k, that holds component `c` of the model's layer. */
  holderOf(k: number, c: number): number {
    const shared = this.#state.layers[k]
    return shared ? shared.ofModel[c] : c
  }

  /** Takes the supports as they are now, one solid each, and gives the graph. Yields the share that is done. */
  *update(solids: readonly Mesh[]): Generator<number, LayerGraph, void> {
    for (const steps = this.#sections.take(solids); ;) {
      const step = steps.next()
      if (!step.done) {
        yield step.value * SECTIONS_SHARE
        continue
      }
      const update = new SupportedUpdate(this.#model, this.#own, this.#modelLayers, this.#state, step.value)
      for (const done of update.run()) yield SECTIONS_SHARE + done * (1 - SECTIONS_SHARE)
      const graph = update.join()
      this.#state = update.state
      this.renewed = update.renewed
      this.grounded = groundedWhenLaid(graph)
      const { layers, sections } = update.state
      const standing = standingOf(sections, graph, this.grounded.components, layers)
      const [from, to] = changeOfStanding(this.#standing, standing)
      this.#standing = standing
      this.changedFrom = Math.min(update.changedFrom, from)
      this.changedTo = Math.max(update.changedTo, to)
      return graph
    }
  }

  bandWithSupports(band: number, bandLayers: number): BandWithSupports {
    const { frame, lists } = this.#state, meeting = lists?.meeting ?? NONE
    const from = band * bandLayers, to = Math.min(from + bandLayers, frame.layerCount), own = this.#model.frame
    const alone = own.row0 === frame.row0 && own.rows === frame.rows && to <= own.layerCount
    const model = alone ? this.#model.spans(band) : modelSpans(this.#model, frame, from, to)
    if (this.#standing.size === 0) {
      const supports = sectionSpans(frame, from, to, meeting)
      return { spans: supports ? orSpans(model, supports) : model, supports, plain: null }
    }
    const those = (how: number): BandSpans | null => sectionSpans(frame, from, to, meeting, (section, piece) => (this.#standing.get(section)?.[piece] ?? STANDS) === how)
    const supports = those(STANDS), plain = those(LEANS)
    let spans = model
    for (const s of [supports, plain]) if (s) spans = orSpans(spans, s)
    return { spans, supports, plain }
  }

  /** Spans of layer k of the model alone, in the rows of the whole. */
  modelSpans(k: number): BandSpans {
    return modelSpans(this.#model, this.#state.frame, k, k + 1)
  }

  /** Spans of all supports in layer k, in the rows of the whole; null where there are none. */
  supportSpans(k: number): BandSpans | null {
    return sectionSpans(this.#state.frame, k, k + 1, { [k]: this.#state.sections.filter(s => s.has(k)) })
  }
}

const NONE: SectionLists = []

/** Making sections takes about this share of an update. */
const SECTIONS_SHARE = 0.6
