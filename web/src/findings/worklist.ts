import { WaivableKindSchema, waiverAt, type IslandClass, type PlatePoint, type SourcePoint, type StandPoint, type Waiver } from '@oak-stilts/core/contract'
import type { PlateCheck, PlateScanResult } from '@oak-stilts/core/plate'
import { FINDING_KINDS, kindOf, KINDS } from './registry'
import type { Finding, FindingKind, FindingSource, KindSpec, PlateTrouble, ShownState } from './types'

/** Which rows of the worklist are shown; null for all of a kind of thing. */
export interface Filter {
  readonly kinds: readonly FindingKind[] | null
  readonly classes: readonly IslandClass[] | null
  readonly states: readonly ShownState[]
}
export const OPEN_ONLY: readonly ShownState[] = ['open', 'partly']
export const NO_FILTER: Filter = { kinds: null, classes: null, states: OPEN_ONLY }

export function passes(f: Finding, filter: Filter): boolean {
  return filter.states.includes(f.state) && (!filter.kinds || filter.kinds.includes(f.kind)) && (!filter.classes || f.kind !== 'island' || filter.classes.includes(f.island.class))
}

export interface Worklist {
  readonly findings: Finding[]
  /** How many of a kind only count in its folded row. */
  readonly folded: ReadonlyMap<FindingKind, number>
  readonly open: number
}

/** Findings of one kind and class, worst first. */
export interface FindingGroup {
  readonly key: string
  readonly kind: FindingKind
  readonly plural: string
  readonly findings: readonly Finding[]
}

/** Findings in groups; those come in the order of their worst. */
export function groupsOf(findings: readonly Finding[]): FindingGroup[] {
  const groups = new Map<string, { key: string; kind: FindingKind; plural: string; findings: Finding[] }>()
  for (const f of findings) {
    const spec = kindOf(f), { key, plural } = spec.group?.(f) ?? { key: f.kind, plural: spec.plural }
    const group = groups.get(key)
    if (group) group.findings.push(f)
    else groups.set(key, { key, kind: f.kind, plural, findings: [f] })
  }
  return [...groups.values()]
}

/** What all of a group comes to; nothing where its kind has no sum. */
export function sumOf({ kind, findings }: FindingGroup): string {
  // all of a group are of its kind
  const spec = FINDING_KINDS[kind] as Pick<KindSpec<FindingKind>, 'plural'> & { sum?(of: readonly Finding[]): string }
  return spec.sum?.(findings) ?? ''
}

type ToSource = (at: StandPoint) => SourcePoint

/**
 * Everything that a person is to look at, worst first.
 * @param toSource from the stand of the part to its own coordinates, in which waivers are kept
 */
export function worklistOf(from: FindingSource, waivers: readonly Waiver[] = [], toSource: ToSource = ([x, y, z]) => [x, y, z]): Worklist {
  const made = new Map<FindingKind, { readonly findings: readonly Finding[]; readonly folded?: number }>(KINDS.map(kind => [kind, FINDING_KINDS[kind].rows(from)]))
  const findings = [...made.values()].flatMap(m => m.findings)
  const judged = waivers.length > 0 ? findings.map(f => waived(f, waivers, toSource)) : findings
  judged.sort((a, b) => kindOf(a).weight(a) - kindOf(b).weight(b))
  return { findings: judged, folded: new Map([...made].flatMap(([kind, { folded }]) => (folded ? [[kind, folded]] : []))), open: judged.filter(f => OPEN_ONLY.includes(f.state)).length }
}

/** What is wrong on the plate, as findings are made of it. @param toStand from the plate to where symbols are drawn */
export function troublesOf(check: PlateCheck | null, nameOf: (copy: string) => string, toStand: (at: PlatePoint) => StandPoint, layerMm: number, cups: PlateScanResult['cups'] = []): PlateTrouble[] {
  const layerOf = (at: readonly number[]): number => (layerMm > 0 ? Math.max(0, Math.floor(at[2] / layerMm)) : 0)
  return [
    ...(check?.outside ?? []).map(({ copy, at, overMm, aboveMm }): PlateTrouble => ({ kind: 'outside', copies: [copy], names: [nameOf(copy)], at: toStand(at), layer: layerOf(at), overMm, aboveMm })),
    ...cups.map(({ cup, copies }): PlateTrouble => ({ kind: 'between', copies, names: copies.map(nameOf), at: toStand(cup.at), layer: cup.firstLayer, cup })),
    ...(check?.overlaps ?? []).map(({ copies, at }): PlateTrouble => ({ kind: 'overlap', copies, names: copies.map(nameOf), at: toStand(at), layer: layerOf(at) })),
  ]
}

/** The place that a finding is known by, whatever stilts have been placed under it since. */
export function knownAt(f: Finding): StandPoint {
  return kindOf(f).knownAt?.(f) ?? f.at
}

function waived(f: Finding, waivers: readonly Waiver[], toSource: ToSource): Finding {
  const kind = WaivableKindSchema.safeParse(f.kind)
  if (!kind.success || f.state === 'settled') return f
  const waiver = waiverAt(waivers, kind.data, toSource(knownAt(f)))
  return waiver ? { ...f, state: 'waived', waiver } : f
}

/** Two sentences for a finding: why it matters, what usually helps. */
export function adviceFor(finding: Finding): { readonly why: string; readonly help: string } {
  if (finding.state === 'waived') return { why: `Left as it is: ${(finding.waiver?.reason ?? 'no reason given').replace(/\.$/, '')}.`, help: 'Take the waiver back if that no longer holds.' }
  return kindOf(finding).advice(finding)
}
