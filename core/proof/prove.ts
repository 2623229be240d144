import { loadsOf, WORTHS, type Gauge, type PlanNode, type ProofCheck, type Raft, type Resin, type Role, type Waiver, type Worth } from '../contract'
import { PLAIN } from '../marks'
import type { Vec3 } from '../mesh'
import { normalFromSource } from '../pose'
import type { LayerGraph, ModelScan, ScanResult } from '../scan'
import { contactOf, slantOf, thicknessAt, type PlanIndex, type Surface } from '../stilts'
import { beamsCheck, carriersCheck, feetCheck, firstLayerCheck, floatingCheck, gapsCheck, hangsCheck, plateCheck, scarsCheck, skinCheck, slenderCheck, suctionCheck, swayCheck, tipsCheck } from './checks'
import { beamsUnder, idleEnds, letEachGo, neededEnds, Pieces, pushesIn, pushesNow, strengthOf, supportFrames, swayLanes, swaysOver, worstLayers, type BeamStrength, type EndStrength, type FilmLoads, type FootStrength, type Missed, type Pushes, type StrengthLanes, type StretchStrength, type SupportFrame, type Sway } from './strength'

/** A part with its supports, scanned together, and what they are judged by. */
export interface Proven {
  /** A scan that has its stilts, run to its end. */
  readonly scan: ModelScan
  readonly result: ScanResult
  readonly index: PlanIndex
  readonly part: string
  readonly surface: Surface
  readonly raft: Raft
  readonly resin: Resin
  readonly gauges: readonly Gauge[]
  /** What hangs on a stilt, by the node of its tip. */
  readonly roleOf: (tip: string) => Role
  readonly onPlate: OnPlate
  /** Findings of the scan that somebody decided to leave as they are. */
  readonly waivers: readonly Waiver[]
}

/** What is wrong with the copies of a part on the plate. */
export interface OnPlate {
  /** How far they reach over the edge of the plate or above the printer's height, mm; 0 where they do not. */
  readonly overMm: number
  /** Other copies that they run into, null where nobody looked; and spaces that they close together with others. */
  readonly meets: number | null
  readonly cups: number
}

/** Where a support touches the model: what it bears there, and what it leaves. */
export interface ProvenEnd extends EndStrength {
  readonly stilt: number
  readonly kind: 'tip' | 'foot'
  readonly at: Vec3
  readonly contactMm2: number
  /** How much of the part is behind it, mm; Infinity where there is no other side. */
  readonly thicknessMm: number
  readonly worth: Worth
  /** Whether it is a ball, which leaves a bead. */
  readonly ball: boolean
}

export interface Proof {
  readonly checks: readonly ProofCheck[]
  /** The weakest first. */
  readonly ends: readonly ProvenEnd[]
  readonly beams: readonly BeamStrength[]
  readonly stretches: readonly StretchStrength[]
  readonly missed: readonly Missed[]
  /** Ends without which something would fall or break, and ends that bear next to nothing; ids of their nodes. */
  readonly needed: readonly string[]
  readonly idle: readonly string[]
  readonly lanes: StrengthLanes
  /** The number of the stilt that a node or beam of the plan belongs to; braces belong to none. */
  readonly stiltOf: ReadonlyMap<string, number>
}

/** Stilts that are let go between two turns of others. */
const LET_GO_AT_ONCE = 20
/** Green resin narrows by this much of how it is drawn; from memory. */
const POISSON = 0.4

/**
 * Proves a part with its supports: what still hangs, what begins in the air, what the film pulls and what holds it, what each tip and beam
 * bears of what it can, how far it sways, what would be lost without each stilt, and what is left on the skin. Loads and what can be borne are
 * estimates. Yields between steps.
 */
