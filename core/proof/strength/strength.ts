import type { Resin } from '../../contract'
import { releaseStressAt, type LayerGraph, type Loads, type Raster, type Suction } from '../../scan'
import type { Vec3 } from '../../mesh'
import { BLOCK, SIZE } from '../frame/block'
import type { HoldingEnd } from './grip-states'
import type { ByPiece } from './group'
import { Holding } from './holding'
import type { Pieces } from './pieces'
import { borneBy, PARTS, tipShareOf, worstForce, type Borne, type Cases } from './sections'
import type { SupportFrame } from './supports'

/** What strength is estimated from. */
export type StrengthResin = Pick<Resin, 'plungeStressNMm2' | 'greenStrengthNMm2' | 'greenModulusNMm2' | 'margin'>

/** What is smaller than one tip holds around itself (2 mm) is carried by it, and its sway is not looked at, mm². */
export const SWAYS_FROM_MM2 = 4 * Math.PI
/**
 * So many ends balance what pulls at a piece off its middle by pulling and pressing alone: then a tip that is bent turns a little, and that is
 * all. Of fewer, bending is what balances it.
 */
export const FREE_ENDS = 3
/** Directions from which it may come. */
export const SIDES = 8

/** The worst that an end of a support bears, and in which layer. */
export interface EndStrength {
  /** The node of the plan. */
  readonly id: string
  /** Load over capacity; over 1 it breaks. */
  readonly share: number
  readonly layer: number
  readonly borne: Borne
  /** The largest pull and push along it, N. */
  readonly pulledN: number
  readonly pressedN: number
}

/** One number a layer. */
export interface StrengthLanes {
  /** What the film and the cups pull at the model, N. */
  readonly pullN: Float64Array
  /** What could be pulled there before the weakest end breaks, N; NaN where nothing is loaded. */
  readonly canN: Float64Array
  /** How far the largest of what is laid moves sideways under the side pull from its softest side, mm; NaN where all of it is small. */
  readonly swayMm: Float64Array
  /** From where that is, degrees from x to y. */
  readonly softDeg: Float64Array
}

export interface Strength {
  readonly ends: readonly EndStrength[]
  readonly lanes: StrengthLanes
  /** Pieces that nothing holds in some layer that loads them, and the first such layer. */
  readonly loose: readonly { readonly piece: number; readonly layer: number; readonly areaMm2: number }[]
}

/** How a film loads the layers: by what is laid of each piece, and by the spaces that pull. */
export interface FilmLoads {
  readonly raster: Raster
  readonly loads: Loads
  /** How much of what a layer pulls comes from a side. */
  readonly sideShare: number
  /** Spaces that pull like a cup, by layer; left out where there are none. */
  readonly cups?: ReadonlyMap<number, readonly CupPull[]>
}

/** What a cup pulls in a layer, N, at its widest gap, mm, and the piece around it: the largest of the layer where that is not known. */
export interface CupPull {
  readonly piece: number | null
  readonly pullN: number
  readonly at: Vec3
}
type Cups = { readonly graph: Pick<LayerGraph, 'emptyStarts' | 'emptyPixels' | 'emptyInRow' | 'emptyInPixel'>; readonly suction: Pick<Suction, 'cupOf'> }

/** What the cups of a graph pull, by layer. @param pieceOf the piece around a space of the graph, by its number */
export function cupPulls({ graph: { emptyStarts, emptyPixels, emptyInRow, emptyInPixel }, suction: { cupOf } }: Cups, { pixelMm, layerMm }: Raster, { cupVacuumNMm2 }: Loads, pieceOf?: ReadonlyMap<number, number>): Map<number, CupPull[]> {
  const out = new Map<number, CupPull[]>()
  for (let layer = 0; layer + 1 < emptyStarts.length; layer++) {
    const cups: CupPull[] = []
    for (let e = emptyStarts[layer]; e < emptyStarts[layer + 1]; e++) {
      if (cupOf[e] >= 0) cups.push({ piece: pieceOf?.get(e) ?? null, pullN: emptyPixels[e] * pixelMm * pixelMm * cupVacuumNMm2, at: [(emptyInPixel[e] + 0.5) * pixelMm, (emptyInRow[e] + 0.5) * pixelMm, (layer + 1) * layerMm] })
    }
    if (cups.length > 0) out.set(layer, cups)
  }
  return out
}

