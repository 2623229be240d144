import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { BUILT_IN_GAUGES, DEFAULT_RESIN, type PlanBeam, type PlanNode } from '../../contract'
import { joinMeshes, type Mesh, type Vec3 } from '../../mesh'
import { AS_IS, normalFromSource, UNSHAPED } from '../../pose'
import type { LayerGraph } from '../../scan'
import { contactOf, gaugeOf, neighboursOf, PlanIndex, rowsOfBraces, slantOf, zigzag } from '../../stilts'
import { heldScene } from '../../testing/held-scene'
import { between, random } from '../../testing/random'
import { box } from '../../testing/shapes'
import { ALL, bucklingFactor, Frame, FrameFactor, type FrameBeam } from '../frame'
import { beamsUnder, cupPulls, eulerLoad, Holding, Pieces, pushesIn, strengthOf, stretchesOf, supportFrames, type FilmLoads, type PieceGraph, type Strength, type SupportFrame } from './index'

const raster = { pixelMm: 0.1, layerMm: 0.1 }
const loads = { releaseStressNMm2: 0.02, cupVacuumNMm2: 0.03, bottomLayers: 0, transitionLayers: 0, bottomReleaseFactor: 1 }, film: FilmLoads = { raster, loads, sideShare: 0.15 }
const MATERIAL = { modulusNMm2: DEFAULT_RESIN.greenModulusNMm2, poisson: 0.4 }

/** A model on stilts under some points of its skin. */
interface Scene {
  readonly strength: Strength
  readonly supports: readonly SupportFrame[]
  readonly pieces: Pieces
  readonly tips: readonly string[]
}
function scene(mesh: Mesh, points: readonly (readonly [number, number])[], gaugeId = 'medium', larger = 1): Scene {
  const base = gaugeOf(gaugeId), { index, tips, scan } = heldScene(mesh, points, { ...base, tipDiameterMm: base.tipDiameterMm * larger }, raster), graph = scan.modelTree?.graph
  if (!graph) throw new Error('no graph')
  const pieces = new Pieces(graph), supports = supportFrames(index, 'part', MATERIAL, at => scan.laidAt(at).map(l => ({ layer: l?.layer ?? 0, piece: l ? pieces.ofComponent[l.component] : -1 })))
  const areas = supports.map(s => s.holds.map(h => {
    const n = s.nodes[h.node]
    return n.kind === 'tip' ? contactOf(n.fitted, slantOf([n.at, [n.at[0] - h.axis[0], n.at[1] - h.axis[1], n.at[2] - h.axis[2]]], normalFromSource({ shape: UNSHAPED, stand: AS_IS }, n.anchor.normal))).areaMm2 : 1
  }))
  return { strength: strengthOf(graph, supports, pieces, areas, film, DEFAULT_RESIN, [0, 0, 10]), supports, pieces, tips }
}
const endOf = ({ strength, tips }: Scene, i: number): Strength['ends'][number] => strength.ends.find(e => e.id === tips[i]) as Strength['ends'][number]

