import { z } from 'zod'
import type { PlatePoint, StandPoint } from './frames'

/** Every kind of thing that a person is to look at. */
export const FindingKindSchema = z.enum(['island', 'ledge', 'cup', 'sealed', 'pool', 'openings', 'narrow', 'floating', 'lost', 'near', 'gap', 'tips', 'thick', 'scar', 'lean', 'slender', 'forced', 'outside', 'overlap', 'between'])
export type FindingKind = z.infer<typeof FindingKindSchema>
/** Those that somebody may decide to leave as they are. */
export const WaivableKindSchema = FindingKindSchema.extract(['island', 'ledge', 'cup', 'sealed', 'pool', 'openings', 'narrow', 'floating', 'lost', 'near', 'gap', 'tips', 'thick', 'scar', 'lean', 'slender', 'forced'])
export type WaivableKind = z.infer<typeof WaivableKindSchema>

/** What it is to the scan: noted is what carries itself or is too small to ask for anything. */
export type FindingState = 'open' | 'partly' | 'held' | 'noted' | 'waived'
/** What hangs on an island: a few pixels, up to some mm³, more, or the whole part. */
export type IslandClass = 'flake' | 'detail' | 'limb' | 'body'
/** How a space ends that was shut against the film: where it joins the outside, closed over, or not at all. */
export type CupEnd = 'vent' | 'closed' | 'open'

/** A region of a layer that is printed on nothing. */
export interface Island {
  readonly id: number
  /** First layer, counted from 0, and the height of its middle above the plate. */
  readonly layer: number
  readonly zMm: number
  readonly areaMm2: number
  /** Centre of its first layer, stand coordinates. */
  readonly center: StandPoint
  /** Where a tip is to be aimed: on the surface, at its lowest part. */
  readonly aim: StandPoint
  /** The layer where it joins something heavier; null where it never does. */
  readonly joinsLayer: number | null
  /** What it gathers before it joins. */
  readonly volumeMm3: number
  readonly largestAreaMm2: number
  readonly class: IslandClass
  readonly state: FindingState
  /** Share of what is laid before it joins that lies within reach of held material: 0 to 1. */
  readonly heldShare: number
  /** Area of it that hangs: all that is laid while nothing connects it to the plate, and what is laid out of reach. */
  readonly hangingMm2: number
  /** Labels of its pieces of over-reach that hang. */
  readonly hanging: readonly number[]
  /** Its component among the solid components of all layers of the model. */
  readonly component: number
}

/** The place where a hole would let a cup breathe. */
export interface Vent {
  /** On the inner side of the wall, stand coordinates, and the way out. */
  readonly at: StandPoint
  readonly direction: readonly [number, number, number]
  readonly wallMm: number
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
  /** Estimate: vacuum on its largest layer, N. */
  readonly pullN: number
  /** A point of the space in its peak layer, stand coordinates. */
  readonly at: StandPoint
  /** Whether supports close it; the part alone would not. */
  readonly bySupports: boolean
  /** Whether it is open to the outside, but only through passages narrower than a vent. */
  readonly narrowVent: boolean
  /** Null where no wall is thin enough to ask for one, or while it is not known yet. */
  readonly vent: Vent | null
}

/** A space that several parts close on the plate. */
export type CupOnPlate = Omit<Cup, 'at'> & { readonly at: PlatePoint }

/** Resin that stays in the part as it hangs from the plate. */
export interface Pool {
  readonly id: number
  readonly firstLayer: number
  readonly lastLayer: number
  readonly volumeMm3: number
  readonly peakAreaMm2: number
  readonly at: StandPoint
}

/** A part of the stilts that hangs in the air when its first layer is printed. */
export interface FloatingStilt {
  readonly layer: number
  readonly center: StandPoint
}

/** A region that is attached to held material but reaches too far out from it, or a span that carries itself. */
export interface Ledge {
  readonly id: number
  /** A bridge is held on opposite sides that are near enough; all else is a ledge. */
  readonly kind: 'ledge' | 'bridge'
  readonly firstLayer: number
  readonly lastLayer: number
  /** Farthest that it reaches from what holds it, without supports. */
  readonly reachMm: number
  /** Area that hangs without supports, seen from above. */
  readonly areaMm2: number
  /** Where it is held on opposite sides: the distance between them where it is narrowest; null where it is not. */
  readonly spanMm: number | null
  /** Whether that distance is more than a span may have. */
  readonly wide: boolean
  /** Noted where it carries itself. */
  readonly state: FindingState
  /** Share of that area that supports bring within reach, 0 to 1; what carries itself is held whole. */
  readonly heldShare: number
  /** Area that still hangs, and how far it reaches. */
  readonly hangingMm2: number
  readonly hangingReachMm: number
  /** Its farthest point without supports, stand coordinates: what it is known by. */
  readonly at: StandPoint
  /** The farthest point of what still hangs; as `at` where nothing does. */
  readonly worst: StandPoint
  readonly hanging: readonly number[]
}