/** What the film pulls at a piece in a layer, N, and where; how much of it what is laid there pulls and not a cup; and how much may come from a side. */
export interface Pull {
  readonly piece: number
  readonly pullN: number
  readonly laidN: number
  readonly sideN: number
  readonly at: Vec3
}

/**
 * What the film pulls at each piece of a layer: at the middle of what is laid of it; and the vacuum of each cup, at its widest gap, on the
 * piece around it.
 */
export function pullsOf(pieces: Pieces, { raster: { pixelMm, layerMm }, loads, sideShare, cups }: FilmLoads, layer: number): Pull[] {
  const { starts, piece, pixels, sumX, sumY } = pieces.laid, stress = releaseStressAt(loads, layer), out: Pull[] = []
  for (let i = starts[layer]; i < starts[layer + 1]; i++) {
    const at: Vec3 = [(sumX[i] / pixels[i] + 0.5) * pixelMm, (sumY[i] / pixels[i] + 0.5) * pixelMm, (layer + 1) * layerMm]
    const pullN = pixels[i] * pixelMm * pixelMm * stress
    out.push({ piece: piece[i], pullN, laidN: pullN, sideN: pullN * sideShare, at })
  }
  const own = out.length === 0 ? undefined : cups?.get(layer)
  if (!own) return out
  const largest = out.reduce((a, b) => (b.pullN > a.pullN ? b : a)).piece
  for (const { piece, pullN, at } of own) out.push({ piece: piece ?? largest, pullN, laidN: 0, sideN: 0, at })
  return out
}

/** What the plate pushes down with, as a share of what is pulled in a layer: cups push nothing then. */
export function plungeShare(pulls: readonly Pull[], stressNMm2: number, { plungeStressNMm2 }: StrengthResin): number {
  const pulled = pulls.reduce((sum, p) => sum + p.pullN, 0), laid = pulls.reduce((sum, p) => sum + p.laidN, 0)
  return pulled > 0 && stressNMm2 > 0 ? (plungeStressNMm2 / stressNMm2) * (laid / pulled) : 0
}

/** Shares of the peel, and of the side pull along x and y, that are looked at: the plate going down; going up from no side, and from eight. */
export function casesOf(plunge: number): Cases {
  const out = Float64Array.from(GOING_UP)
  out[0] = -plunge
  return out
}
const GOING_UP = [0, 0, 0, 1, 0, 0, ...Array.from({ length: SIDES }, (_, i) => [1, Math.cos((2 * Math.PI * i) / SIDES), Math.sin((2 * Math.PI * i) / SIDES)]).flat()]

/** Cases that loads are told for: the side pull along x and along y, and the peel. */
export const CASES = 3
const UP = 2 * SIZE

/** Loads of the pieces by what is pulled at each, in the three cases. */
export function loadsOf(holding: Holding, pulls: readonly Pull[]): ByPiece {
  const out = new Map<number, Float64Array>()
  for (const { piece, pullN, sideN, at } of pulls) {
    let sum = out.get(piece)
    if (!sum) out.set(piece, (sum = new Float64Array(CASES * SIZE)))
    // each a force and its moment about the middle
    const x = at[0] - holding.middle[0], y = at[1] - holding.middle[1], z = at[2] - holding.middle[2]
    sum[0] += sideN
    sum[4] += z * sideN
    sum[5] -= y * sideN
    sum[SIZE + 1] += sideN
    sum[SIZE + 3] -= z * sideN
    sum[SIZE + 5] += x * sideN
    sum[UP + 2] += pullN
    sum[UP + 3] += y * pullN
    sum[UP + 4] -= x * pullN
  }
  return out
}

/**
 * What an end is pushed with by pieces that move, in the three cases; or the forces of it only, which is half the work. Gives whether any of
 * them moves.
 */
export function pushOnEnd({ end, presses }: HoldingEnd, motions: ByPiece, out: Float64Array, forceOnly: boolean): boolean {
  let moves = false
  for (let i = 0; i < CASES * SIZE; i++) out[i] = 0
  for (let n = 0; n < presses.length; n++) {
    const motion = motions.get(presses[n][0]), blocks = presses[n][1], from = BLOCK * end
    if (!motion) continue
    moves = true
    for (let c = 0; c < CASES * SIZE; c += SIZE) {
      for (let r = 0; r < (forceOnly ? 3 : SIZE); r++) {
        const at = from + SIZE * r
        out[c + r] += blocks[at] * motion[c] + blocks[at + 1] * motion[c + 1] + blocks[at + 2] * motion[c + 2] + blocks[at + 3] * motion[c + 3] + blocks[at + 4] * motion[c + 4] + blocks[at + 5] * motion[c + 5]
      }
    }
  }
  return moves
}