/** Trees by chance, and pieces that come together by chance. */
function chance(seed: number): { supports: SupportFrame[]; pieces: Pieces; all: { points: Vec3[]; beams: FrameBeam[]; held: Map<number, number> }; layers: number } {
  const r = random(seed), supports: SupportFrame[] = [], layers = 8, at = (): Vec3 => [between(r, -20, 20), between(r, -20, 20), between(r, 8, 30)]
  // four columns of layers that join two and two, then all
  const starts = [0, 0, 4, 8, 12, 14, 16, 17, 18], upper: number[] = [], lower: number[] = [], edgeStarts = [0]
  for (let k = 0; k < layers; k++) {
    const [a, b, c] = [starts[Math.max(0, k - 1)], starts[k], starts[k + 1]], below = b - a, here = c - b
    for (let i = 0; k > 0 && i < below; i++) {
      upper.push(b + Math.floor((i * here) / below))
      lower.push(a + i)
    }
    edgeStarts.push(upper.length)
  }
  const graph: PieceGraph = { layerCount: layers, solidStarts: Int32Array.from(starts), solidPixels: new Int32Array(18).fill(100), solidSumX: new Float64Array(18), solidSumY: new Float64Array(18), solidEdgeStarts: Int32Array.from(edgeStarts), solidUpper: Int32Array.from(upper), solidLower: Int32Array.from(lower) }
  const pieces = new Pieces(graph), all = { points: [] as Vec3[], beams: [] as FrameBeam[], held: new Map<number, number>() }
  for (let s = 0; s < 5; s++) {
    const count = 2 + Math.floor(between(r, 0, 4)), joint: Vec3 = [between(r, -15, 15), between(r, -15, 15), between(r, 3, 6)], points: Vec3[] = [[joint[0], joint[1], 0], joint], beams: FrameBeam[] = [{ a: 1, b: 0, from: joint, to: [joint[0], joint[1], 0], fromRadiusMm: 0.5, toRadiusMm: 0.7 }], holds = []
    for (let i = 0; i < count; i++) {
      const tip = at(), component = Math.floor(between(r, 0, 4)) + 4 * Math.floor(between(r, 0, 3)), layer = 1 + Math.floor(component / 4)
      points.push(tip)
      beams.push({ a: points.length - 1, b: 1, from: tip, to: joint, fromRadiusMm: between(r, 0.15, 0.4), toRadiusMm: 0.4 })
      holds.push({ id: `${s} ${i}`, node: points.length - 1, at: tip, axis: [0, 0, 1] as Vec3, layer, piece: pieces.ofComponent[component] })
    }
    supports.push({ frame: new Frame(points, beams, new Map([[0, ALL]]), MATERIAL), holds, nodes: [], beams: [], tied: new Set() })
    const base = all.points.length
    all.held.set(base, ALL)
    all.points.push(...points)
    all.beams.push(...beams.map(b => ({ ...b, a: b.a + base, b: b.b + base })))
  }
  return { supports, pieces, all, layers }
}

