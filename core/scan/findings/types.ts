import type { FloatingStilt, Island, Ledge } from '../../contract'
import type { Vec3 } from '../../mesh'
import type { LayerGraph } from '../graph/layer-graph'
import type { Raster } from '../raster/body'
import type { LedgeRecord } from '../reach/join-ledges'
import type { LoggedReach } from '../reach/reach-run'
import type { ScanSettings } from '../settings'
import type { SupportedGraph } from '../supports/supported-graph'
import type { JoinTree } from '../sweeps/join-tree'
import type { Grounded } from '../sweeps/grounding'

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