/** What a finding of each kind knows beside its place: a new kind is a name above and a line here. */
export interface FindingEvidence {
  island: { readonly island: Island }
  ledge: { readonly ledge: Ledge }
  cup: { readonly cup: Cup }
  sealed: { readonly cup: Cup }
  pool: { readonly pool: Pool }
  /** A hollow with fewer openings than its resin asks for. */
  openings: {
    /** Which hollow of the part, largest first, from 0. */
    readonly chamber: number
    readonly volumeMm3: number
    readonly count: number
    readonly wanted: number
  }
  /** An opening of a hollow that is narrower than its resin asks for. */
  narrow: {
    /** Id of the hole. */
    readonly hole: string
    readonly diameterMm: number
    readonly wantedMm: number
  }
  floating: object
  lost: AboutStilts & {
    /** Why it cannot stand, as a sentence. */
    readonly because: string
  }
  near: AboutStilts & {
    /** Between the two, mm; negative where they run through each other. */
    readonly gapMm: number
  }
  /** A stilt nearer to the part than its gauge asks for. */
  gap: AboutStilts & {
    readonly gapMm: number
    readonly limitMm: number
  }
  /** Two tips so near to each other that the resin webs between them. */
  tips: AboutStilts & {
    readonly gapMm: number
    readonly limitMm: number
  }
  /** A tip that is thicker than what it holds. */
  thick: AboutStilts & {
    readonly tipMm: number
    /** Of what it holds, along the tip or across it. */
    readonly thicknessMm: number
  }
  /** A tip on skin that is to show no scar, or that nothing may touch. */
  scar: AboutStilts & {
    readonly worth: 'prized' | 'off-limits'
    readonly areaMm2: number
  }
  lean: AboutStilts & {
    readonly leanDeg: number
    readonly limitDeg: number
  }
  /** A shaft that is long without a brace or a joint that holds it. */
  slender: AboutStilts & {
    readonly freeMm: number
    readonly limitMm: number
  }
  /** A stilt that somebody placed against advice. */
  forced: AboutStilts & {
    readonly because: string
  }
  outside: AboutCopies & {
    /** How far it reaches over the edge, and how far too high, mm. */
    readonly overMm: number
    readonly aboveMm: number
  }
  overlap: AboutCopies
  between: AboutCopies & { readonly cup: CupOnPlate }
}
interface AboutStilts {
  /** Ids of their tips. */
  readonly stilts: readonly string[]
}
interface AboutCopies {
  /** Ids of copies on the plate, and the names of their parts. */
  readonly copies: readonly string[]
  readonly names: readonly string[]
}

/** What there is to say about stilts as they stand. */
export const STILT_VERDICTS = ['gap', 'tips', 'thick', 'scar', 'lean', 'slender', 'forced'] as const satisfies readonly FindingKind[]
export type StiltVerdictKind = (typeof STILT_VERDICTS)[number]
export type StiltVerdict = { [K in StiltVerdictKind]: { readonly kind: K; readonly at: StandPoint } & FindingEvidence[K] }[StiltVerdictKind]

/** What it is to the person: something to do, something that stilts hold in part or whole, or something left as it is. */
export type ShownState = 'open' | 'partly' | 'settled' | 'waived'

/** A finding of one kind. Layers from 0, coordinates of the stand of the part on the bench, mm. */
export type FindingOf<K extends FindingKind> = {
  /** The same over scans while it is the same thing. */
  readonly key: string
  readonly kind: K
  readonly state: ShownState
  readonly layer: number
  readonly lastLayer: number
  readonly at: StandPoint
} & FindingEvidence[K]

/** A finding of any kind: `kind` tells which evidence it has. */
export type AnyFinding = { [K in FindingKind]: FindingOf<K> }[FindingKind]