describe('what tips bear', () => {
  const slab = (x: number, w = 8): Mesh => box([x - w / 2, -3, 12], [x + w / 2, 3, 14])
  it('is area by stress: a plate on one stilt, on two, on four; two plates are twice as much', () => {
    const peel = 8 * 6 * 0.02
    expect(endOf(scene(slab(0), [[0, 0]]), 0).pulledN).toBeCloseTo(peel * 1, 1)
    const one = scene(slab(0), [[0, 0]]), two = scene(slab(0), [[-2, 0], [2, 0]]), both = scene(joinMeshes([slab(-10), slab(10)]), [[-12, 0], [-8, 0], [8, 0], [12, 0]])
    expect(Math.max(...one.strength.lanes.pullN)).toBeCloseTo(peel, 2)
    // each of two carries half, and what the side pull adds by tilting the plate
    for (const i of [0, 1]) expect(endOf(two, i).pulledN).toBeGreaterThan(peel / 2)
    expect(Math.max(...both.strength.lanes.pullN)).toBeCloseTo(2 * peel, 2)
    for (const i of [0, 1]) {
      expect(endOf(both, i).pulledN).toBeCloseTo(endOf(two, i).pulledN, 2)
      expect(endOf(both, i + 2).pulledN).toBeCloseTo(endOf(two, i).pulledN, 2)
    }
  })
  it('is alike where all is alike, wherever it stands and from whichever side it is seen', () => {
    const four = scene(slab(0), [[-3, -2], [3, -2], [3, 2], [-3, 2]]), far = scene(slab(30), [[27, -2], [33, -2], [33, 2], [27, 2]])
    const shares = four.strength.ends.map(e => e.share)
    for (const s of shares) expect(s / shares[0]).toBeCloseTo(1, 2)
    for (const i of [0, 1, 2, 3]) expect(endOf(far, i).share / endOf(four, i).share).toBeCloseTo(1, 2)
    expect(four.strength.loose).toEqual([])
  })
  it('grows by what joins: a bar between two posts pulls at both from the layer on that joins them', () => {
    const gate = scene(joinMeshes([box([-6, -1, 12], [-4, 1, 20]), box([4, -1, 12], [6, 1, 20]), box([-6, -1, 19], [6, 1, 21])]), [[-5, 0], [5, 0]], 'light')
    expect(gate.pieces.list.map(p => [p.firstLayer, p.joins, p.joinsIn])).toEqual([[120, -1, Infinity], [120, 0, 190]])
    // before, each post alone; after, the bar
    expect([gate.strength.lanes.pullN[150], gate.strength.lanes.pullN[200]]).toEqual([expect.closeTo(2 * 4 * 0.02, 2), expect.closeTo(24 * 0.02, 2)])
    expect(endOf(gate, 0).layer).toBeGreaterThanOrEqual(190)
  })
  it('is nothing for what lies on the plate, and what nothing holds is said to be loose', () => {
    const lying = scene(joinMeshes([box([-1, -1, 0], [1, 1, 15]), box([-5, -1, 12], [5, 1, 15])]), [[4, 0]], 'light')
    expect(lying.strength.ends[0].share).toBe(0)
    const hanging = scene(joinMeshes([slab(0), box([20, -1, 12], [22, 1, 14])]), [[0, 0]])
    expect(hanging.strength.loose).toEqual([{ piece: expect.any(Number), layer: 120, areaMm2: expect.closeTo(4, 1) }])
  })
  it('is more under a cup, by its vacuum over what it encloses', () => {
    // a bowl that opens toward the film
    const cup = joinMeshes([box([-5, -5, 13], [-4, 5, 17]), box([4, -5, 13], [5, 5, 17]), box([-4, -5, 13], [4, -4, 17]), box([-4, 4, 13], [4, 5, 17]), box([-5, -5, 12], [5, 5, 13])]), corners: [number, number][] = [[-4.5, -4.5], [4.5, -4.5], [4.5, 4.5], [-4.5, 4.5]]
    const { scan, index } = heldScene(cup, corners, gaugeOf('medium'), raster), graph = scan.modelTree?.graph, suction = scan.wholeSuction
    if (!graph || !suction) throw new Error('no graph')
    const pieces = new Pieces(graph), supports = supportFrames(index, 'part', MATERIAL, at => scan.laidAt(at).map(l => ({ layer: l?.layer ?? 0, piece: l ? pieces.ofComponent[l.component] : -1 }))), areas = supports.map(s => s.holds.map(() => 0.2))
    const pull = (with_: FilmLoads): Float64Array => strengthOf(graph, supports, pieces, areas, with_, DEFAULT_RESIN, [0, 0, 10]).lanes.pullN
    const plain = pull(film), vacuum = pull({ ...film, cups: cupPulls(suction, raster, loads) })
    // 36 mm² of wall around 64 mm² of space
    expect([plain[150], vacuum[150]]).toEqual([expect.closeTo(36 * 0.02, 2), expect.closeTo(36 * 0.02 + 64 * 0.03, 2)])
  })
  it('a plan whose tips are all a tenth larger is never judged weaker', () => {
    for (const points of [[[0, 0]], [[-2, 1], [2, -1]], [[-3, -2], [3, -1], [1, 2]], [[-3, -2], [3, -2], [3, 2], [-3, 2], [0, 0]]] as [number, number][][]) {
      for (const gauge of BUILT_IN_GAUGES.slice(0, 3)) {
        const worst = (larger: number): number => Math.max(...scene(slab(0), points, gauge.id, larger).strength.ends.map(e => e.share))
        expect(worst(1.1)).toBeLessThanOrEqual(worst(1) * (1 + 1e-9))
      }
    }
  })
  it('a wall on a row of stilts is a sail: it is soft across, from both of its sides', () => {
    const wall = scene(box([-12, -0.5, 12], [12, 0.5, 40]), [[-10, 0], [-5, 0], [0, 0], [5, 0], [10, 0]]), { swayMm, softDeg } = wall.strength.lanes, top = swayMm.length - 2
    expect(Math.abs(Math.abs(softDeg[top]) - 90)).toBeLessThan(2)
    const block = scene(box([-12, -6, 12], [12, 6, 40]), [[-10, -5], [-10, 5], [0, 0], [10, -5], [10, 5]]).strength.lanes
    // the block pulls twelve times as much
    expect(swayMm[top] / (block.swayMm[top] / 12)).toBeGreaterThan(10)
  })
})

