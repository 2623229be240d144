import type { Mesh } from '../../mesh'
import type { BandedBody } from '../graph/banded-body'
import type { LayerGraph } from '../graph/layer-graph'
import { labelLayer, newLabels } from '../graph/layer-labels'
import type { Raster } from '../raster/body'
import { Section } from './support-section'

/** The sections of all supports, each knowing where it stands by itself. What a change leaves alone is used again. */
export class SectionSet {
  readonly #model: BandedBody
  readonly #own: LayerGraph
  readonly #raster: Raster
  /** Sections that know of each other; null after a change that was given up halfway. */
  #met: readonly Section[] | null = []
  /** All that were made for the last change, taken or not. */
  #made: readonly Section[] = []
  readonly #emptyLabels = new Map<number, Int32Array>()

  constructor(model: BandedBody, own: LayerGraph, raster: Raster) {
    this.#model = model
    this.#own = own
    this.#raster = raster
  }

  /** Takes the supports as they are now, one solid each. Yields the share that is done; may be given up at any time. */
  *take(solids: readonly Mesh[]): Generator<number, readonly Section[], void> {
    const old = new Map<number, Section[]>(), same = new Map<Mesh, Section>()
    for (const s of this.#made) {
      same.set(s.mesh, s)
      const key = s.mesh.positions.length
      const list = old.get(key)
      if (list) list.push(s)
      else old.set(key, [s])
    }
    const next: Section[] = []
    // the very same solid is looked up; one that was made anew is compared with those that nobody claims
    const claimed = new Set(solids.flatMap(mesh => same.get(mesh) ?? []))
    for (const list of old.values()) if (list.some(s => claimed.has(s))) list.splice(0, list.length, ...list.filter(s => !claimed.has(s)))
    for (const mesh of solids) {
      if (mesh.triangles.length === 0) continue
      const known = same.get(mesh)
      if (known && claimed.delete(known)) {
        next.push(known)
        continue
      }
      const list = old.get(mesh.positions.length)
      const at = list ? list.findIndex(s => sameMesh(s.mesh, mesh)) : -1
      if (list && at >= 0) {
        next.push(list.splice(at, 1)[0])
        continue
      }
      const section = new Section(mesh, this.#raster)
      section.meetModel(this.#model, this.#own, (k, row, pixel) => this.#shutAt(k, row, pixel))
      this.#made = [...this.#made, section]
      next.push(section)
      yield next.length / solids.length
    }
    const before = this.#met
    this.#met = null
    this.#made = next
    for (const share of meetEachOther(next, before)) yield share
    this.#met = next
    return next
  }

  /** Whether a pixel of layer k that the model leaves empty belongs to a space which the model encloses there. */
  #shutAt(k: number, row: number, pixel: number): boolean {
    const { spans, at } = this.#model.layer(k)
    const { rows, row0 } = this.#model.frame
    const base = at * rows
    let empty = this.#emptyLabels.get(k)
    if (!empty) {
      labelLayer(spans.starts, base, rows, spans.pairs, labels)
      empty = labels.empty.slice(0, spans.starts[base + rows] - spans.starts[base])
      this.#emptyLabels.set(k, empty)
    }
    const r = base + row - row0
    for (let s = spans.starts[r]; s < spans.starts[r + 1]; s++) {
      if (pixel < spans.pairs[2 * s]) return empty[s - spans.starts[base]] >= 0
      // within the model: that is for others to tell
      if (pixel < spans.pairs[2 * s + 1]) return true
    }
    return false
  }
}

const labels = newLabels()

/** Marks where sections meet each other; yields the share that is done. @param before those that know of each other already; null for none */
function* meetEachOther(now: readonly Section[], before: readonly Section[] | null): Generator<number, void, void> {
  const known = new Set(before), kept = new Set(now)
  const concerned = new Set(now.filter(s => !known.has(s)))
  const changed = [...concerned, ...[...known].filter(s => !kept.has(s))]
  if (changed.length === 0) return
  const byX = now.filter(s => s.layers > 0).sort((a, b) => a.extent[0] - b.extent[0])
  const widest = byX.reduce((most, s) => Math.max(most, s.extent[1] - s.extent[0]), 0)
  for (const c of changed) for (const s of nearIn(byX, widest, c)) concerned.add(s)
  for (const s of concerned) s.forgetOthers()
  let done = 0
  for (const a of concerned) {
    yield done++ / concerned.size
    for (const b of nearIn(byX, widest, a)) {
      // a pair of which both are concerned comes twice
      if (b !== a && (!concerned.has(b) || a.id < b.id)) a.meet(b)
    }
  }
}

/** Sections near another one, of a list sorted by where they begin in x; none is wider than `widest`. */
function* nearIn(byX: readonly Section[], widest: number, to: Section): Generator<Section, void, void> {
  const [from, end] = to.extent
  let low = 0, high = byX.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (byX[middle].extent[0] < from - widest - 1) low = middle + 1
    else high = middle
  }
  for (let i = low; i < byX.length && byX[i].extent[0] <= end + 1; i++) if (byX[i].near(to)) yield byX[i]
}

function sameMesh(a: Mesh, b: Mesh): boolean {
  if (a === b) return true
  const p = a.positions, q = b.positions
  if (p.length !== q.length || a.triangles.length !== b.triangles.length) return false
  for (let i = 0; i < p.length; i++) if (p[i] !== q[i]) return false
  for (let i = 0; i < a.triangles.length; i++) if (a.triangles[i] !== b.triangles[i]) return false
  return true
}

