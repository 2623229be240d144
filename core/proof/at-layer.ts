import type { Vec3 } from '../mesh'
import { areasOf, heldBy, type Held } from './loaded'
import { stiltNumbers, type Proven } from './prove'
import { pullsOf, strengthOf, type EndStrength, type Pieces, type SupportFrame } from './strength'

/** What hangs together of the part and is laid in a layer. */
export interface LaidPiece {
  readonly areaMm2: number
  /** What the film pulls at it in that layer, its cups with it, N. Estimate. */
  readonly pullN: number
  readonly onPlate: boolean
  /** Whether supports hold it in every direction by then, and by how many ends. */
  readonly held: boolean
  readonly ends: number
}

/** An end of a support that carries something of a layer. Loads are estimates. */
export interface CarryingEnd {
  readonly id: string
  readonly stilt: number
  readonly kind: 'tip' | 'foot'
  readonly at: Vec3
  readonly diameterMm: number
  /** Load in that layer over what it can bear. */
  readonly share: number
  readonly pulledN: number
}

/** Something that changes from one layer to the next. */
export interface LayerEvent {
  readonly kind: 'begins' | 'joins' | 'wider' | 'closes' | 'opens' | 'held'
  readonly layer: number
  readonly sentence: string
  readonly at: Vec3 | null
}

/** A layer of a part on its supports: what it pulls, what carries that, and what changed in the layers before it. */
export interface LayerProof {
  readonly layer: number
  readonly areaMm2: number
  readonly pullN: number
  /** What the layer in the middle of all by their pull pulls. */
  readonly middleN: number
  /** The largest first. */
  readonly pieces: readonly LaidPiece[]
  /** The weakest first. */
  readonly ends: readonly CarryingEnd[]
  /** The latest first. */
  readonly before: readonly LayerEvent[]
}

/** How far under a layer is looked for what changed, mm. */
const BEFORE_MM = 2
/** What is laid grows suddenly where a layer has so many times the area of the one under it, and so much more, mm². Our own choice. */
const WIDER = 1.15, WIDER_MM2 = 4
/** What is smaller than that is no piece of its own to speak of, mm². */
const SPOKEN_MM2 = 0.05

/**
 * Looks into one layer of a part with its supports. A layer carries no more than what hangs together with it: tips under what is finished
 * elsewhere, or is not laid yet, are not among its ends.
 * @throws Error for a scan that has not ended
 */
export function lookAtLayer(of: Held & Pick<Proven, 'surface' | 'result'>, layer: number): LayerProof {
  const { scan, index, part, surface, resin, result } = of, { graph, pieces, middle, film, supports } = heldBy(of), { pixelMm } = scan.raster, k = Math.max(0, Math.min(graph.layerCount - 1, Math.round(layer)))
  const pulls = pullsOf(pieces, film, k), laid = new Map<number, { areaMm2: number; pullN: number }>()
  for (let i = pieces.laid.starts[k]; i < pieces.laid.starts[k + 1]; i++) laid.set(pieces.laid.piece[i], { areaMm2: pieces.laid.pixels[i] * pixelMm * pixelMm, pullN: 0 })
  for (const p of pulls) {
    const piece = laid.get(p.piece)
    if (piece) piece.pullN += p.pullN
  }
  const held = new Map<number, { held: boolean; ends: number }>()
  const { ends } = strengthOf(graph, supports, pieces, areasOf(supports, surface), film, resin, middle, new Set([k]), holding => {
    for (const p of laid.keys()) held.set(p, { held: holding.holds(p), ends: holding.endsByPiece.get(p) ?? 0 })
  })
  return {
    layer: k, areaMm2: [...laid.values()].reduce((sum, p) => sum + p.areaMm2, 0), pullN: pulls.reduce((sum, p) => sum + p.pullN, 0), middleN: middlePull(pieces, film),
    pieces: [...laid].map(([p, { areaMm2, pullN }]): LaidPiece => ({ areaMm2, pullN, onPlate: pieces.list[p].onPlate, ...(held.get(p) ?? { held: pieces.list[p].onPlate, ends: 0 }) })).sort((a, b) => b.areaMm2 - a.areaMm2),
    ends: carrying(supports, ends.filter(e => e.layer === k), stiltNumbers(index, part)),
    before: [...changesOf(pieces, supports, scan.raster, k, stiltNumbers(index, part)), ...cupChanges(result, k, scan.raster.layerMm)].sort((a, b) => b.layer - a.layer),
  }
}

function middlePull(pieces: Pieces, film: Parameters<typeof pullsOf>[1]): number {
  const all = Array.from({ length: pieces.laid.starts.length - 1 }, (_, k) => pullsOf(pieces, film, k).reduce((sum, p) => sum + p.pullN, 0)).filter(n => n > 0).sort((a, b) => a - b)
  return all[all.length >> 1] ?? 0
}