describe('what holds', () => {
  it('is what a frame of all supports with the pieces as bodies says, in every layer (random trees and pieces)', () => {
    fc.assert(fc.property(fc.integer({ min: 1, max: 1e6 }), seed => {
      const { supports, pieces, all, layers } = chance(seed), middle: Vec3 = [1, -2, 12], holding = new Holding(supports, pieces, middle), r = random(seed + 1)
      for (let k = layers - 1; k >= 1; k--) {
        holding.downTo(k)
        // the whole as one frame: a node for each piece that is there by now, and ends that hold move with it
        const now = [...new Set(pieces.laid.piece.subarray(pieces.laid.starts[k], pieces.laid.starts[k + 1]))], first = all.points.length, points = [...all.points, ...now.map((): Vec3 => middle)]
        const isHeld = new Map<number, number>()
        let base = 0
        for (const { holds, frame } of supports) {
          for (const h of holds) if (h.layer <= k) isHeld.set(base + h.node, first + now.indexOf(pieces.at(h.piece, k)))
          base += frame.points.length
        }
        const frame = new Frame(points, all.beams.map(b => ({ ...b, a: isHeld.get(b.a) ?? b.a })), new Map([...all.held, ...[...isHeld.keys()].map((n): [number, number] => [n, ALL])]), MATERIAL), factor = new FrameFactor(frame)
        const at: Vec3 = [between(r, -9, 9), between(r, -9, 9), 20], force: Vec3 = [between(r, -1, 1), between(r, -1, 1), 1], load = new Float64Array(6 * points.length)
        now.forEach((_, i) => frame.addLoad(load, first + i, at, force))
        const loaded = now.filter(p => holding.holds(p)), motions = holding.motionsUnder(new Map(now.map(p => [p, holding.loadAt(at, force)])))
        expect(new Set(motions.keys())).toEqual(new Set(loaded))
        // where all are held both say the same
        if (loaded.length < now.length) continue
        const u = factor.solve(load), size = Math.max(...u.map(Math.abs))
        now.forEach((p, i) => motions.get(p)?.forEach((v, d) => expect(Math.abs(v - u[6 * (first + i) + d]) / size).toBeLessThan(1e-5)))
        // ends push back as much as the load is
        const sum = [0, 0, 0]
        supports.forEach((_, i) => holding.pushOn(i, motions).forEach((v, d) => d % 6 < 3 && (sum[d % 6] += v)))
        sum.forEach((v, d) => expect(v).toBeCloseTo(now.length * force[d], 5))
      }
    }), { numRuns: 40, endOnFailure: true })
  })
})

describe('many that are braced to each other', () => {
  const points = Array.from({ length: 60 }, (_, i): [number, number] => [4 * (i % 10) - 18, 4 * Math.floor(i / 10) - 10]), { index: alone, surface, scan } = heldScene(box([-20, -12, 25], [20, 12, 26]), points, gaugeOf('light'), raster)
  const braces = neighboursOf(alone.stiltsOf('part'), 5).flatMap(([a, b]) => zigzag(surface, a, b, { spacingMm: 8, angleDeg: 45, reachMm: 5 }, 0.8)), more = rowsOfBraces(alone, braces)
  const index = new PlanIndex(new Map([...alone.nodes, ...more.nodes.map((n): [string, PlanNode] => [n.id, n])]), new Map([...alone.beams, ...more.beams.map((b): [string, PlanBeam] => [b.id, b])]))
  const graph = scan.modelTree?.graph as PieceGraph, pieces = new Pieces(graph), framesOf = (most?: number, known: readonly SupportFrame[] = [], of = index): SupportFrame[] => supportFrames(of, 'part', MATERIAL, at => scan.laidAt(at).map(l => ({ layer: l?.layer ?? 0, piece: l ? pieces.ofComponent[l.component] : -1 })), known, most)
  it('are reckoned some and some: all of their shafts, each between the places that hold it', () => {
    const frames = framesOf()
    expect(index.structures().size).toBe(1)
    expect(frames.length).toBeGreaterThan(1)
    for (const f of frames) expect(f.holds.length).toBeLessThan(60)
    expect(frames.flatMap(f => f.nodes.map(n => n.id)).sort()).toEqual([...index.nodes.keys()].sort())
    expect(frames.flatMap(f => f.beams).filter(b => b.kind !== 'brace')).toHaveLength([...index.beams.values()].filter(b => b.kind !== 'brace').length)
    const shafts = (list: readonly SupportFrame[]): number[] => list.flatMap(f => stretchesOf(f).filter(s => f.beams[s.beams[0]].kind !== 'brace').map(s => s.lengthMm)).sort((a, b) => a - b), whole = shafts(framesOf(Infinity))
    shafts(frames).forEach((mm, i) => expect(mm).toBeCloseTo(whole[i], 6))
  })
  it('stay the frames that they were as long as their rows and their ties do', () => {
    const frames = framesOf(), tying = new Set(frames.flatMap(f => f.beams.map(b => b.id))), left = [...index.beams].filter(([id]) => tying.has(id))
    expect(framesOf(undefined, frames).map((f, i) => f === frames[i])).toEqual(frames.map(() => true))
    // without the braces that were left out between them their rows are the same, and nothing ties them to others
    const apart = framesOf(undefined, frames, new PlanIndex(index.nodes as Map<string, PlanNode>, new Map(left)))
    expect(left.length).toBeLessThan(index.beams.size)
    for (const f of apart) expect(f.tied.size).toBe(0)
    expect(frames.some(f => f.tied.size > 0)).toBe(true)
  })
  it('are softer so than all together, and share what they bear a little otherwise: by half at the most here', () => {
    const of = (frames: readonly SupportFrame[]): Strength => strengthOf(graph as LayerGraph, frames, pieces, frames.map(f => f.holds.map(() => 0.2)), film, DEFAULT_RESIN, [0, 0, 15]), some = of(framesOf()), all = of(framesOf(Infinity)), most = new Map(all.ends.map(e => [e.id, e]))
    const sway = ({ lanes }: Strength): number => lanes.swayMm.reduce((a, b) => (b > a ? b : a), 0)
    expect(sway(some)).toBeGreaterThanOrEqual(sway(all))
    expect(sway(some)).toBeLessThan(sway(all) * 1.5)
    for (const e of some.ends) {
      const times = e.share / (most.get(e.id)?.share ?? 0)
      expect(times).toBeGreaterThan(0.66)
      expect(times).toBeLessThan(1.5)
    }
  })
})