export function* prove(of: Proven): Generator<string, Proof, void> {
  const { result, index, part, surface, raft, resin, roleOf, onPlate } = of, stilts = index.stiltsOf(part)
  const loaded = yield* loadedBy(of), { supports, pieces, areas, film, middle, ends, lanes, beams, stretches, feet } = loaded, byId = new Map(ends.map(e => [e.id, e]))
  const steps = letEachGo(supports, pieces, areas, ends, film, resin, middle)
  let step = steps.next()
  for (let done = 0; !step.done; done++, step = steps.next()) if (done % LET_GO_AT_ONCE === 0) yield 'Letting each stilt go'
  const missed = step.value
  yield 'Looking at scars and gaps'
  const numberOf = stiltNumbers(index, part), shapes = new Map(stilts.map(t => [t.id, t]))
  const proven = supports.flatMap((s, i) => s.holds.map((h, j): ProvenEnd => {
    const node = s.nodes[h.node], shape = shapes.get(h.id)
    return {
      ...(byId.get(h.id) as EndStrength), stilt: numberOf.get(h.id) ?? 0, kind: node.kind === 'tip' ? 'tip' : 'foot', at: h.at, contactMm2: areas[i][j], thicknessMm: shape ? thicknessAt(surface, shape) : Infinity,
      worth: WORTHS[surface.worthAt(h.at) ?? PLAIN], ball: node.kind === 'tip' && node.fitted.tipShape === 'ball',
    }
  })).sort((a, b) => b.share - a.share)
  const checks = [
    hangsCheck(of), floatingCheck(of), plateCheck(onPlate), tipsCheck(proven, resin), beamsCheck(beams, resin, index, numberOf), slenderCheck(stretches, resin, index, numberOf), feetCheck(feet, resin, index, numberOf, raft.kind === 'joined' || raft.kind === 'plate' ? (result.areaMm2[0] ?? 0) : null), swayCheck(lanes, resin),
    firstLayerCheck(result, index, part, raft), suctionCheck(of), carriersCheck(stilts, roleOf), gapsCheck(of), scarsCheck(proven), skinCheck(surface, proven),
  ]
  return {
    checks, ends: proven, beams: [...beams].sort((a, b) => b.share - a.share), stretches: [...stretches].sort((a, b) => b.share - a.share), missed, lanes,
    needed: neededEnds(missed).map(m => m.id), idle: idleEnds(missed, ends).map(m => m.id), stiltOf: numberOf,
  }
}

/** What the film loads, what holds it, and how it sways. */
export interface Swayed {
  readonly supports: readonly SupportFrame[]
  readonly pieces: Pieces
  readonly film: FilmLoads
  readonly middle: Vec3
  /** Where pieces sway more than they may, the worst first. */
  readonly sways: readonly Sway[]
  /** What supports are pushed with in some layers, those in which pieces sway too far among them. */
  readonly pushes: ReadonlyMap<number, Pushes>
}

/** What the film loads, what holds it, and what each support bears; with what supports are pushed with in the layers that load some of them most as well. */
export interface Loaded extends Swayed {
  /** Contact of every end, by support and end, mm². */
  readonly areas: readonly (readonly number[])[]
  readonly ends: readonly EndStrength[]
  readonly lanes: StrengthLanes
  readonly beams: readonly BeamStrength[]
  readonly stretches: readonly StretchStrength[]
  readonly feet: readonly FootStrength[]
}

/** So many pieces that sway too far are looked at closely, those that sway most. */
const MOST_SWAYING = 8
/** Where only layers are loaded again that loaded something most, each such one is as well. */
const EVERY = 16

/**
 * Loads every layer, and follows the loads to the plate. Yields between steps.
 * @param before what the same supports bore before some were made a little thicker: then only layers are loaded that loaded some of them most, and a few between
 */