/** The six numbers of a case that is made of the three. @param from where its shares stand */
export function mixed(three: Float64Array, cases: Cases, from: number, out: Float64Array): Float64Array {
  const up = cases[from], x = cases[from + 1], y = cases[from + 2]
  for (let d = 0; d < SIZE; d++) out[d] = up * three[UP + d] + x * three[d] + y * three[SIZE + d]
  return out
}

/**
 * Goes through all layers, from the last down: what the film pulls at each piece, which ends hold it by then, and what each of them bears,
 * shared by how supports resist; with a side pull from eight sides, and with the plate going down. Estimates.
 * @param areas contact of every end, by support and end, mm²
 * @param only layers that are looked at; all where left out
 * @param seen called in each of them with how pieces move there
 */
export function strengthOf(graph: Pick<LayerGraph, 'layerCount'>, supports: readonly SupportFrame[], pieces: Pieces, areas: readonly (readonly number[])[], film: FilmLoads, resin: StrengthResin, middle: Vec3, only?: ReadonlySet<number>, seen?: (holding: Holding, motions: ByPiece, layer: number, plunge: number) => void): Strength {
  const holding = new Holding(supports, pieces, middle), lanes = emptyLanes(graph.layerCount)
  const worst = supports.map(s => s.holds.map(() => ({ share: 0, layer: -1, borne: { alongN: 0, acrossN: 0, bentNmm: 0 }, pulledN: 0, pressedN: 0 })))
  const loose = new Map<number, { piece: number; layer: number; areaMm2: number }>()
  const three = new Float64Array(CASES * SIZE), six = new Float64Array(SIZE)
  let motions: ByPiece = new Map(), counts: ReadonlyMap<number, number> = new Map(), cases: Cases = new Float64Array(0), plunge = 0, most = 0
  /** What an end bears in a layer. */
  const load = (e: HoldingEnd, k: number): void => {
    const { support: s, end: i } = e, balances = (counts.get(e.piece) ?? 0) < FREE_ENDS
    // bending counts only where it is what balances the load
    if (!pushOnEnd(e, motions, three, !balances)) return
    const end = worst[s][i], area = areas[s][i], { axis } = supports[s].holds[i], upN = alongOf(three, UP, axis), alongX = alongOf(three, 0, axis), alongY = alongOf(three, SIZE, axis), sideN = Math.sqrt(alongX * alongX + alongY * alongY)
    end.pulledN = Math.max(end.pulledN, upN + sideN, -plunge * upN)
    end.pressedN = Math.max(end.pressedN, sideN - upN, plunge * upN)
    if (!balances) {
      // no case is worse than all of them from their worst sides: what is across counts √3 times (von Mises)
      if (Math.sqrt(3) * mostOfThree(three, 0, plunge) <= Math.min(most, end.share) * area * resin.greenStrengthNMm2) return
      const worstHere = worstForce(three, axis, cases, area, resin.greenStrengthNMm2)
      most = Math.max(most, worstHere)
      if (worstHere <= end.share) return
      pushOnEnd(e, motions, three, false)
    }
    for (let n = 0; n < cases.length; n += PARTS) {
      const borne = borneBy(mixed(three, cases, n, six), axis), share = tipShareOf(borne, area, resin.greenStrengthNMm2, balances)
      most = Math.max(most, share)
      if (share > end.share) Object.assign(end, { share, layer: k, borne })
    }
  }
  for (const layer of layersUnder(holding, graph.layerCount, pieces, film, resin, only)) {
    const { layer: k } = layer
    for (const pull of layer.pulls) lanes.pullN[k] += pull.pullN
    for (const { piece, pullN, laidN } of layer.pulls) if (laidN > 0 && !holding.holds(piece)) loose.set(piece, { piece, layer: k, areaMm2: pullN / releaseStressAt(film.loads, k) })
    if (layer.held.length === 0) continue
    plunge = layer.plunge
    motions = layer.motions
    seen?.(holding, motions, k, plunge)
    swayOf(lanes, holding, film, layer)
    counts = holding.endsByPiece
    cases = casesOf(plunge)
    most = 0
    for (const e of holding.ends) load(e, k)
    if (most > 0) lanes.canN[k] = lanes.pullN[k] / most
  }
  return { ends: supports.flatMap((s, i) => s.holds.map((h, j): EndStrength => ({ id: h.id, ...worst[i][j] }))), lanes, loose: [...loose.values()] }
}

