import { labelOf, layerOfLabel, pieceOfLabel, type LayerReach, type ReachPiece } from './reach-pieces'

/** Over-reach that hangs together through the layers; lengths and areas in pixels. */
export interface LedgeRecord {
  readonly firstLayer: number
  /** The last layer that adds to it. */
  readonly lastLayer: number
  /** Pixels laid over reach, and those of them that lie in a span held on opposite sides. */
  readonly pixels: number
  readonly bridged: number
  /** Farthest from what holds it, and where. */
  readonly reach: number
  readonly row: number
  readonly pixel: number
  readonly layer: number
  /** Narrowest place where fronts from opposite sides met; 0 where none did. */
  readonly span: number
  readonly sumX: number
  readonly sumY: number
  /** Its pieces: label and pixels that hang. */
  readonly pieces: readonly { readonly label: number; readonly hanging: number }[]
}

/** Puts the pieces of all layers together. `layers` may have gaps where a layer adds nothing. */
export function joinLedges(layers: readonly (LayerReach | null | undefined)[]): LedgeRecord[] {
  const parent = new Map<number, number>()
  const find = (i: number): number => {
    let root = i
    for (let up = parent.get(root); up !== undefined && up !== root; up = parent.get(root)) root = up
    for (let at = i; at !== root;) {
      const up = parent.get(at) as number
      parent.set(at, root)
      at = up
    }
    return root
  }
  const closed = new Map<number, number>()
  layers.forEach((layer, k) => {
    layer?.pieces.forEach((piece, i) => {
      const label = labelOf(k, i)
      parent.set(label, label)
      for (const from of piece.from) {
        if (!parent.has(from)) continue
        const a = find(from), b = find(label)
        if (a < b) parent.set(b, a)
        else parent.set(a, b)
      }
    })
    layer?.closed.forEach(([label, n]) => closed.set(label, (closed.get(label) ?? 0) + n))
  })
  const groups = new Map<number, number[]>()
  for (const label of parent.keys()) {
    const root = find(label)
    const list = groups.get(root)
    if (list) list.push(label)
    else groups.set(root, [label])
  }
  return [...groups.values()].map(labels => recordOf(labels, layers, closed)).sort((a, b) => a.firstLayer - b.firstLayer || a.row - b.row || a.pixel - b.pixel)
}

function recordOf(labels: readonly number[], layers: readonly (LayerReach | null | undefined)[], closed: ReadonlyMap<number, number>): LedgeRecord {
  return measured(labels.map(label => {
    const piece = (layers[layerOfLabel(label)] as LayerReach).pieces[pieceOfLabel(label)]
    return { label, hanging: piece.pixels - Math.min(piece.pixels, piece.bridged + (closed.get(label) ?? 0)) }
  }), layers)
}

/** Those pieces of a record that are asked for as a record of their own; null where there are none. */
export function partOfRecord(r: LedgeRecord, layers: readonly (LayerReach | null | undefined)[], wanted: (label: number) => boolean): LedgeRecord | null {
  const pieces = r.pieces.filter(p => wanted(p.label))
  return pieces.length === 0 ? null : pieces.length === r.pieces.length ? r : measured(pieces, layers)
}

function measured(pieces: LedgeRecord['pieces'], layers: readonly (LayerReach | null | undefined)[]): LedgeRecord {
  let firstLayer = Infinity, lastLayer = -1, pixels = 0, bridged = 0, span = 0, sumX = 0, sumY = 0
  let deepest: { piece: ReachPiece; layer: number } | null = null
  for (const { label, hanging } of pieces) {
    const layer = layerOfLabel(label)
    const piece = (layers[layer] as LayerReach).pieces[pieceOfLabel(label)]
    firstLayer = Math.min(firstLayer, layer)
    lastLayer = Math.max(lastLayer, layer)
    pixels += piece.pixels
    bridged += piece.pixels - hanging
    sumX += piece.sumX
    sumY += piece.sumY
    if (piece.span > 0 && (span === 0 || piece.span < span)) span = piece.span
    if (!deepest || piece.reach > deepest.piece.reach || (piece.reach === deepest.piece.reach && layer < deepest.layer)) deepest = { piece, layer }
  }
  const { piece, layer } = deepest as unknown as { piece: ReachPiece; layer: number }
  return { firstLayer, lastLayer, pixels, bridged, reach: piece.reach, row: piece.row, pixel: piece.pixel, layer, span, sumX, sumY, pieces }
}
