import { readFileSync } from 'node:fs'
import { DoubleSide, Ray, Vector3 } from 'three'
import { BufferAttribute, BufferGeometry } from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import { pegGauge, pegsUnder, rowsOfPegs } from '../core/bed'
import { applyChange, contentOf, NO_RAFT, SelectRuleSchema, type Change, type Spread } from '../core/contract'
import { findSupports } from '../core/built-in'
import { runsOf } from '../core/marks'
import { joinMeshes, Patches, prepareMesh, readModel, wholeOf, writeStl } from '../core/mesh'
import { AS_IS, standOf, UNSHAPED } from '../core/pose'
import { solidsOfPart } from '../core/raft'
import { alongLine, anchorOf, placeSpread } from '../core/spread'
import { beamsOfShape, BeamField, braceThese, changeOfStilts, contactOf, gaugeOf, GAUGES, hasCutterRoom, isTied, judgeStilt, judgeTips, PlanDraft, PlanIndex, reseatTrees, resizeStilt, routeBranch, routeStilt, rowsOfBraces, rowsOfStilt, shapeOfRoute, stiltsByRule, Surface, thicknessAt, type Others, type Stilt } from '../core/stilts'
import { jobRow, partRow } from '../core/testing/jobs'
import { between, random } from '../core/testing/random'
import { knot } from '../core/testing/shapes'
import { demoStl } from '../server'
import { median, timed } from './timing'

// What work by hand costs where thousands of stilts stand, beside one ray cast by three-mesh-bvh at the same points in the same run. One core.
const plate = { widthMm: 153.35, depthMm: 77.75 }, POINTS = 400

const heron = prepareMesh(wholeOf(await readModel(readFileSync(await demoStl('heron'))))).mesh
const share = (sorted: number[], part: number): string => sorted[Math.min(sorted.length - 1, Math.floor(part * sorted.length))].toFixed(2)
function spreadOf(times: number[]): string {
  const sorted = [...times].sort((a, b) => a - b)
  return `median ${share(sorted, 0.5)} ms, 95 of 100 ${share(sorted, 0.95)} ms, most ${share(sorted, 1)} ms`
}