describe('an end that is let go', () => {
  it('leaves to the others what they bear without it', () => {
    const points: [number, number][] = [[-3, -2], [3, -2], [3, 2], [-3, 2], [0, 1]], all = scene(box([-4, -3, 12], [4, 3, 14]), points), r = random(3)
    points.forEach((_, gone) => {
      const rest = scene(box([-4, -3, 12], [4, 3, 14]), points.filter((_, i) => i !== gone)), whole = new Holding(all.supports, all.pieces, [0, 0, 10]), without = new Holding(rest.supports, rest.pieces, [0, 0, 10])
      whole.downTo(130)
      without.downTo(130)
      const at: Vec3 = [between(r, -3, 3), between(r, -2, 2), 13.1], load = new Map([[0, whole.loadAt(at, [0.1, 0.2, 1])]]), support = all.supports.findIndex(s => s.holds[0].id === all.tips[gone]), letGo = whole.lettingGo(support, 0), before = whole.motionsUnder(load), motions = letGo.motionsFrom(before), expected = without.motionsUnder(load)
      expect(letGo.holds).toBe(true)
      const size = Math.max(...(expected.get(0) ?? []).map(Math.abs))
      motions.get(0)?.forEach((v, d) => expect(Math.abs(v - (expected.get(0)?.[d] ?? 0)) / size).toBeLessThan(1e-6))
      const pushed = whole.pushOn(support, motions)
      letGo.addTo(pushed, before)
      expect(Math.max(...pushed.map(Math.abs))).toBe(0)
      all.supports.forEach((s, i) => {
        const other = rest.supports.findIndex(o => Math.hypot(o.holds[0].at[0] - s.holds[0].at[0], o.holds[0].at[1] - s.holds[0].at[1]) < 1e-9)
        if (other >= 0) whole.pushOn(i, motions).forEach((v, d) => expect(v).toBeCloseTo(without.pushOn(other, expected)[d], 6))
      })
    })
    const alone = scene(box([-1, -1, 12], [1, 1, 14]), [[0, 0]]), holding = new Holding(alone.supports, alone.pieces, [0, 0, 10])
    holding.downTo(130)
    expect([holding.holds(0), holding.lettingGo(0, 0).holds]).toEqual([true, false])
  })
  it('of a tree leaves to its branches what they bear without it (random trees)', () => {
    for (let seed = 1; seed < 12; seed++) {
      const { supports, pieces, layers } = chance(seed), middle: Vec3 = [0, 0, 10], whole = new Holding(supports, pieces, middle), k = layers - 1
      whole.downTo(k)
      supports.forEach(({ frame, holds }, s) => {
        const without = new Holding(supports.map((o, i) => (i === s ? { ...o, frame, holds: holds.slice(1) } : o)), pieces, middle), load = new Map(pieces.list.map((_, p) => [p, whole.loadAt([3, 1, 20], [0.1, 0.1, 1])]))
        without.downTo(k)
        const letGo = whole.lettingGo(s, 0), before = whole.motionsUnder(load), motions = letGo.motionsFrom(before), expected = without.motionsUnder(load)
        for (const [p, motion] of motions) {
          const size = Math.max(...motion.map(Math.abs))
          motion.forEach((v, d) => expect(Math.abs(v - (expected.get(p)?.[d] ?? 0)) / size).toBeLessThan(1e-5))
        }
        const ours = whole.pushOn(s, motions)
        letGo.addTo(ours, before)
        const theirs = without.pushOn(s, expected)
        theirs.forEach((v, d) => expect(ours[6 + d]).toBeCloseTo(v, 5))
      })
    }
  })
})