export function* loadedBy({ scan, index, part, surface, resin }: Pick<Proven, 'scan' | 'index' | 'part' | 'surface' | 'resin'>, before?: Loaded): Generator<string, Loaded, void> {
  const { graph, pieces, middle, film, supports } = heldBy({ scan, index, part, resin }, before)
  yield 'Following what hangs together'
  const areas = areasOf(supports, surface)
  yield before ? 'Loading the worst layers' : 'Loading every layer'
  const known = new Map<number, Pushes>(), again = before && new Set([...before.pushes.keys(), ...Array.from({ length: Math.ceil(graph.layerCount / EVERY) }, (_, i) => EVERY * i)])
  const { ends, lanes } = strengthOf(graph, supports, pieces, areas, film, resin, middle, again, (holding, motions, k, plunge) => {
    if (again?.has(k)) known.set(k, pushesNow(holding, motions, k, plunge, () => true))
  })
  yield 'Following loads to the plate'
  const byId = new Map(ends.map(e => [e.id, e])), layers = supports.map(s => worstLayers(s, id => byId.get(id))), sways = swaysOver(pieces, film, lanes, resin.swayMm).slice(0, MOST_SWAYING), swaying = new Set(sways.map(s => s.layer))
  const pushes = before ? known : pushesIn(supports, pieces, film, resin, middle, [...layers.flatMap(l => [...l]), ...swaying], (layer, s) => swaying.has(layer) || layers[s].has(layer))
  return { supports, pieces, areas, film, middle, ends, lanes, sways, pushes, ...beamsUnder(supports, layers, pushes, resin) }
}

export type Held = Pick<Proven, 'scan' | 'index' | 'part' | 'resin'>

/** What holds what, and what the film loads. @param before the same of supports that are much the same @throws Error for a scan that has not ended */
export function heldBy({ scan, index, part, resin }: Held, before?: Pick<Swayed, 'pieces' | 'film' | 'supports'>): Pick<Swayed, 'supports' | 'pieces' | 'film' | 'middle'> & { readonly graph: LayerGraph } {
  const graph = scan.modelTree?.graph
  if (!graph) throw new Error('A proof needs a scan that has ended.')
  const pieces = before?.pieces ?? piecesOf(graph), middle: Vec3 = [0, 0, (graph.layerCount * scan.raster.layerMm) / 2]
  const whole = scan.wholeSuction, film: FilmLoads = before && before.film.suction?.graph === whole?.graph ? before.film : { raster: scan.raster, loads: loadsOf(resin), sideShare: resin.sideShare, suction: whole ? { ...whole, pieceOf: piecesAround(scan, whole, pieces) } : undefined }
  const supports = supportFrames(index, part, { modulusNMm2: resin.greenModulusNMm2, poisson: POISSON }, at => scan.laidAt(at).map(l => ({ layer: l?.layer ?? 0, piece: l ? pieces.ofComponent[l.component] : -1 })), before?.supports)
  return { graph, pieces, middle, film, supports }
}

/**
 * How a part sways on its supports, without what they bear; yields between steps.
 * @param before of supports that are much the same: then only layers are looked at in which something swayed, and a few between
 */
export function* swayedBy(of: Held, before?: Swayed): Generator<string, Swayed, void> {
  const { resin } = of, { graph, pieces, middle, film, supports } = heldBy(of, before)
  yield 'Looking at what sways'
  const layers = before && new Set([...before.sways.map(s => s.layer), ...Array.from({ length: Math.ceil(graph.layerCount / EVERY) }, (_, i) => EVERY * i)])
  const known = new Map<number, Pushes>()
  const lanes = swayLanes(graph.layerCount, supports, pieces, film, resin, middle, layers, (holding, { layer, motions, plunge }, mm) => {
    if (layers && mm > resin.swayMm) known.set(layer, pushesNow(holding, motions, layer, plunge, () => true))
  })
  const sways = swaysOver(pieces, film, lanes, resin.swayMm).slice(0, MOST_SWAYING)
  return { pieces, middle, film, supports, sways, pushes: layers ? known : pushesIn(supports, pieces, film, resin, middle, sways.map(s => s.layer), () => true) }
}

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

/** The number of the stilt that nodes and beams of a plan belong to. */
export function stiltNumbers(index: PlanIndex, part: string): Map<string, number> {
  const out = new Map<string, number>()
  for (const s of index.stiltsOf(part)) {
    s.nodes.slice(0, s.alone).forEach(id => out.set(id, s.number))
    // a branch's own beams end where it joins
    s.beams.slice(0, s.alone === s.nodes.length ? s.beams.length : s.alone).forEach(id => out.set(id, s.number))
    for (const id of s.nodes.slice(0, s.alone)) for (const b of index.beamsAt(id)) if (b.kind === 'leg') [b.id, b.to].forEach(x => out.set(x, s.number))
  }
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
