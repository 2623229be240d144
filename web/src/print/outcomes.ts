import type { Print, Symptom } from '@oak-stilts/core/contract'

export const SYMPTOMS: readonly { readonly id: Symptom; readonly name: string }[] = [
  { id: 'missing', name: 'A piece is missing' }, { id: 'broken', name: 'Supports broke' }, { id: 'stuck', name: 'It stayed on the film' }, { id: 'nothing', name: 'Nothing was on the plate' },
  { id: 'shift', name: 'Layers are shifted' }, { id: 'wobble', name: 'Walls are wavy' }, { id: 'fused', name: 'Supports grew together' },
]

/** How a print came out, in a few words. */
export function outcomeText({ outcome, facts }: Pick<Print, 'outcome' | 'facts'>): string {
  if (!outcome) return 'not said yet'
  if (outcome.kind === 'good') return 'came out'
  const copies = facts.parts.reduce((n, p) => n + p.copies.length, 0), of = outcome.copies.length > 0 && outcome.copies.length < copies ? `, ${outcome.copies.length} of ${copies}` : ''
  return `failed${outcome.layer === null ? '' : ` at layer ${(outcome.layer + 1).toLocaleString('en')}, ${((outcome.layer + 0.5) * facts.layerMm).toFixed(1)} mm`}${of}`
}

export function dayText(at: string): string {
  return new Date(at).toLocaleDateString('en', { day: 'numeric', month: 'short', year: 'numeric' })
}
