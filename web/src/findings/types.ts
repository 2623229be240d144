import type { FindingKind, Waiver } from '@oak-stilts/core/contract'
import type { Cup, Island, IslandClass, Ledge, Pool, ScanResult } from '@oak-stilts/core/scan'
import type { NearStilts, Stilt } from '@oak-stilts/core/stilts'

export type { FindingKind }
export type ShownState = 'open' | 'partly' | 'settled' | 'waived'
export const STATES: readonly ShownState[] = ['open', 'partly', 'settled', 'waived']
export const STATE_NAMES: Record<ShownState, string> = { open: 'open', partly: 'partly held', settled: 'settled', waived: 'waived' }
export const CLASS_NAMES: Record<IslandClass, string> = { body: 'Body', limb: 'Limb', detail: 'Detail', flake: 'Flake' }

type Point = readonly [number, number, number]

/** One row of the worklist. */
export interface Finding {
  readonly key: string
  readonly kind: FindingKind
  readonly state: ShownState
  readonly name: string
  /** The figure that matters, with its unit. */
  readonly figure: string
  /** First layer, from 0. */
  readonly layer: number
  readonly lastLayer: number
  readonly at: Point
  readonly island?: Island
  readonly ledge?: Ledge
  readonly cup?: Cup
  readonly pool?: Pool
  /** Ids of the stilts that it is about. */
  readonly stilts?: readonly string[]
  /** Gap between them, mm; negative where they run through each other. */
  readonly gapMm?: number
  readonly waiver?: Waiver
  /** Copies on the plate that it is about. */
  readonly copies?: readonly string[]
}

/** Something wrong with how copies stand on the plate, its place in the stand of the part on the bench. */
export interface PlateTrouble {
  readonly kind: 'outside' | 'overlap' | 'between'
  readonly copies: readonly string[]
  /** Names of their parts. */
  readonly names: readonly string[]
  readonly at: Point
  readonly layer: number
  /** How far over the edge, and how far too high, mm. */
  readonly overMm: number
  readonly aboveMm: number
  /** The space that several copies close together. */
  readonly cup?: Cup
}

/** What findings are made from. */
export interface FindingSource {
  readonly result: ScanResult | null
  readonly stilts: readonly Stilt[]
  readonly plate: readonly PlateTrouble[]
  readonly near: readonly NearStilts[]
}

/** Rows of a kind, and how many only count in a folded row. */
export interface KindRows {
  readonly findings: readonly Finding[]
  readonly folded?: number
}

/** Everything that a kind of finding is: one of these a kind, in the registry. */
export interface KindSpec {
  readonly name: string
  readonly plural: string
  /** Its shape in a box of 16 × 16, as an SVG path: shape first, colour second. */
  readonly mark: { readonly path: string; readonly color: string }
  rows(from: FindingSource): KindRows
  /** Its place in the worklist: what is lost first, then what carries most. */
  weight(f: Finding): number
  /** How far it may have moved from the place that was waived, mm; null where it cannot be waived. */
  readonly samePlaceMm: number | null
  /** Two sentences: why it matters, what usually helps. */
  advice(f: Finding): { readonly why: string; readonly help: string }
  facts(f: Finding): readonly (readonly [string, string])[]
  /** What it is called by itself, where that is not its name. */
  title?(f: Finding): string
  /** The group it is listed in, where the kind has several, and what that is called. */
  group?(f: Finding): { readonly key: string; readonly plural: string }
  /** What all of a group comes to. */
  sum?(findings: readonly Finding[]): string
  /** The place it is known by, whatever stilts have been placed under it since, where that is not its mark's. */
  knownAt?(f: Finding): Point
  /** How the layer track shows it: as a mark, as the layers it takes, or as their outline; nothing where left out. */
  readonly track?: 'mark' | 'layers' | 'outline'
  /** It is inside the part: to see it, the part is cut off at its widest layer. */
  readonly inside?: boolean
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
export function placeKey(at: Point): string {
  return `${at[0].toFixed(1)}-${at[1].toFixed(1)}`
}
export const TILT_OR_VENT = 'No stilt helps here. Tilt the part, or vent it.'
