import type { Columns, ColumnTotals } from '../graph/columns'
import { Int32List } from '../raster/growable'
import type { Section } from './support-section'
import type { SharedLayer } from './supported-update'

/** The stretches of sections that stand by themselves, between what was put together pixel by pixel. */
export function columnsOf(sections: readonly Section[], layers: readonly (SharedLayer | null)[], solidStarts: Int32Array, totals: ColumnTotals): Columns {
  const first = new Int32List(), end = new Int32List(), below = new Int32List(), above = new Int32List(), owners: Section[] = []
  /** The component of a section in a layer in which it is entangled; −1 where it is not there. */
  const entangledIn = (s: Section, k: number): number => {
    const c = s.entangled(k) ? layers[k]?.ofSection.get(s.id) : undefined
    return c === undefined || c < 0 ? -1 : solidStarts[k] + c
  }
  for (const s of sections) {
    const { stretches } = s
    for (let i = 0; i < stretches.length; i += 2) {
      const from = stretches[i], to = stretches[i + 1]
      first.push(from)
      end.push(to)
      below.push(from > 0 && s.overlap[from - s.first] > 0 ? entangledIn(s, from - 1) : -1)
      above.push((s.overlap[to - s.first] ?? 0) > 0 ? entangledIn(s, to) : -1)
      owners.push(s)
    }
  }
  return { length: owners.length, first: first.toArray(), end: end.toArray(), below: below.toArray(), above: above.toArray(), totals, bottomOf: i => owners[i].component(first.data[i]) }
}
