import { loadsOf, type PlanNode, type Resin } from '../contract'
import type { Vec3 } from '../mesh'
import { normalFromSource } from '../pose'
import type { LayerGraph, ModelScan } from '../scan'
import { contactOf, slantOf, type Surface } from '../stilts'
import type { Proven } from './prove'
import { beamsUnder, cupPulls, Pieces, pushesIn, pushesNow, strengthOf, supportFrames, swayEnergies, swayLanes, swaysOver, worstLayers, type BeamStrength, type EndStrength, type FilmLoads, type FootStrength, type Pushes, type StrengthLanes, type StretchStrength, type SupportFrame, type Sway } from './strength'

/** Green resin narrows by this much of how it is drawn; from memory. */
const POISSON = 0.4

/** What the film loads, what holds it, and how it sways. */
export interface Swayed {
  readonly pieces: Pieces
  readonly film: FilmLoads
  readonly middle: Vec3
  readonly supports: readonly SupportFrame[]
  /** Where pieces sway more than they may, the worst first. */
  readonly sways: readonly Sway[]
  /** What supports are pushed with in some layers, those in which pieces sway too far among them. */
  readonly pushes: ReadonlyMap<number, Pushes>
}

/** What the film loads, what holds it, and what each support bears. */
export interface Loaded extends Swayed {
  /** Contact of every end, by support and end, mm². */
  readonly areas: readonly (readonly number[])[]
  readonly ends: readonly EndStrength[]
  readonly lanes: StrengthLanes
  readonly beams: readonly BeamStrength[]
  readonly stretches: readonly StretchStrength[]
  readonly feet: readonly FootStrength[]
  /** Layers that load some support most; and whether every layer was loaded. */
  readonly closely: ReadonlySet<number>
  readonly isWhole: boolean
}

/** So many pieces that sway too far are looked at closely, those that sway most. */
const MOST_SWAYING = 8
/** Where only layers are loaded again that loaded something most, each such one is as well. */
const EVERY = 16

/**
 * Loads every layer, and follows the loads to the plate. Yields between steps.
 * @param before what the same supports bore before some were made a little thicker: then only layers are loaded that loaded some of them most, and a few between
 */
export function* loadedBy(of: Held & Pick<Proven, 'surface'>, before?: Loaded): Generator<string, Loaded, void> {
  const { resin, surface } = of, { graph, pieces, middle, film, supports } = heldBy(of, before)
  yield 'Following what hangs together'
  const areas = areasOf(supports, surface), known = new Map<number, Pushes>(), again = before && new Set([...before.closely, ...eachSome(graph.layerCount)])
  yield before ? 'Loading the worst layers' : 'Loading every layer'
  const { ends, lanes } = strengthOf(graph, supports, pieces, areas, film, resin, middle, again, (holding, motions, k, plunge) => {
    if (again) known.set(k, pushesNow(holding, motions, k, plunge, () => true))
  })
  yield 'Following loads to the plate'
  const byId = new Map(ends.map(e => [e.id, e])), layers = supports.map(s => worstLayers(s, id => byId.get(id))), sways = swaysOver(pieces, film, lanes, resin.swayMm).slice(0, MOST_SWAYING), swaying = new Set(sways.map(s => s.layer)), closely = again ?? new Set([...layers.flatMap(l => [...l]), ...swaying])
  const pushes = again ? known : pushesIn(supports, pieces, film, resin, middle, closely, (layer, s) => swaying.has(layer) || layers[s].has(layer))
  return { supports, pieces, areas, film, middle, ends, lanes, sways, pushes, closely, isWhole: !before, ...beamsUnder(supports, layers, pushes, resin) }
}

/** What the same supports bear that were loaded before, where nothing of what loads them has changed since; else they are loaded. Yields between steps. */
export function* stillLoadedBy(of: Held & Pick<Proven, 'surface'>, before: Loaded | undefined): Generator<string, Loaded, void> {
  if (before?.isWhole) {
    const { pieces, film, supports } = heldBy(of, before)
    if (pieces === before.pieces && supports.length === before.supports.length && supports.every((s, i) => s === before.supports[i]) && isSame(film, before.film)) return before
  }
  return yield* loadedBy(of)
}

/** Whether films load alike. */
function isSame(one: FilmLoads, other: FilmLoads): boolean {
  const told = ({ cups, ...more }: FilmLoads): string => JSON.stringify([more, [...(cups ?? [])]])
  return one === other || told(one) === told(other)
}

/** Layers that are loaded whatever bears most. */
function eachSome(count: number): number[] {
  return Array.from({ length: Math.ceil(count / EVERY) }, (_, i) => EVERY * i)
}

/** A piece that sways, how far, and the work that this stores in every beam, along x and along y together, N·mm. */
export interface NearSway {
  readonly mm: number
  readonly stored: ReadonlyMap<string, number>
}

/** Where pieces sway farther than that, and what stores the work there; those that sway most. */
export function swaysFrom({ pieces, film, lanes, supports, middle }: Loaded, resin: Resin, leastMm: number, most: number): NearSway[] {
  const sways = swaysOver(pieces, film, lanes, leastMm).slice(0, most), layers = sways.map(s => s.layer)
  if (layers.length === 0) return []
  const energies = swayEnergies(supports, pushesIn(supports, pieces, film, resin, middle, layers, () => true), layers)
  return sways.map(({ layer, mm }) => ({ mm, stored: energies.get(layer) ?? new Map<string, number>() }))
}

export type Held = Pick<Proven, 'scan' | 'index' | 'part' | 'resin'>

