import { WORTHS, type PlanMeasures } from '@oak-stilts/core/contract'

/** A figure that plans are compared by. Less is better. */
export interface MeasureRow {
  readonly label: string
  readonly unit: string
  readonly explains: string
  of(m: PlanMeasures): number | null
  readonly digits: number
}

const CLASSES = { body: ['body', 'bodies'], limb: ['limb', 'limbs'], detail: ['detail', 'details'], flake: ['flake', 'flakes'] } as const
const sum = (values: readonly number[]): number => values.reduce((a, b) => a + b, 0)

/** Rows that any of the plans has something in; a row of zeros says nothing. */
export function rowsFor(plans: readonly PlanMeasures[]): MeasureRow[] {
  const all: MeasureRow[] = [
    { label: 'Open islands', unit: '', explains: 'Islands that hang, or are held in part', digits: 0, of: m => m.openIslands },
    { label: 'Open ledges', unit: '', explains: 'What juts out too far', digits: 0, of: m => m.openLedges },
    { label: 'Cups', unit: '', explains: 'Spaces that pull on the film', digits: 0, of: m => m.openCups },
    { label: 'Scars', unit: 'mm²', explains: 'Contact of all tips with the part', digits: 1, of: m => sum(Object.values(m.scarMm2)) },
    ...WORTHS.filter(w => w !== 'plain').map((w): MeasureRow => ({ label: `on ${w} skin`, unit: 'mm²', explains: 'Contact there', digits: 1, of: m => m.scarMm2[w] ?? 0 })),
    { label: 'Resin of stilts', unit: 'cm³', explains: 'What the supports add to the layers of the part', digits: 2, of: m => m.resinMm3 / 1000 },
    { label: 'Weakest tip', unit: '%', explains: 'Of what it can bear, an estimate', digits: 0, of: m => (m.weakest === null ? null : 100 * m.weakest) },
    { label: 'Sways by', unit: 'mm', explains: 'At the most while it is pulled off the film, an estimate', digits: 2, of: m => m.swayMm },
    { label: 'Tips', unit: '', explains: 'Where stilts touch the part', digits: 0, of: m => m.tips },
    { label: 'Feet', unit: '', explains: 'What stands on the plate, or on the part', digits: 0, of: m => m.feet },
  ]
  const always = new Set(['Open islands', 'Open ledges', 'Scars', 'Resin of stilts', 'Weakest tip', 'Sways by', 'Tips', 'Feet'])
  return all.filter(r => always.has(r.label) || plans.some(p => (r.of(p) ?? 0) > 0))
}

/** Open islands by what hangs on them, in words. */
export function classesOf({ openByClass }: PlanMeasures): string {
  return (Object.keys(CLASSES) as (keyof typeof CLASSES)[]).flatMap(c => (openByClass[c] ? [`${openByClass[c]} ${CLASSES[c][openByClass[c] === 1 ? 0 : 1]}`] : [])).join(', ')
}

/** Whether a plan has the least of a row, where the plans differ in it as it is written. Where there are no stilts there is nothing to be little. */
export function isLeast(row: MeasureRow, m: PlanMeasures, plans: readonly PlanMeasures[]): boolean {
  if (m.tips === 0) return false
  const written = plans.filter(p => p.tips > 0).flatMap(p => row.of(p) ?? []).map(v => Number(v.toFixed(row.digits))), own = row.of(m)
  return own !== null && new Set(written).size > 1 && Number(own.toFixed(row.digits)) === Math.min(...written)
}
