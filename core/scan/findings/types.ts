import type { Vec3 } from '../../mesh'
import type { LayerGraph } from '../graph/layer-graph'
import type { Raster } from '../raster/body'
import type { LedgeRecord } from '../reach/join-ledges'
import type { LoggedReach } from '../reach/reach-run'
import type { ScanSettings } from '../settings'
import type { SupportedGraph } from '../supports/supported-graph'
import type { IslandClass } from '../sweeps/classes'
import type { JoinTree } from '../sweeps/join-tree'
import type { Grounded } from '../sweeps/grounding'
import type { CupEnd } from '../sweeps/suction'

export type FindingState = 'open' | 'partly' | 'held' | 'noted' | 'waived'

/** A region of a layer that is printed on nothing. */
export interface Island {
  readonly id: number
  /** First layer, counted from 0, and the height of its middle above the plate. */
  readonly layer: number
  readonly zMm: number
  readonly areaMm2: number
  /** Centre of its first layer, build coordinates. */
  readonly center: Vec3
  /** Where a tip is to be aimed: on the surface, at its lowest part. */
  readonly aim: Vec3
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
  /** On the inner side of the wall, build coordinates, and the way out. */
  readonly at: Vec3
  readonly direction: Vec3
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
  /** A point of the space in its peak layer, build coordinates. */
  readonly at: Vec3
  /** Whether supports close it; the part alone would not. */
  readonly bySupports: boolean
  /** Whether it is open to the outside, but only through passages narrower than a vent. */
  readonly choked: boolean
  /** Null where no wall is thin enough to ask for one, or while it is not known yet. */
  readonly vent: Vent | null
}

/** Resin that stays in the part as it hangs from the plate. */
export interface Pool {
  readonly id: number
  readonly firstLayer: number
  readonly lastLayer: number
  readonly volumeMm3: number
  readonly peakAreaMm2: number
  readonly at: Vec3
}

/** A part of the stilts that hangs in the air when its first layer is printed. */
export interface FloatingStilt {
  readonly layer: number
  readonly center: Vec3
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
  /** Its farthest point without supports, build coordinates: what it is known by. */
  readonly at: Vec3
  /** The farthest point of what still hangs; as `at` where nothing does. */
  readonly worst: Vec3
  readonly hanging: readonly number[]
}

/** Over-reach of the model alone: what supports are to hold. */
export interface OwnReach {
  readonly log: readonly (LoggedReach | null)[]
  readonly records: readonly LedgeRecord[]
}

/** All that a scan knows when findings are made of it. */
export interface Evidence {
  readonly raster: Raster
  readonly settings: ScanSettings
  /** Graph and tree of the model alone. */
  readonly own: LayerGraph
  readonly tree: JoinTree
  readonly aims: readonly Vec3[]
  /** Flakes that never join and yet lie within a pixel of the rest. */
  readonly grazing: ReadonlySet<number>
  /** Graph of model and supports. */
  readonly graph: LayerGraph
  readonly whole: SupportedGraph | null
  readonly reach: readonly (LoggedReach | null)[]
  /** Over-reach of the model alone; null while it is not known. */
  readonly ownReach: OwnReach | null
}

/** What hangs but asks for nothing by itself, mm²: each a folded row. */
export interface Folded {
  /** Flakes that join at once. */
  readonly flakesMm2: number
  /** Over-reach too small for the list: in how many places, and its area. */
  readonly smallPlaces: number
  readonly smallMm2: number
  /** What is left of findings that are held and of spans that carry themselves: less than a flake each, or a ragged edge. */
  readonly restMm2: number
}

export interface Hangs {
  readonly islands: Island[]
  readonly floating: FloatingStilt[]
  readonly ledges: Ledge[]
  readonly folded: Folded
  readonly grounded: Grounded
  /** Area that hangs, by layer, mm². */
  readonly hangingMm2: Float64Array
}