/** What holds what, and what the film loads. @param before the same of supports that are much the same @throws Error for a scan that has not ended */
export function heldBy({ scan, index, part, resin }: Held, before?: Pick<Swayed, 'pieces' | 'supports'>): Pick<Swayed, 'supports' | 'pieces' | 'film' | 'middle'> & { readonly graph: LayerGraph } {
  const graph = scan.modelTree?.graph
  if (!graph) throw new Error('A proof needs a scan that has ended.')
  const pieces = before?.pieces ?? piecesOf(graph), middle: Vec3 = [0, 0, (graph.layerCount * scan.raster.layerMm) / 2]
  const supports = supportFrames(index, part, { modulusNMm2: resin.greenModulusNMm2, poisson: POISSON }, at => scan.laidAt(at).map(l => ({ layer: l?.layer ?? 0, piece: l ? pieces.ofComponent[l.component] : -1 })), before?.supports)
  return { graph, pieces, middle, film: filmOf(scan, resin, pieces), supports }
}

/**
 * How a part sways on its supports, without what they bear; yields between steps.
 * @param before of supports that are much the same: then only layers are looked at in which something swayed, and a few between
 */
export function* swayedBy(of: Held, before?: Swayed): Generator<string, Swayed, void> {
  const { resin } = of, { graph, pieces, middle, film, supports } = heldBy(of, before)
  yield 'Looking at what sways'
  const layers = before && new Set([...before.sways.map(s => s.layer), ...eachSome(graph.layerCount)]), known = new Map<number, Pushes>()
  const lanes = swayLanes(graph.layerCount, supports, pieces, film, resin, middle, layers, (holding, { layer, motions, plunge }, mm) => {
    if (layers && mm > resin.swayMm) known.set(layer, pushesNow(holding, motions, layer, plunge, () => true))
  })
  const sways = swaysOver(pieces, film, lanes, resin.swayMm).slice(0, MOST_SWAYING)
  return { pieces, middle, film, supports, sways, pushes: layers ? known : pushesIn(supports, pieces, film, resin, middle, sways.map(s => s.layer), () => true) }
}

/** What a film loads a part with on its supports as they were scanned last; kept as long as they are. */
function filmOf(scan: ModelScan, resin: Resin, pieces: Pieces): FilmLoads {
  const { raster, wholeSuction: whole } = scan, loads = loadsOf(resin), { sideShare } = resin
  if (!whole) return { raster, loads, sideShare }
  const known = filmsKnown.get(whole.graph)
  if (known?.resin === resin && known.suction === whole.suction) return known.film
  const film: FilmLoads = { raster, loads, sideShare, cups: cupPulls(whole, raster, loads, piecesAround(scan, whole, pieces)) }
  filmsKnown.set(whole.graph, { resin, suction: whole.suction, film })
  return film
}
const filmsKnown = new WeakMap<LayerGraph, { readonly resin: Resin; readonly suction: unknown; readonly film: FilmLoads }>()

/** The pieces of a graph; those of the last ones are kept. */
function piecesOf(graph: LayerGraph): Pieces {
  const known = piecesKnown.get(graph) ?? new Pieces(graph)
  piecesKnown.set(graph, known)
  return known
}
const piecesKnown = new WeakMap<LayerGraph, Pieces>()

/** The piece around each space that pulls like a cup: the larger of those on both sides of its widest gap. */
function piecesAround(scan: ModelScan, { graph, suction }: NonNullable<ModelScan['wholeSuction']>, { ofComponent, laid }: Pieces): Map<number, number> {
  const cups: { readonly e: number; readonly layer: number; readonly row: number; readonly pixel: number }[] = []
  for (let layer = 0; layer + 1 < graph.emptyStarts.length; layer++) {
    for (let e = graph.emptyStarts[layer]; e < graph.emptyStarts[layer + 1]; e++) if (suction.cupOf[e] >= 0) cups.push({ e, layer, row: graph.emptyInRow[e], pixel: graph.emptyInPixel[e] })
  }
  const beside = scan.besideEmpty(cups), out = new Map<number, number>()
  cups.forEach(({ e, layer }, i) => {
    const sides = new Set(beside[i].flatMap(c => (c < 0 ? [] : [ofComponent[c]])))
    let most = 0
    for (let p = laid.starts[layer]; p < laid.starts[layer + 1]; p++) {
      if (!sides.has(laid.piece[p]) || laid.pixels[p] <= most) continue
      most = laid.pixels[p]
      out.set(e, laid.piece[p])
    }
  })
  return out
}

/** Contact of every end, by support and end, mm². */
export function areasOf(supports: readonly SupportFrame[], surface: Surface): number[][] {
  const normalOf = (n: PlanNode): Vec3 => (n.kind === 'tip' ? normalFromSource(surface, n.anchor.normal) : n.kind === 'foot' && n.on.kind === 'model' ? normalFromSource(surface, n.on.anchor.normal) : [0, 0, -1])
  return supports.map(s => s.holds.map(h => areaOf(s.nodes[h.node], h.axis, normalOf(s.nodes[h.node]))))
}

/** Where a support touches the model: the area that holds, mm². */
function areaOf(n: PlanNode, axis: Vec3, normal: Vec3): number {
  if (n.kind === 'tip') return contactOf(n.fitted, slantOf([n.at, [n.at[0] - axis[0], n.at[1] - axis[1], n.at[2] - axis[2]]], normal)).areaMm2
  if (n.kind !== 'foot') return 0
  return contactOf({ tipShape: 'cone', tipDiameterMm: n.fitted.footDiameterMm, penetrationMm: n.fitted.footPenetrationMm }, Math.abs(axis[0] * normal[0] + axis[1] * normal[1] + axis[2] * normal[2])).areaMm2
}
