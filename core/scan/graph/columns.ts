/** A solid component by itself: its pixels, the sums of their pixel and row numbers, its first row and its first pixel there. */
export interface LoneComponent {
  readonly pixels: number
  readonly sumX: number
  readonly sumY: number
  readonly row: number
  readonly pixel: number
}

/** What all columns add to every layer: how many there are, their pixels, sums for the centre, and pixels shared with the layer below. */
export interface ColumnTotals {
  readonly count: Float64Array
  readonly pixels: Float64Array
  readonly sumX: Float64Array
  readonly sumY: Float64Array
  readonly shared: Float64Array
}

/**
 * Stretches of supports that touch nothing but their own ends, layers [first, end): one component a layer that the graph does not
 * list. However tall, a column is one thing that goes from what is below it to what is above it.
 */
export interface Columns {
  readonly length: number
  readonly first: Int32Array
  readonly end: Int32Array
  /** The component of the layer below that it goes on from, numbered through all layers; −1 where it begins on nothing. */
  readonly below: Int32Array
  /** The component of layer `end` that goes on from it; −1 where it ends. */
  readonly above: Int32Array
  readonly totals: ColumnTotals
  /** What a column has in its first layer. */
  bottomOf(column: number): LoneComponent
}

export function newTotals(layers: number): ColumnTotals {
  return { count: new Float64Array(layers), pixels: new Float64Array(layers), sumX: new Float64Array(layers), sumY: new Float64Array(layers), shared: new Float64Array(layers) }
}

const NONE = new Int32Array(0)

export function noColumns(layers: number): Columns {
  return {
    length: 0, first: NONE, end: NONE, below: NONE, above: NONE, totals: newTotals(layers),
    bottomOf: () => {
      throw new Error('There are no columns.')
    },
  }
}