function carrying(supports: readonly SupportFrame[], ends: readonly EndStrength[], numberOf: ReadonlyMap<string, number>): CarryingEnd[] {
  const holds = new Map(supports.flatMap(s => s.holds.map(h => [h.id, { node: s.nodes[h.node], at: h.at }] as const)))
  return ends.flatMap(({ id, share, pulledN }): CarryingEnd[] => {
    const hold = holds.get(id)
    if (!hold || (hold.node.kind !== 'tip' && hold.node.kind !== 'foot')) return []
    const { node, at } = hold, tip = node.kind === 'tip'
    return [{ id, stilt: numberOf.get(id) ?? 0, kind: tip ? 'tip' : 'foot', at, diameterMm: tip ? node.fitted.tipDiameterMm : node.fitted.footDiameterMm, share, pulledN }]
  }).sort((a, b) => b.share - a.share)
}

/** What begins, comes together, is taken hold of and grows suddenly in the layers up to one. */
function changesOf({ list, laid }: Pieces, supports: readonly SupportFrame[], { pixelMm, layerMm }: { readonly pixelMm: number; readonly layerMm: number }, k: number, numberOf: ReadonlyMap<string, number>): LayerEvent[] {
  const from = Math.max(1, k - Math.round(BEFORE_MM / layerMm)), out: LayerEvent[] = [], areas = new Float64Array(k + 1)
  const holders = new Map<number, { readonly layer: number; readonly stilt: number }[]>(), own = new Map<number, { mm2: number; at: Vec3 }[]>()
  for (const s of supports) for (const h of s.holds) if (h.piece >= 0) holders.set(h.piece, [...(holders.get(h.piece) ?? []), { layer: h.layer, stilt: numberOf.get(h.id) ?? 0 }])
  for (let l = Math.max(0, from - 1); l <= k; l++) {
    for (let i = laid.starts[l]; i < laid.starts[l + 1]; i++) {
      const mm2 = laid.pixels[i] * pixelMm * pixelMm, p = laid.piece[i]
      areas[l] += mm2
      own.set(p, [...(own.get(p) ?? []), { mm2, at: [(laid.sumX[i] / laid.pixels[i] + 0.5) * pixelMm, (laid.sumY[i] / laid.pixels[i] + 0.5) * pixelMm, (l + 0.5) * layerMm] }])
    }
  }
  for (const [p, steps] of own) {
    const { firstLayer, joins, joinsIn } = list[p], most = Math.max(...steps.map(s => s.mm2))
    if (most < SPOKEN_MM2 || list[p].onPlate) continue
    if (firstLayer >= from) {
      const by = (holders.get(p) ?? []).filter(h => h.layer <= firstLayer + 1)
      out.push({ kind: 'begins', layer: firstLayer, at: steps[0].at, sentence: `${steps[0].mm2.toFixed(2)} mm² begins, ${by.length > 0 ? `on ${by.length === 1 ? `stilt ${by[0].stilt}` : `${by.length} stilts`}` : 'and nothing holds it'}${joins >= 0 && joinsIn <= k ? `; it joins in layer ${joinsIn + 1}` : ''}.` })
    } else if (joins >= 0 && joinsIn <= k) out.push({ kind: 'joins', layer: joinsIn, at: steps[steps.length - 1].at, sentence: `${steps[steps.length - 1].mm2.toFixed(1)} mm² that was by itself joins what is larger.` })
  }
  for (let l = from; l <= k; l++) {
    if (areas[l - 1] > 0 && areas[l] >= WIDER * areas[l - 1] && areas[l] - areas[l - 1] >= WIDER_MM2) out.push({ kind: 'wider', layer: l, at: null, sentence: `What is laid grows at once from ${areas[l - 1].toFixed(1)} to ${areas[l].toFixed(1)} mm².` })
  }
  // tips that take hold of what was there already
  const later = supports.flatMap(s => s.holds.filter(h => h.piece >= 0 && h.layer >= from && h.layer <= k && list[h.piece].firstLayer + 1 < h.layer)), layers = new Map<number, number[]>()
  for (const h of later) layers.set(h.layer, [...(layers.get(h.layer) ?? []), numberOf.get(h.id) ?? 0])
  for (const [l, stilts] of layers) out.push({ kind: 'held', layer: l, at: null, sentence: `${stilts.length === 1 ? `Stilt ${stilts[0]} takes` : `${stilts.length} stilts take`} hold.` })
  return out
}

/** Cups that begin or end in the layers up to one. */
function cupChanges({ cups }: Proven['result'], k: number, layerMm: number): LayerEvent[] {
  const from = k - Math.round(BEFORE_MM / layerMm), within = (layer: number): boolean => layer >= from && layer <= k
  return cups.flatMap((c): LayerEvent[] => [
    ...(within(c.firstLayer) ? [{ kind: 'closes' as const, layer: c.firstLayer, at: [c.at[0], c.at[1], c.at[2]] as Vec3, sentence: `A space begins that pulls like a cup, up to ${c.pullN.toFixed(1)} N.` }] : []),
    ...(within(c.lastLayer) && c.lastLayer > c.firstLayer ? [{ kind: 'opens' as const, layer: c.lastLayer, at: [c.at[0], c.at[1], c.at[2]] as Vec3, sentence: 'A space that pulled like a cup ends.' }] : []),
  ])
}