describe('beams and stretches', () => {
  it('of a stilt that stands alone bear what hangs on it, and what presses them is under Euler’s load', () => {
    const one = scene(box([-3, -3, 22], [3, 3, 24]), [[0, 0]], 'light'), layers = one.supports.map(s => new Set(s.holds.map(h => one.strength.ends.find(e => e.id === h.id)?.layer ?? 0)))
    const { beams, stretches, feet } = beamsUnder(one.supports, layers, pushesIn(one.supports, one.pieces, film, DEFAULT_RESIN, [0, 0, 10], layers.flatMap(l => [...l]), () => true), DEFAULT_RESIN)
    expect(stretches).toHaveLength(1)
    expect(stretches[0].stretch).toMatchObject({ ends: ['model', 'plate'], thinMm: expect.closeTo(0.9, 2), thickMm: expect.closeTo(1.1, 2) })
    // the plate goes down with half the stress
    expect(stretches[0].pressedN).toBeCloseTo(36 * DEFAULT_RESIN.plungeStressNMm2, 1)
    for (const b of beams) expect(b.borne.alongN).toBeCloseTo(36 * 0.02, 1)
    expect(feet).toEqual([expect.objectContaining({ pulledN: expect.closeTo(36 * 0.02, 1), share: expect.closeTo((36 * 0.02) / ((Math.PI / 4) * 3.2 ** 2 * DEFAULT_RESIN.greenStrengthNMm2), 2) })])
    // bending grows toward the plate, with the side pull's height
    const foot = beams.find(b => one.supports[0].beams.find(x => x.id === b.id)?.kind === 'shaft')
    expect(foot?.borne.bentNmm ?? 0).toBeGreaterThan(0.15 * 36 * 0.02 * 18)
  })
  it('give way at what linear buckling says, within a twentieth, straight and tapered', () => {
    for (const [thin, thick, length] of [[1, 1, 30], [0.9, 1.1, 25], [0.8, 1.6, 40]]) {
      const pieces = 12, points = Array.from({ length: pieces + 1 }, (_, i): Vec3 => [0, 0, (length * i) / pieces]), r = (i: number): number => (thick + ((thin - thick) * i) / pieces) / 2
      const beams = Array.from({ length: pieces }, (_, i): FrameBeam => ({ a: i, b: i + 1, from: points[i], to: points[i + 1], fromRadiusMm: r(i), toRadiusMm: r(i + 1) }))
      for (const [held, steady] of [[0, false], [3, true]] as const) {
        const exact = bucklingFactor(new FrameFactor(new Frame(points, beams, new Map([[0, ALL], [pieces, held]]), MATERIAL)), beams.map(() => -1))
        const said = eulerLoad({ beams: [], lengthMm: length, thinMm: thin, thickMm: thick, ends: ['plate', 'model'] }, MATERIAL.modulusNMm2, steady)
        expect(said / exact).toBeGreaterThan(0.95)
        expect(said / exact).toBeLessThan(1.05)
      }
    }
  })
  it('end where beams meet', () => {
    const one = scene(box([-3, -3, 22], [3, 3, 24]), [[-1, 0], [1, 0]], 'light')
    expect(one.supports.map(s => stretchesOf(s).length)).toEqual([1, 1])
  })
})
