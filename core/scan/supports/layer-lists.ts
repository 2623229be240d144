import { newTotals, type ColumnTotals } from '../graph/columns'
import { ENTANGLED, FREE, MEETS_MODEL, type Section } from './support-section'

const NONE: readonly Section[] = []
const NO_ROLES = new Uint8Array(0)

/**
 * Which sections every layer has that are entangled, which ones meet the model, and what those that stand by themselves add up to.
 * Lists are made from those of before and cost what has changed; those of before stay as they are.
 */
export class LayerLists {
  readonly entangled: (readonly Section[])[]
  readonly meeting: (readonly Section[])[]
  readonly totals: ColumnTotals
  /** Layers whose entangled sections are not those of before. */
  readonly dirty = new Set<number>()
  /** First layer and one past the last in which other sections meet the model than before. */
  meetingFrom = Infinity
  meetingTo = 0
  /** Sections that are new or are something else in some layer than before. */
  readonly changed: readonly Section[]
  /** What every section is listed as. */
  readonly #listed: Map<Section, Uint8Array>
  /** Layers whose list is this one's own, for entangled sections and for those that meet the model. */
  readonly #own = [new Set<number>(), new Set<number>()] as const

  constructor(before: LayerLists | null, sections: readonly Section[], layerCount: number) {
    const list = (k: number, of: readonly (readonly Section[])[] | undefined): readonly Section[] => of?.[k] ?? NONE
    this.entangled = Array.from({ length: layerCount }, (_, k) => list(k, before?.entangled))
    this.meeting = Array.from({ length: layerCount }, (_, k) => list(k, before?.meeting))
    this.totals = newTotals(layerCount)
    for (const name of ['count', 'pixels', 'sumX', 'sumY', 'shared'] as const) if (before) this.totals[name].set(before.totals[name].subarray(0, layerCount))
    this.#listed = new Map(before ? before.#listed : [])
    const there = new Set(sections), changed: Section[] = []
    for (const [s, roles] of before ? before.#listed : []) {
      if (there.has(s)) continue
      this.#change(s, roles, NO_ROLES)
      this.#listed.delete(s)
    }
    for (const s of sections) {
      const roles = this.#listed.get(s), now = s.roles
      if (roles === now) continue
      this.#change(s, roles ?? NO_ROLES, now)
      this.#listed.set(s, now)
      changed.push(s)
    }
    this.changed = changed
  }

  #change(s: Section, before: Uint8Array, now: Uint8Array): void {
    const layerCount = this.entangled.length
    for (let l = 0; l <= s.layers; l++) {
      const k = s.first + l
      if (k >= layerCount) break
      const a = before[l] ?? 0, b = now[l] ?? 0
      if ((a ^ b) & ENTANGLED) {
        this.#put(0, k, s, (b & ENTANGLED) !== 0)
        this.dirty.add(k)
      }
      if ((a ^ b) & MEETS_MODEL) {
        this.#put(1, k, s, (b & MEETS_MODEL) !== 0)
        this.meetingFrom = Math.min(this.meetingFrom, k)
        this.meetingTo = Math.max(this.meetingTo, k + 1)
      }
      if ((a ^ b) & FREE) this.#add(s, k, (b & FREE) !== 0 ? 1 : -1)
      // an edge between two layers is in no chunk where one of its ends is free
      const edgeBefore = (a | (before[l - 1] ?? 0)) & FREE, edgeNow = (b | (now[l - 1] ?? 0)) & FREE
      if (edgeBefore !== edgeNow) this.totals.shared[k] += (s.overlap[l] ?? 0) * (edgeNow ? 1 : -1)
    }
  }

  #add(s: Section, k: number, sign: number): void {
    const { pixels, sumX, sumY } = s.component(k), t = this.totals
    t.count[k] += sign
    t.pixels[k] += sign * pixels
    t.sumX[k] += sign * sumX
    t.sumY[k] += sign * sumY
  }

  #put(which: 0 | 1, k: number, s: Section, there: boolean): void {
    const lists = which === 0 ? this.entangled : this.meeting
    if (!this.#own[which].has(k)) {
      lists[k] = [...lists[k]]
      this.#own[which].add(k)
    }
    const list = lists[k] as Section[]
    if (there) list.push(s)
    else list.splice(list.indexOf(s), 1)
  }
}