/** How far pieces sway in some layers, without what ends bear; other layers are left out. @param seen called in each of them with how pieces move there and how far the largest sways, mm */
export function swayLanes(layerCount: number, supports: readonly SupportFrame[], pieces: Pieces, film: FilmLoads, resin: StrengthResin, middle: Vec3, only?: ReadonlySet<number>, seen?: (holding: Holding, layer: LoadedLayer, swayMm: number) => void): Pick<StrengthLanes, 'swayMm' | 'softDeg'> {
  const holding = new Holding(supports, pieces, middle), lanes = emptyLanes(layerCount)
  for (const layer of layersUnder(holding, layerCount, pieces, film, resin, only)) {
    if (layer.held.length === 0) continue
    swayOf(lanes, holding, film, layer)
    seen?.(holding, layer, lanes.swayMm[layer.layer])
  }
  return lanes
}

function emptyLanes(n: number): StrengthLanes {
  return { pullN: new Float64Array(n), canN: new Float64Array(n).fill(NaN), swayMm: new Float64Array(n).fill(NaN), softDeg: new Float64Array(n).fill(NaN) }
}

/** What the film pulls in a layer, and how what is held moves under it. */
export interface LoadedLayer {
  readonly layer: number
  readonly pulls: readonly Pull[]
  /** Those of them that supports hold. */
  readonly held: readonly Pull[]
  readonly motions: ByPiece
  readonly plunge: number
}

/** Goes down through layers; what holds is that of the layer that was given last. */
function* layersUnder(holding: Holding, layerCount: number, pieces: Pieces, film: FilmLoads, resin: StrengthResin, only?: ReadonlySet<number>): Generator<LoadedLayer, void, void> {
  for (let layer = layerCount - 1; layer >= 0; layer--) {
    if (only && !only.has(layer)) continue
    holding.downTo(layer)
    const pulls = pullsOf(pieces, film, layer), held = pulls.filter(({ piece }) => holding.holds(piece) && !pieces.list[piece].onPlate)
    yield { layer, pulls, held, motions: held.length > 0 ? holding.motionsUnder(loadsOf(holding, held)) : new Map(), plunge: plungeShare(pulls, releaseStressAt(film.loads, layer), resin) }
  }
}

/** What no case goes beyond of three forces, or moments, by their size. @param at where the first of them stands */
export function mostOfThree(three: Float64Array, at: number, plunge: number): number {
  const up = sizeOf(three, at + UP), x = sizeOf(three, at), y = sizeOf(three, at + SIZE)
  return Math.max(1, plunge) * up + Math.sqrt(x * x + y * y)
}
function sizeOf(of: Float64Array, at: number): number {
  return Math.sqrt(of[at] * of[at] + of[at + 1] * of[at + 1] + of[at + 2] * of[at + 2])
}

/** The part of a force along an axis, N. */
export function alongOf(of: Float64Array, at: number, axis: Vec3): number {
  return of[at] * axis[0] + of[at + 1] * axis[1] + of[at + 2] * axis[2]
}

/** How far the largest of what is laid moves where it is laid, under the side pull from its softest side. */
function swayOf(lanes: Pick<StrengthLanes, 'swayMm' | 'softDeg'>, holding: Holding, { loads }: FilmLoads, { layer, held, motions }: LoadedLayer): void {
  const { piece, at, laidN } = held.reduce((a, b) => (b.laidN > a.laidN ? b : a))
  if (laidN < SWAYS_FROM_MM2 * releaseStressAt(loads, layer)) return
  const [x, y] = holding.displacementsAt(at, motions.get(piece) ?? new Float64Array(CASES * SIZE))
  // the longest that a unit direction is sent to: the larger singular value of both columns
  const a = x[0] ** 2 + x[1] ** 2, b = y[0] ** 2 + y[1] ** 2, c = x[0] * y[0] + x[1] * y[1], mm = Math.sqrt((a + b) / 2 + Math.sqrt(((a - b) / 2) ** 2 + c * c))
  lanes.swayMm[layer] = mm
  lanes.softDeg[layer] = (Math.atan2(2 * c, a - b) / 2) * (180 / Math.PI)
}
