import type { AnyFinding, FindingEvidence, FindingKind, FindingOf, IslandClass, ShownState, StandPoint, StiltVerdict, Waiver } from '@oak-stilts/core/contract'
import type { ScanResult } from '@oak-stilts/core/scan'
import type { NearStilts, Stilt } from '@oak-stilts/core/stilts'

export type { FindingKind, ShownState }
export const STATES: readonly ShownState[] = ['open', 'partly', 'settled', 'waived']
export const STATE_NAMES: Record<ShownState, string> = { open: 'open', partly: 'partly held', settled: 'settled', waived: 'waived' }
export const CLASS_NAMES: Record<IslandClass, string> = { body: 'Body', limb: 'Limb', detail: 'Detail', flake: 'Flake' }

/** How a finding is told. */
interface Told {
  readonly name: string
  /** The figure that matters, with its unit. */
  readonly figure: string
  readonly waiver?: Waiver
}
/** A row of the worklist: a finding of one kind as it is told. */
export type Row<K extends FindingKind> = FindingOf<K> & Told
/** One row of the worklist, of any kind. */
export type Finding = AnyFinding & Told
type EvidenceName = { [K in FindingKind]: keyof FindingEvidence[K] }[FindingKind]
type EvidenceCalled<N extends EvidenceName> = Extract<FindingEvidence[FindingKind], Record<N, unknown>>[N]

/** A piece of evidence, where a finding of this kind has it. */
export function evidence<N extends EvidenceName>(f: Finding | null | undefined, name: N): EvidenceCalled<N> | undefined {
  return f && name in f ? (f as unknown as Record<N, EvidenceCalled<N>>)[name] : undefined
}

/** Something wrong with how copies stand on the plate, its place in the stand of the part on the bench. */
export type PlateTrouble = { [K in 'outside' | 'overlap' | 'between']: { readonly kind: K; readonly at: StandPoint; readonly layer: number } & FindingEvidence[K] }['outside' | 'overlap' | 'between']

/** What findings are made from. */
export interface FindingSource {
  readonly result: ScanResult | null
  readonly stilts: readonly Stilt[]
  readonly plate: readonly PlateTrouble[]
  readonly near: NearPairs
  /** What there is to say about stilts as they stand. */
  readonly verdicts: readonly StiltVerdict[]
  /** What is wrong with the openings of hollows. */
  readonly openings: OpeningTroubles
}

/** Hollows that have too few openings, and openings that are too narrow; in the stand. */
export interface OpeningTroubles {
  readonly few: readonly ({ readonly at: StandPoint } & FindingEvidence['openings'])[]
  readonly narrow: readonly ({ readonly at: StandPoint } & FindingEvidence['narrow'])[]
}
export const NO_OPENINGS: OpeningTroubles = { few: [], narrow: [] }

/** Pairs of stilts that are too near to each other, nearest first, and how many more there are. */
export interface NearPairs {
  readonly pairs: readonly NearStilts[]
  readonly more: number
}

/** Rows of a kind, and how many only count in its folded row. */
export interface KindRows<K extends FindingKind> {
  readonly findings: readonly Row<K>[]
  readonly folded?: number
}

/** Everything that a kind of finding is: one of these a kind, in the registry. */
export interface KindSpec<K extends FindingKind> {
  readonly name: string
  readonly plural: string
  /** Its shape in a box of 16 × 16, as an SVG path: shape first, colour second. */
  readonly symbol: { readonly path: string; readonly color: string }
  rows(from: FindingSource): KindRows<K>
  /** What its folded row is called, and why those in it are not listed one by one. */
  readonly folded?: { readonly name: string; readonly explains: string }
  /** Its place in the worklist: what is lost first, then what carries most. */
  weight(f: Row<K>): number
  /** Two sentences: why it matters, what usually helps. */
  advice(f: Row<K>): { readonly why: string; readonly help: string }
  facts(f: Row<K>): readonly (readonly [string, string])[]
  /** What it is called by itself, where that is not its name. */
  title?(f: Row<K>): string
  /** The group it is listed in, where the kind has several, and what that is called. */
  group?(f: Row<K>): { readonly key: string; readonly plural: string }
  /** What all of a group comes to. */
  sum?(findings: readonly Row<K>[]): string
  /** The place it is known by, whatever stilts have been placed under it since, where that is not its symbol's. */
  knownAt?(f: Row<K>): StandPoint
  /** How the layer track shows it: as a symbol, as the layers it takes, or as their outline; nothing where left out. */
  readonly track?: 'symbol' | 'layers' | 'outline'
  /** It is inside the part: to see it, the part is cut off at its widest layer. */
  readonly inside?: boolean
  /** What settles it at a press, where something obvious does. */
  readonly fix?: { readonly label: string; readonly forAll: string; readonly title: string }
  /** What helps where no stilt does; null where one does. */
  readonly noStilt: string | null
}

/** Volumes read in mm³ up to 1000, then in cm³. */
export function volumeText(mm3: number): string {
  return mm3 >= 1000 ? `${(mm3 / 1000).toFixed(2)} cm³` : mm3 >= 0.1 ? `${mm3.toFixed(2)} mm³` : `${mm3.toFixed(3)} mm³`
}
/** A share in percent, never rounded up to all. */
export function shareText(share: number): string {
  const percent = Math.min(share >= 1 ? 100 : 99.9, Math.round(share * 1000) / 10)
  return `${percent >= 99.5 && percent < 100 ? percent.toFixed(1) : percent.toFixed(0)} %`
}
export function mmText(mm: number): string {
  return `${mm.toFixed(2)} mm`
}
/** A place as part of a key. */
export function placeKey(at: StandPoint): string {
  return `${at[0].toFixed(1)}-${at[1].toFixed(1)}`
}
export const TILT_OR_VENT = 'No stilt helps here. Tilt the part, or vent it.'
