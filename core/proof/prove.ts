import { WORTHS, type Gauge, type ProofCheck, type Raft, type Resin, type Role, type Waiver, type Worth } from '../contract'
import { PLAIN } from '../marks'
import type { Vec3 } from '../mesh'
import type { ModelScan, ScanResult } from '../scan'
import { thicknessAt, type PlanIndex, type Surface } from '../stilts'
import { beamsCheck, carriersCheck, feetCheck, firstLayerCheck, floatingCheck, gapsCheck, hangsCheck, plateCheck, scarsCheck, skinCheck, slenderCheck, suctionCheck, swayCheck, tipsCheck } from './checks'
import { stillLoadedBy, type Loaded } from './loaded'
import { idleEnds, letEachGo, neededEnds, type BeamStrength, type EndStrength, type Missed, type StrengthLanes, type StretchStrength } from './strength'

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
/**
 * Proves a part with its supports: what still hangs, what begins in the air, what the film pulls and what holds it, what each tip and beam
 * bears of what it can, how far it sways, what would be lost without each stilt, and what is left on the skin. Loads and what can be borne are
 * estimates. Yields between steps.
 * @param known what its supports bore when they were loaded last
 */
export function* prove(of: Proven, known?: Loaded): Generator<string, Proof, void> {
  const { result, index, part, surface, raft, resin, roleOf, onPlate } = of, stilts = index.stiltsOf(part)
  const loaded = yield* stillLoadedBy(of, known), { supports, pieces, areas, film, middle, ends, lanes, beams, stretches, feet } = loaded, byId = new Map(ends.map(e => [e.id, e]))
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