for (const [name, mesh, count] of [['heron', heron, 2000], ['heron', heron, 5000], ['knot of 1,000,000 triangles', knot(5000, 100, 20, 6, 1.6, [0, 0, 30]), 2000]] as const) {
  const stand = name === 'heron' ? standOf(mesh.positions, { tiltXDeg: 0, tiltYDeg: 0, liftMm: 5 }, 0.05) : AS_IS
  const surface = new Surface(mesh, { shape: UNSHAPED, stand }), patches = new Patches(mesh), fine = gaugeOf('fine'), light = gaugeOf('light')
  const r = random(7), shapes = [], from = (): [number, number, number] => [between(r, -60, 60), between(r, -35, 35), 0.01]
  for (let tries = 0; shapes.length < count && tries < 40 * count; tries++) {
    const hit = surface.cast(from(), [0, 0, 1]), route = hit && routeStilt(surface, hit.point, hit.normal, fine, plate)
    if (hit && route?.ok) shapes.push(shapeOfRoute(surface, fine, 'detail', route, hit.normal))
  }
  const rows = shapes.map((s, i) => rowsOfStilt(s, { part: 'part', number: i + 1 }))
  const index = new PlanIndex(new Map(rows.flatMap(x => x.nodes.map(n => [n.id, n]))), new Map(rows.flatMap(x => x.beams.map(b => [b.id, b])))), stilts = index.stiltsOf('part')
  const field = new BeamField()
  for (const s of stilts) field.put(s.id, beamsOfShape(s).map(beam => ({ owner: s.id, beam })))
  const others = (limitMm = 0.5): Others => ({ field, limitMm })
  console.log(`${name}, ${stilts.length} stilts`)

  const rays = Array.from({ length: POINTS }, from), hits = rays.flatMap(o => surface.cast(o, [0, 0, 1]) ?? [])
  const ghosts = (among?: Others): number[] => hits.map(hit => timed(() => {
    const route = routeStilt(surface, hit.point, hit.normal, light, plate, undefined, among)
    if (!route.ok) return
    const shape = shapeOfRoute(surface, light, 'detail', route, hit.normal)
    contactOf(shape.sizes)
    thicknessAt(surface, shape)
    hasCutterRoom(surface, shape.path)
    judgeStilt(surface, shape, { gauge: light })
  })[1])
  ghosts()
  console.log(`  hover to ghost with all that is said: ${spreadOf(ghosts())}; kept clear of all others, most points blocked: ${spreadOf(ghosts(others()))}`)
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
  // a tree of its own kind puts triangles into another order
  geometry.setIndex(new BufferAttribute(mesh.triangles.slice(), 1))
  const tree = new MeshBVH(geometry), ray = new Ray(new Vector3(), new Vector3(0, 0, 1)), casts = (): number[] => rays.map(o => timed(() => tree.raycastFirst(Object.assign(ray, { origin: ray.origin.set(o[0] - stand[3], o[1] - stand[7], -100) }), DoubleSide))[1])
  casts()
  console.log(`  reference, one ray cast: ${spreadOf(casts())}`)

  // ties: branches from the nearest stilt, zigzags among a hundred, all of them seated anew after a tilt
  const hostOf = (p: readonly number[]): Stilt[] => [...stilts].sort((a, b) => Math.hypot(a.path[0][0] - p[0], a.path[0][1] - p[1]) - Math.hypot(b.path[0][0] - p[0], b.path[0][1] - p[1])).slice(0, 2)
  const withHosts = hits.slice(0, 150).map(h => ({ h, hosts: hostOf(h.point) })), branches = (): number[] => withHosts.map(({ h, hosts }) => timed(() => routeBranch(surface, h.point, h.normal, light, hosts, undefined, others()))[1])
  branches()
  // a hundred that stand apart
  const hundred: Stilt[] = []
  for (const s of stilts) if (hundred.length < 100 && hundred.every(o => Math.hypot(o.path[0][0] - s.path[0][0], o.path[0][1] - s.path[0][1]) > 3)) hundred.push(s)
  const [braces, braceMs] = timed(() => braceThese(surface, hundred, { spacingMm: 0.5, angleDeg: 45, reachMm: 12 }, () => 0.7, () => undefined))
  const draft = new PlanDraft(index, hundred.map(s => s.id)), [, rowsMs] = timed(() => draft.put(rowsOfBraces(draft.index, braces)))
  const tied = draft.index.stiltsOf('part').filter(isTied), moved = new Surface(mesh, { shape: UNSHAPED, stand: name === 'heron' ? standOf(mesh.positions, { tiltXDeg: 4, tiltYDeg: 0, liftMm: 5 }, 0.05) : AS_IS })
  const [seated, seatMs] = timed(() => reseatTrees(moved, draft.index, tied.map(s => s.id), GAUGES, plate))
  console.log(`  hover to branch among two stilts: ${spreadOf(branches())}; ${braces.length} braces among ${hundred.length} stilts found in ${braceMs.toFixed(0)} ms and put in in ${rowsMs.toFixed(0)} ms; the ${tied.length} that hang together seated anew in ${seatMs.toFixed(0)} ms, ${seated.braces} braces without room`)

  const placed = (way: Spread['way'], spacingMm: number): { tips: number; stands: number } => {
    const steps = placeSpread(surface, patches, { id: 'spread', gauge: 'light', spacingMm, keepMm: 0, way }, { gauges: GAUGES, plate, tips: [], others: { field: new BeamField(), limitMm: 0.5 } })
    for (;;) {
      const step = steps.next()
      if (step.done) return { tips: step.value.stilts.length + step.value.missed.length, stands: step.value.stilts.length }
    }
  }
  // of some lines the one with most skin along it
  const far = (p: readonly number[], q: readonly number[]): number => Math.hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2])
  const lines = hits.slice(0, 60).flatMap((p, i) => hits.slice(i + 1, 60).map(q => ({ p, q, mm: far(p.point, q.point) }))).filter(l => l.mm > 8 && l.mm < 30).slice(0, 200)
  const best = lines.reduce((most, l) => (alongLine(surface, l.p, l.q, l.mm / 50).length > alongLine(surface, most.p, most.q, most.mm / 50).length ? l : most))
  const line = { kind: 'line' as const, from: anchorOf(surface, best.p), to: anchorOf(surface, best.q) }
  const [ofLine, lineMs] = timed(() => placed(line, best.mm / 50))
  const faces = hits.slice(0, 40).map(h => patches.patchAt(h.face)).reduce((most, f) => (f.length > most.length ? f : most)), over = { kind: 'face' as const, runs: runsOf(faces.map(f => mesh.from?.[f] ?? f)), pattern: 'hexagonal' as const, marginMm: 0.3 }
  const [ofFace, faceMs] = timed(() => placed(over, name === 'heron' ? 0.8 : 2.2))
  console.log(`  a line: ${ofLine.stands} of ${ofLine.tips} in ${lineMs.toFixed(0)} ms; over a face of ${faces.length} triangles: ${ofFace.stands} of ${ofFace.tips} in ${faceMs.toFixed(0)} ms`)

  const times: number[] = [], verdicts = stilts.flatMap(s => {
    const [said, ms] = timed(() => judgeStilt(surface, s, { gauge: fine }))
    times.push(ms)
    return said
  })
  console.log(`  all stilts judged: ${verdicts.length} verdicts in ${times.reduce((a, b) => a + b, 0).toFixed(0)} ms (one: ${spreadOf(times)}); again pairs of tips in ${timed(() => judgeTips(stilts, 0.5))[1].toFixed(0)} ms`)
  const rule = SelectRuleSchema.parse({ tipMm: [0.1, 0.3], heightMm: [10, 60], leanDeg: [0, 20] }), facts = { roleOf: (s: Stilt) => s.role, shareOf: () => 0, worthOf: () => 'plain' as const, isNear: () => true }
  console.log(`  selected by a rule: ${median(Array.from({ length: 9 }, () => timed(() => stiltsByRule(stilts, rule, facts))[1])).toFixed(1)} ms; another tip diameter for all: ${timed(() => stilts.map(s => resizeStilt(surface, s, { tipDiameterMm: 0.25 }, fine, plate)))[1].toFixed(0)} ms`)

  // one step of undo of all stilts, and all of them written out with the part; beside the part alone
  const job = contentOf(jobRow('job', { parts: [partRow()], nodes: rows.flatMap(x => x.nodes), beams: rows.flatMap(x => x.beams) })), plan = new PlanIndex(job.tables.nodes, job.tables.beams)
  const take = (change: Change): Change => {
    const { inverse, touched } = applyChange(job, change)
    plan.touch(touched.rows.get('nodes') ?? [], touched.rows.get('beams') ?? [])
    return inverse
  }
  const inverse = take(changeOfStilts(plan, 'part', 'all', { put: plan.stiltsOf('part').map(stilt => ({ stilt, shape: { ...stilt, sizes: { ...stilt.sizes, tipDiameterMm: 0.25 } } })) }))
  const [, undoMs] = timed(() => {
    take(inverse)
    plan.stiltsOf('part')
  })
  const [solids, solidMs] = timed(() => solidsOfPart(plan, 'part', NO_RAFT)), [, stlMs] = timed(() => writeStl(joinMeshes([mesh, ...solids]), 'bench')), [, aloneMs] = timed(() => writeStl(mesh, 'bench'))
  console.log(`  undo of a change of all: ${undoMs.toFixed(0)} ms; their solids made in ${solidMs.toFixed(0)} ms and written with the part in ${stlMs.toFixed(0)} ms (reference, the part alone: ${aloneMs.toFixed(0)} ms)`)

  const gauge = pegGauge(1.2, 3), pegs = rowsOfPegs({ widthMm: 100, depthMm: 70, spacingMm: 4, pattern: 'hexagonal' }, gauge.id), [bed, bedMs] = timed(() => {
    const steps = pegsUnder(surface, { pegs, gauges: [gauge] }, { xMm: 0, yMm: 0, turnDeg: 0 }, { plate, tips: [], keepMm: 0, others: { field: new BeamField(), limitMm: 0.5 } })
    for (;;) {
      const step = steps.next()
      if (step.done) return step.value
    }
  })
  console.log(`  a bed of ${pegs.length} pegs: ${bed.filter(b => b.ok).length} touch, in ${bedMs.toFixed(0)} ms with what each touches`)
}

// supports that a file arrives with, read out of it again
for (const model of ['buoy', 'bell'] as const) {
  const mesh = prepareMesh(wholeOf(await readModel(readFileSync(await demoStl(model))))).mesh
  const [{ found }, ms] = timed(() => findSupports(mesh))
  console.log(`${model}, ${(mesh.triangles.length / 3).toLocaleString('en')} triangles: ${found.supports.length} supports recognised in ${ms.toFixed(0)} ms`)
}
