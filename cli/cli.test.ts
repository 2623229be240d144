import { spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { beforeAll, describe, expect, it } from 'vitest'
import type { z } from 'zod'
import { AuditReportSchema, BUILT_IN_GAUGES, BUILT_IN_RECIPES, CheckReportSchema, CutReportSchema, DEFAULT_RESIN, HollowReportSchema, LiftOutReportSchema, PlanCheckReportSchema, PlanFileSchema, PlanReportSchema, ProofReportSchema, ReadyReportSchema, ScanReportSchema, TiltReportSchema, USUAL_OPTIONS, type Part } from '@oak-stilts/core/contract'
import { joinMeshes, prepareMesh, readModel, volumeOf, wholeOf, writeStl } from '../core/mesh'
import { writeJobFile } from '../core/job-file'
import { runsOf } from '../core/marks'
import { gaugeOf, rowsOfStilt, sizesOf, solidOfStilts } from '../core/stilts'
import { copyRow, jobRow, partRow, uprightShape } from '../core/testing/jobs'
import { objText } from '../core/testing/model-files'
import { bowl, box, lathe, sphere } from '../core/testing/shapes'
import { run } from './run'

const folder = mkdtempSync(join(tmpdir(), 'oak-stilts-cli-'))
const root = join(import.meta.dirname, '..')
const scene = join(folder, 'scene.stl')
writeFileSync(scene, writeStl(joinMeshes([bowl(6, 1, 8, 2, 0, 64), sphere([14, 0, 6], 3, 48)]), 'scene'))

const other = join(folder, 'other.stl'), foreign = join(folder, 'foreign.json'), far = join(folder, 'far.json')
writeFileSync(other, writeStl(sphere([0, 0, 6], 3, 24), 'other'))
const planWith = (more: object): string => JSON.stringify({ format: 'oak-stilts-plan', version: 2, pose: null, nodes: [], beams: [], ...more })
writeFileSync(foreign, planWith({ madeFor: { pixelMm: 0.05, layerMm: 0.05, triangles: 12, sizeMm: [1, 1, 1] } }))
writeFileSync(far, planWith({ nodes: [{ id: '1.knee', stilt: 1, kind: 'knee', at: [1e300, 0, 0] }] }))

const cone = join(folder, 'cone.stl'), coneMesh = lathe([[0, 0], [4, 0], [0, 12]], 48), coneFile = writeStl(coneMesh, 'cone'), ballFile = writeStl(sphere([0, 0, 0], 3, 16), 'ball')
writeFileSync(cone, coneFile)
// a job of two parts, one of them held by a stilt, its base prized
const jobFile = join(folder, 'job.3mf'), hashOf = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex')
const partOf = (id: string, name: string, fileHash: string): Part => partRow(id, { name, source: { ...partRow().source, fileHash }, pose: { tiltXDeg: 0, tiltYDeg: 0, liftMm: 3 } })
const stilt = rowsOfStilt(uprightShape(0, { anchor: { point: [0, 0, 0], normal: [0, 0, -1] }, path: [[0, 0, 3], [0, 0, 1.5], [0, 0, 0]] }), { part: 'cone', number: 1 })
const job = jobRow('job', {
  layerMm: 0.1, parts: [partOf('cone', 'Cone', hashOf(coneFile)), partOf('ball', 'Ball', hashOf(ballFile))], copies: [copyRow('c', 'cone'), copyRow('d', 'ball')], ...stilt,
  marks: [{ id: 'm', part: 'cone', worth: 'prized', runs: runsOf([...Array(coneMesh.triangles.length / 3).keys()].filter(f => [0, 1, 2].every(c => coneMesh.positions[3 * coneMesh.triangles[3 * f + c] + 2] === 0))) }],
})
async function writeJob(of: typeof job, path: string): Promise<void> {
  const pieces: Uint8Array[] = []
  await writeJobFile({ job: of, meshOf: p => (p.id === 'cone' ? coneMesh : sphere([0, 0, 0], 3, 16)), picture: null, files: [coneFile, ballFile].map(bytes => ({ hash: hashOf(bytes), read: () => [bytes] })) }, bytes => pieces.push(bytes.slice()))
  writeFileSync(path, Buffer.concat(pieces))
}
beforeAll(() => writeJob(job, jobFile))

interface Said {
  readonly code: number | null
  readonly out: string
  readonly err: string
}
/** A command as a person gives it, in a process of its own. */
function typed(...args: string[]): Said {
  const r = spawnSync(process.execPath, ['--import', 'tsx', join(root, 'cli', 'main.ts'), ...args], { cwd: root, maxBuffer: 1 << 28 })
  return { code: r.status, out: r.stdout.toString(), err: r.stderr.toString() }
}
async function cli(...args: string[]): Promise<Said> {
  let out = '', err = ''
  const code = await run(args, { result: line => (out += `${line}\n`), note: line => (err += `${line}\n`) })
  return { code, out, err }
}

describe('the command line', () => {
  it('scans to the published form', () => {
    const r = typed('scan', scene, '--json')
    expect([r.code, r.err]).toEqual([0, ''])
    const report = ScanReportSchema.parse(JSON.parse(r.out))
    expect(report).toMatchObject({ layerHeightMm: 0.05, pixelMm: 0.05, layerCount: 100 + 180, mesh: { unclosedEdges: 0, sheets: 0, turnedShells: 0, tooDamaged: false, shells: 2 } })
    expect(report.islands.map(i => [i.class, i.state])).toEqual([['body', 'open'], ['limb', 'open']])
    // the ball goes on above the bowl's rim, so the cup ends where it joins the outside
    expect(report.suction.map(s => [s.firstLayer, s.lastLayer, s.ends])).toEqual([[140, 259, 'vent']])
    expect(report.layers.areaMm2).toHaveLength(280)
  })

  it('takes pose, layer and pixel, also negative angles', async () => {
    const r = JSON.parse((await cli('scan', scene, '--layer', '0.1', '--pixel', '0.1', '--tilt-x', '-180', '--lift', '2')).out) as { layerCount: number; suction: unknown[] }
    expect(r.layerCount).toBe(20 + 90)
    // hung upside down the bowl opens to the vat below
    expect(r.suction).toEqual([])
  })

  it('holds, exports, and what it exports scans clean as it stands', async () => {
    const plan = join(folder, 'plan.json'), stl = join(folder, 'out.stl'), stilts = join(folder, 'stilts.stl'), package3mf = join(folder, 'out.3mf')
    const held = await cli('hold', scene, '--tilt-y', '10', '--ledges', '--out', plan)
    expect(held.code).toBe(0)
    expect(JSON.parse(held.out)).toMatchObject({ openIslands: 0, notHeld: [] })
    expect(PlanFileSchema.parse(JSON.parse(readFileSync(plan, 'utf8'))).pose).toMatchObject({ tiltYDeg: 10 })
    expect((await cli('export', scene, '--plan', plan, '--out', stl)).code).toBe(0)
    // on another pixel the part is centred otherwise, and the stilts go along
    const coarse = join(folder, 'coarse.stl')
    expect((await cli('export', scene, '--plan', plan, '--pixel', '0.07', '--out', coarse)).code).toBe(0)
    expect(ScanReportSchema.parse(JSON.parse((await cli('scan', coarse, '--as-is')).out)).islands.filter(i => i.state !== 'noted')).toEqual([])
    expect((await cli('export', scene, '--plan', plan, '--out', stilts, '--stilts-only')).code).toBe(0)
    expect((await cli('export', scene, '--plan', plan, '--out', package3mf)).code).toBe(0)
    expect(readFileSync(package3mf).subarray(0, 2).toString()).toBe('PK')
    const solid = prepareMesh(wholeOf(await readModel(readFileSync(stilts)))).report
    expect([solid.unclosedEdges, solid.turnedShells, solid.sheets]).toEqual([0, 0, 0])
    // stilts whose feet meet in the same point are one shell once the file is welded
    const stiltCount = (JSON.parse(held.out) as { stilts: number }).stilts
    expect(solid.shells).toBeLessThanOrEqual(stiltCount)
    expect(solid.shells).toBeGreaterThan(stiltCount * 0.9)
    const report = ScanReportSchema.parse(JSON.parse((await cli('scan', stl, '--as-is')).out))
    expect(report.islands.filter(i => i.state !== 'noted')).toEqual([])
    // the scan of the source with its plan says the same
    const withPlan = ScanReportSchema.parse(JSON.parse((await cli('scan', scene, '--plan', plan)).out))
    expect(withPlan.islands.map(i => i.state)).toEqual(withPlan.islands.map(i => (i.class === 'flake' && i.state === 'noted' ? 'noted' : 'held')))
  })

  it('checks a file: format, unit, sizes, every count; and writes it mended', async () => {
    const damaged = join(folder, 'damaged.obj'), mended = join(folder, 'mended.3mf'), ball = sphere([0, 0, 0], 1, 32)
    const triangles = ball.triangles.slice(3)
    ;[triangles[301], triangles[302]] = [triangles[302], triangles[301]]
    writeFileSync(damaged, objText({ positions: ball.positions, triangles }))
    const report = CheckReportSchema.parse(JSON.parse((await cli('check', damaged, '--json', '--mend', mended)).out))
    expect(report).toMatchObject({ format: 'obj', statedUnitMm: null, notes: [], unitGuesses: [{ unit: 'inches' }, { unit: 'centimetres' }], models: [{ name: 'thing', copies: 1, sound: false, mesh: { triangles: ball.triangles.length / 3 - 1, unclosedEdges: 3, cappedLoops: 1, flippedFaces: 1, crossingPairs: 0, shells: 1, tooDamaged: false } }] })
    // Closed form: 4πr² and 4/3 πr³; the ball of 32 corners lies within it
    const [{ areaMm2, mesh }] = report.models
    expect([areaMm2 / (4 * Math.PI), mesh.volumeMm3 / (4 / 3 * Math.PI)]).toEqual([expect.closeTo(0.99, 1), expect.closeTo(0.98, 1)])
    const told = await cli('check', mended)
    expect(told.out).toMatch(/^3MF, millimetres\nthing: 960 triangles, 2\.00 × 2\.00 × 2\.00 mm, .* 1 shell\n {2}Sound\.\n$/)
    expect((await cli('check', damaged)).out).toMatch(/Were these inches\? It would be 50\.8 mm at its largest\.\n.*\n {2}3 unclosed edges\n {2}1 hole closed\n {2}1 flipped face\n {2}Mended where it is safe\./)
  })

  it('finds tilts to the published form: a cone that is tilted over has nothing to hold, the one that was asked for is told as well', async () => {
    const r = await cli('tilt', cone, '--layer', '0.1', '--pixel', '0.1', '--json'), report = TiltReportSchema.parse(JSON.parse(r.out))
    // the base is 8 mm wide; once it is tilted over enough, nothing leans out
    expect(report.symmetry?.order).toBeNull()
    expect(report.now.measures.steepMm2.plain / (16 * Math.PI)).toBeCloseTo(1, 2)
    expect(report.tilts[0].measures).toMatchObject({ pixelMm: 0.1, scarMm2: 0 })
    expect(report.tilts.every(t => t.measures.ledgesMm2 !== null && t.why.endsWith('.'))).toBe(true)
    const text = (await cli('tilt', cone, '--layer', '0.1', '--pixel', '0.1')).out
    expect(text).toMatch(/tilts tried in .*the same after any turn about an axis\nnow {4}x 0°, y 0°: 0 islands/)
  })

  it('takes a part of a whole job in place of a file: its pose, stilts, marks and settings', async () => {
    const scan = async (...more: string[]): Promise<z.infer<typeof ScanReportSchema>> => ScanReportSchema.parse(JSON.parse((await cli('scan', '--job', jobFile, '--part', 'Cone', ...more)).out))
    const asIs = await scan()
    // the job's layers are 0.1 mm, its lift 3 mm, and a stilt reaches down to the plate
    expect([asIs.layerHeightMm, asIs.layerCount, asIs.islands[0].state]).toEqual([0.1, 150, 'partly'])
    expect((await scan('--layer', '0.2')).layerCount).toBe(75)
    const lifted = await cli('scan', '--job', jobFile, '--part', 'Cone', '--lift', '6')
    expect(JSON.parse(lifted.out)).toMatchObject({ layerCount: 180, islands: [{ state: 'partly' }] })
    expect(CheckReportSchema.parse(JSON.parse((await cli('check', '--job', jobFile, '--part', 'Cone', '--json')).out)).models[0].name).toBe('Cone')
    const stl = join(folder, 'of-job.stl')
    expect(JSON.parse((await cli('export', '--job', jobFile, '--part', 'Cone', '--out', stl)).out)).toMatchObject({ stilts: 1 })
    expect((await cli('scan', '--job', jobFile)).err).toMatch(/several parts. Name one with --part: “Ball”, “Cone”/)
    expect((await cli('scan', '--job', jobFile, '--part', 'Post')).err).toMatch(/no part “Post”/)
    expect((await cli('scan', '--job', scene)).err).toMatch(/holds no job/)
    // its marks count, for the file as well
    const marked = TiltReportSchema.parse(JSON.parse((await cli('tilt', '--job', jobFile, '--part', 'Cone', '--json')).out))
    expect(marked.symmetry).toBeNull()
    expect(marked.now.measures.steepMm2.prized / (16 * Math.PI)).toBeCloseTo(1, 2)
    const onFile = TiltReportSchema.parse(JSON.parse((await cli('tilt', cone, '--marks', jobFile, '--part', 'Cone', '--layer', '0.1', '--json')).out))
    expect(onFile.now.measures.steepMm2).toEqual(marked.now.measures.steepMm2)
    expect((await cli('tilt', scene, '--marks', jobFile, '--part', 'Cone')).err).toMatch(/belong to a file of 96 triangles/)
  }, 120_000)

  it('audits tips to the published form, and tells all there is to say about the stilts of a plan', async () => {
    const audit = await cli('audit', '--job', jobFile, '--part', 'Cone', '--json'), report = AuditReportSchema.parse(JSON.parse(audit.out))
    // one light stilt that carries a cone on prized skin
    expect([audit.code, report]).toEqual([0, { leastMm: 0.4, weak: 1, tips: [expect.objectContaining({ stilt: 1, gauge: 'light', shape: 'cone', tipMm: 0.35, role: 'carrier', heightMm: 3, worth: 'prized', weak: true })] }])
    expect((await cli('audit', '--job', jobFile, '--part', 'Cone')).out).toMatch(/stilt +1 +tip 0\.35 mm +carrier +at +3\.00 mm +prized +thin\n1 tips, 1 of those/)
    const check = await cli('plan', 'check', '--job', jobFile, '--part', 'Cone', '--json'), said = PlanCheckReportSchema.parse(JSON.parse(check.out))
    expect([check.code, said.stilts, said.verdicts.map(v => [v.kind, v.stilts, v.figures.worth])]).toEqual([0, 1, [['scar', [1], 'prized']]])
    expect((await cli('plan', 'check', '--job', jobFile, '--part', 'Cone')).out).toMatch(/scar +stilt 1: worth prized, areaMm2 0\.10\n1 stilts, 1 scar/)
    // a plan of its own, beside the file
    const plan = join(folder, 'audited.json')
    await cli('hold', cone, '--lift', '5', '--layer', '0.1', '--pixel', '0.1', '--out', plan)
    expect(JSON.parse((await cli('plan', 'check', cone, '--plan', plan, '--json')).out)).toMatchObject({ stilts: (JSON.parse(readFileSync(plan, 'utf8')) as { nodes: { kind: string }[] }).nodes.filter(n => n.kind === 'tip').length })
    for (const [words, sentence] of [[['audit', cone], /No supports were found in this file/], [['lift-out', cone], /--model OUT\.stl and --plan OUT\.json/], [['plan', cone], /"plan" needs --out PLAN\.json.*"plan check"/], [['plan', 'check'], /takes one file/]] as const) {
      const r = await cli(...words)
      expect([r.code, sentence.test(r.err)]).toEqual([2, true])
    }
  })

  it('proves a part on its stilts to the published form; what is not ready ends with 3', async () => {
    const slab = join(folder, 'slab.stl'), plan = join(folder, 'slab.json'), usual = ['--layer', '0.1', '--pixel', '0.1']
    writeFileSync(slab, writeStl(box([-5, -3, 0], [5, 3, 3]), 'slab'))
    expect((await cli('hold', slab, ...usual, '--lift', '8', '--ledges', '--out', plan)).code).toBe(0)
    const proof = await cli('proof', slab, ...usual, '--plan', plan, '--json'), report = ProofReportSchema.parse(JSON.parse(proof.out))
    expect(report.checks.map(c => c.kind)).toEqual(['hangs', 'floating', 'plate', 'tips', 'beams', 'slender', 'feet', 'sway', 'first-layer', 'suction', 'carriers', 'gaps', 'scars', 'skin', 'written'])
    expect([proof.code, report.ready]).toEqual(report.checks.some(c => c.state === 'bad') ? [3, false] : [0, true])
    expect(report.lanes.pullN[100]).toBeCloseTo(60 * 0.02, 2)
    expect(report.tips[0].share).toBeGreaterThanOrEqual(report.tips[report.tips.length - 1].share)
    // a resin of a tenth of the strength
    const resin = join(folder, 'resin.json')
    writeFileSync(resin, JSON.stringify({ ...DEFAULT_RESIN, name: 'Weak', greenStrengthNMm2: DEFAULT_RESIN.greenStrengthNMm2 / 10 }))
    const weak = ProofReportSchema.parse(JSON.parse((await cli('proof', slab, ...usual, '--plan', plan, '--resin', resin, '--json')).out))
    expect(weak.tips[0].share / report.tips[0].share).toBeCloseTo(10, 6)
    const told = await cli('proof', '--job', jobFile, '--part', 'Cone')
    expect([told.code, told.out]).toEqual([3, expect.stringMatching(/^Not ready: .*\n(ok|see|\s).*[\s\S]*weakest tips/)])
    for (const [words, sentence] of [[['proof', slab], /no stilts to prove/], [['proof', slab, '--plan', plan, '--resin', 'Moonshine'], /no resin "Moonshine", and no file/], [['scan', slab, '--resin', 'Grey'], /--resin goes with "proof", "ready", "plan" and "slice"/], [['proof', slab, '--plan', plan, '--resin', plan], /holds no resin/]] as const) {
      const said = await cli(...words)
      expect([said.code, said.err]).toEqual([2, expect.stringMatching(sentence)])
    }
  })

  it('plans a part to the published form, keeps what stands, and writes a plan that is proved as it said', async () => {
    const shelf = join(folder, 'shelf.stl'), out = join(folder, 'forest.json'), usual = ['--layer', '0.1', '--pixel', '0.1', '--lift', '14']
    writeFileSync(shelf, writeStl(box([-9, -5, 0], [9, 5, 2]), 'shelf'))
    const made = await cli('plan', shelf, ...usual, '--out', out, '--json'), report = PlanReportSchema.parse(JSON.parse(made.out))
    expect([made.code, report.notHeld, report.measures.openIslands, report.measures.openLedges]).toEqual([0, [], 0, 0])
    expect(report.feet).toBeLessThan(report.tips / 2)
    const proof = ProofReportSchema.parse(JSON.parse((await cli('proof', shelf, ...usual.slice(0, 4), '--plan', out, '--json')).out))
    expect(proof.checks.map(c => [c.kind, c.state])).toEqual(report.proof.checks.map(c => [c.kind, c.state === 'good' && c.kind === 'carriers' ? expect.anything() : c.state]))
    expect(proof.tips[0].share).toBeCloseTo(report.measures.weakest ?? 0, 6)
    // what it planned stays when it is asked again
    const again = PlanReportSchema.parse(JSON.parse((await cli('plan', shelf, ...usual.slice(0, 4), '--plan', out, '--out', join(folder, 'again.json'), '--json')).out))
    expect([again.placed, again.tips]).toEqual([0, report.tips])
    // only what was allowed is used; and only what was asked for is held
    const fine = PlanReportSchema.parse(JSON.parse((await cli('plan', shelf, ...usual, '--gauges', 'fine', '--no-sticks', '--what', 'islands', '--out', out, '--json')).out))
    expect(new Set((JSON.parse(readFileSync(out, 'utf8')) as { nodes: { kind: string; gauge?: string }[] }).nodes.filter(n => n.kind === 'tip').map(n => n.gauge))).toEqual(new Set(['fine']))
    expect(fine.measures.openIslands).toBe(0)
    // what is picked: the ledge near a place, or the underside of one of two plates by its triangles
    const two = join(folder, 'two.stl')
    writeFileSync(two, writeStl(joinMeshes([box([-9, -3, 0], [-3, 3, 2]), box([3, -3, 0], [9, 3, 2])]), 'two'))
    const planned = async (...words: string[]): Promise<number[]> => {
      await cli('plan', two, ...usual, ...words, '--out', out, '--json')
      return (JSON.parse(readFileSync(out, 'utf8')) as { nodes: { kind: string; at: number[] }[] }).nodes.filter(n => n.kind === 'tip').map(n => n.at[0])
    }
    const all = await planned(), right = all.filter(x => x > 0).length
    expect([right > 0, right < all.length]).toEqual([true, true])
    for (const words of [['--near', '6,0,14'], ['--triangles', '12-23']]) expect((await planned(...words)).map(x => x > 0)).toEqual(Array(right).fill(true))
    // a recipe by its name; what is asked for beside it counts first
    const byRecipe = PlanReportSchema.parse(JSON.parse((await cli('plan', shelf, ...usual, '--recipe', 'large figure', '--within', '1.2', '--out', out, '--json')).out)), kept = PlanFileSchema.parse(JSON.parse(readFileSync(out, 'utf8')))
    expect([byRecipe.tips > 1.5 * report.tips, kept.version === 3 && kept.raft.kind]).toEqual([true, 'pads'])
    // and one from a file, with a gauge that not everybody has
    const own = join(folder, 'own.json'), broad = { ...BUILT_IN_GAUGES[1], id: 'broad', name: 'Broad', tipDiameterMm: 0.45 }
    writeFileSync(own, JSON.stringify({ format: 'oak-stilts-recipe', version: 1, recipe: { ...BUILT_IN_RECIPES[0], id: 'own', options: { ...USUAL_OPTIONS, gauges: ['broad'], branches: false } }, gauges: [broad] }))
    const ownPlan = PlanReportSchema.parse(JSON.parse((await cli('plan', shelf, ...usual, '--recipe', own, '--out', out, '--json')).out))
    expect([ownPlan.feet, PlanFileSchema.parse(JSON.parse(readFileSync(out, 'utf8')))]).toEqual([ownPlan.tips, expect.objectContaining({ gauges: [expect.objectContaining({ id: 'broad' })] })])
    for (const [words, sentence] of [[['--gauges', 'thin'], /There is no gauge "thin"\. There are fine, light/], [['--what', 'some'], /--what takes "everything", "islands", .* or "faces"/], [['--recipe', 'soup'], /There is no recipe "soup", and no file of that name\. Built in are "Miniature"/], [['--raft', 'boat'], /--raft takes/], [['--near', '1,2'], /--near takes places on the plate as X,Y,Z/], [['--near', '60,0,0'], /Nothing hangs within 5 mm of 60, 0, 0; the nearest is [\d.]+ mm away, at/], [['--triangles', '3-99'], /names triangle 99; the file has 12/], [['--triangles', '9-3'], /counted from 0, as 0-99,120/], [['--what', 'first', '--near', '0,0,14'], /one of --what, --faces, --near and --triangles/]] as const) {
      const refused = await cli('plan', shelf, ...usual, ...words, '--out', out)
      expect([refused.code, refused.err]).toEqual([2, expect.stringMatching(sentence)])
    }
    expect((await cli('scan', shelf, '--no-sticks')).err).toMatch(/--no-sticks goes with "plan"/)
    expect((await cli('plan', shelf, ...usual, '--out', out)).out).toMatch(/\d+ tips placed; \d+ tips on \d+ feet, [\d.]+ cm³ of resin/)
  }, 60_000)

  it('makes a file ready: a job that opens with its plan and its proof, to the published form', async () => {
    const slab = join(folder, 'bare.stl'), out = join(folder, 'bare.3mf'), usual = ['--layer', '0.1', '--lift', '12']
    writeFileSync(slab, writeStl(box([-6, -4, 0], [6, 4, 3]), 'slab'))
    const made = await cli('ready', slab, ...usual, '--out', out, '--json'), report = ReadyReportSchema.parse(JSON.parse(made.out))
    expect([made.code, report.proof.ready, report.left, report.proof.verdict]).toEqual([0, true, [], 'Ready to print.'])
    // the job that was written says the same, and nothing more is done to it
    const again = await cli('proof', '--job', out, '--json'), proof = ProofReportSchema.parse(JSON.parse(again.out))
    expect([again.code, proof.tips.length]).toEqual([0, report.proof.tips.length])
    expect(proof.checks.map(c => c.sentence)).toEqual(report.proof.checks.map(c => c.sentence))
    const twice = ReadyReportSchema.parse(JSON.parse((await cli('ready', '--job', out, '--out', join(folder, 'twice.3mf'), '--json')).out))
    expect([twice.placed, twice.braces, twice.thickened]).toEqual([0, 0, 0])
    // a cup that no stilt helps against is left to do
    const pan = join(folder, 'pan.stl')
    writeFileSync(pan, writeStl(joinMeshes([box([-5, -5, 0], [5, 5, 1]), box([-5, -5, 1], [-4, 5, 5]), box([4, -5, 1], [5, 5, 5]), box([-4, -5, 1], [4, -4, 5]), box([-4, 4, 1], [4, 5, 5])]), 'pan'))
    const left = await cli('ready', pan, ...usual, '--out', join(folder, 'pan.3mf'))
    expect([left.code, left.out]).toEqual([3, expect.stringMatching(/^Not ready: 1 space pulls[\s\S]*written to .*pan\.3mf\nsee {2}1 space pulls/)])
    for (const [words, sentence] of [[['ready', slab], /needs --out JOB\.3mf/], [['ready', slab, '--as-is', '--out', out], /--as-is does not go with/]] as const) {
      const said = await cli(...words)
      expect([said.code, said.err]).toEqual([2, expect.stringMatching(sentence)])
    }
  })

  it('lifts supports out of a file that brings some, into a plan that stands under the model as it did, and audits them', async () => {
    const sizes = { ...sizesOf(gaugeOf('light')), tipDiameterMm: 0.25 }, ready = join(folder, 'ready.stl'), model = join(folder, 'model.stl'), plan = join(folder, 'lifted.json')
    const columns = [-4, 0, 4].map(x => uprightShape(x, { sizes, path: [[x, 0, 8], [x, 0, 5.5], [x, 0, 0]] }))
    writeFileSync(ready, writeStl(joinMeshes([box([-5, -1, 8], [5, 1, 10]), solidOfStilts(columns)]), 'ready'))
    const lifted = await cli('lift-out', ready, '--model', model, '--plan', plan, '--json')
    expect([lifted.code, LiftOutReportSchema.parse(JSON.parse(lifted.out))]).toMatchObject([0, { stilts: 3, braces: 0, raft: 'none', thinnestTipMm: expect.closeTo(0.25, 2) as number }])
    const scan = ScanReportSchema.parse(JSON.parse((await cli('scan', model, '--plan', plan, '--layer', '0.1', '--pixel', '0.1')).out))
    expect([scan.layerCount, scan.islands.length, scan.islands[0].state]).toEqual([100, 1, 'partly'])
    const audit = AuditReportSchema.parse(JSON.parse((await cli('audit', ready, '--layer', '0.1', '--pixel', '0.1', '--json')).out))
    expect([audit.weak, audit.tips.map(t => [t.role, t.heightMm])]).toEqual([3, [['carrier', expect.closeTo(8, 3)], ['carrier', expect.closeTo(8, 3)], ['carrier', expect.closeTo(8, 3)]]])
  })

  it('hollows a part to a wall, drills it where it is told, and says what cannot be done', async () => {
    const block = join(folder, 'block.stl'), out = join(folder, 'hollow.stl')
    writeFileSync(block, writeStl(box([0, 0, 0], [20, 20, 20]), 'block'))
    const report = HollowReportSchema.parse(JSON.parse((await cli('hollow', block, '--wall', '2', '--cell', '0.5', '--hole', '10,10,0,2', '--hole', '10,10,20,2', '--out', out, '--json')).out))
    expect(report).toMatchObject({ selfSupporting: false, chambers: [{ min: [expect.closeTo(2, 1), expect.closeTo(2, 1), expect.closeTo(2, 1)] }], leftSolid: { count: 0, volumeMm3: 0 }, holes: [{ depthMm: expect.closeTo(3, 1) as number }, { depthMm: expect.closeTo(3, 1) as number }] })
    const written = prepareMesh(wholeOf(await readModel(readFileSync(out)))).report
    expect([written.unclosedEdges, written.shells]).toEqual([0, 1])
    expect(written.volumeMm3).toBeCloseTo(report.volumeMm3, 0)
    // closed form: a shell of 2 mm around 16³, and two holes of 2 mm through it
    expect(report.volumeMm3 / (8000 - 4096 - 4 * Math.PI)).toBeCloseTo(1, 2)
    // a ceiling of 16 mm would be a ledge; the scan finds none where it carries itself
    for (const [words, ledges] of [[[], 1], [['--self-supporting'], 0]] as const) {
      await cli('hollow', block, '--wall', '2', '--cell', '0.5', ...words, '--out', out)
      const scan = ScanReportSchema.parse(JSON.parse((await cli('scan', out, '--lift', '0', '--layer', '0.1', '--pixel', '0.1')).out))
      expect([scan.ledges.length, scan.islands.length]).toEqual([ledges, 0])
    }
    for (const [words, sentence] of [[['--wall', '12', '--out', out], /thick enough/], [['--wall', '2', '--out', join(folder, 'x.3mf')], /OUT\.stl/], [['--wall', '2', '--hole', '1,2,3', '--out', out], /X,Y,Z,D/]] as const) {
      expect(await cli('hollow', block, ...words)).toMatchObject({ code: 2, err: expect.stringMatching(sentence) as string })
    }
  })

  it('hollows a part of a job that is hollow already anew, not what is left of it', async () => {
    const hollowJob = join(folder, 'hollow job.3mf'), out = join(folder, 'ball.stl'), ball = job.parts[1]
    await writeJob({ ...job, parts: [job.parts[0], { ...ball, recipe: { ...ball.recipe, hollow: { on: true, wallMm: 1, cellMm: 0.25, carries: null } } }] }, hollowJob)
    const { solidMm3, volumeMm3, chambers } = HollowReportSchema.parse(JSON.parse((await cli('hollow', '--job', hollowJob, '--part', 'Ball', '--wall', '0.5', '--cell', '0.2', '--out', out, '--json')).out)), whole = volumeOf(sphere([0, 0, 0], 3, 16))
    // closed form: what is 0.5 mm under a ball of 3 mm is a ball of 2.5 mm
    expect([solidMm3, chambers.length, (whole - volumeMm3) / (whole * (2.5 / 3) ** 3)]).toEqual([expect.closeTo(whole, 1), 1, expect.closeTo(1, 1)])
  })

  it('cuts a part by a plane, through all of it or some, with pegs, and says what cannot be done', async () => {
    const block = join(folder, 'long.stl'), out = join(folder, 'halves'), usual = ['cut', block, '--plane', '0,0,2,10', '--out', out]
    writeFileSync(block, writeStl(box([0, 0, 0], [20, 12, 20]), 'long'))
    const report = CutReportSchema.parse(JSON.parse((await cli(...usual, '--peg', 'keyed,4,5,0.1,2', '--json')).out))
    expect(report).toMatchObject({ areaMm2: expect.closeTo(240, 3) as number, pieces: [{ whole: false }] })
    expect(report.pegs).toHaveLength(2)
    const halves = await Promise.all([report.above, report.below].map(async f => prepareMesh(wholeOf(await readModel(readFileSync(f)))).report))
    expect(halves.map(r => [r.unclosedEdges, r.shells])).toEqual([[0, 1], [0, 1]])
    expect(halves[0].volumeMm3).toBeLessThan(2400 - 100)
    expect(halves[1].volumeMm3).toBeGreaterThan(2400 + 90)
    // pegs where somebody says, brought onto the plane
    expect(CutReportSchema.parse(JSON.parse((await cli(...usual, '--peg', 'round,4,5,0.1', '--peg-at', '5,6,0', '--peg-at', '15,6,18', '--json')).out)).pegs).toEqual([[5, 6, 10], [15, 6, 10]])
    expect((await cli(...usual)).out).toMatch(/^Cut over 240.0 mm² into 2.40 cm³ above and 2.40 cm³ below: /)
    for (const [words, sentence] of [[['--plane', '0,0,1,99'], /does not meet the part/], [['--plane', '0,0,0,1'], /NX,NY,NZ,D/], [['--keep', '0'], /Choose a piece/], [['--keep', '3'], /no piece 3/], [['--peg', 'square,4,5,0.1'], /SHAPE,DIAMETER/], [['--peg', 'round,4,5,0.1,20'], /room for \d+ of 20 pegs/],
      [['--peg-at', '10,6,0'], /--peg says what they are like/], [['--peg', 'round,4,5,0.1', '--peg-at', '10,6'], /--peg-at takes X,Y,Z/], [['--peg', 'round,4,5,0.1', '--peg-at', '30,6,0'], /Peg 1, at 30,6,0, stands beside what is cut/],
      [['--peg', 'round,4,5,0.1', '--peg-at', '2.5,6,0'], /Peg 1, at 2\.5,6,0, leaves 0\.4\d mm of wall/], [['--peg', 'round,4,5,0.1', '--peg-at', '10,6,0', '--peg-at', '12,6,0'], /Pegs 1 and 2 stand too near/]] as const) {
      expect(await cli(...usual, ...words)).toMatchObject({ code: 2, err: expect.stringMatching(sentence) as string })
    }
  })

  it('ends with exit code 2 and a sentence, no stack, where a command makes no sense', () => {
    const r = typed('press', scene)
    expect([r.code, r.out]).toEqual([2, ''])
    expect(r.err).toMatch(/no command "press"/)
    expect(r.err).not.toMatch(/\n\s+at /)
  })

  it.each<[string, string[], RegExp]>([
    ['no command', [], /A command is missing/],
    ['an unknown command', ['press', scene], /no command "press"/],
    ['no file', ['scan'], /takes one file/],
    ['a missing file', ['scan', join(folder, 'none.stl')], /cannot be read/],
    ['a file that is no model', ['scan', join(root, 'package.json')], /not an STL, OBJ, PLY or 3MF file/],
    ['a layer of nothing', ['scan', scene, '--layer', '0'], /--layer takes a number/],
    ['an angle that is none', ['scan', scene, '--tilt-x', 'steep'], /--tilt-x takes a number/],
    ['as-is with a pose', ['scan', scene, '--as-is', '--lift', '3'], /does not go with/],
    ['an unknown option', ['scan', scene, '--fast'], /Unknown option/],
    ['a plan that is none', ['scan', scene, '--plan', join(root, 'package.json')], /not a plan of stilts/],
    ['no place to write to', ['export', scene, '--out', 'x.stl'], /needs --plan/],
    ['a folder to write to that is not there', ['hold', scene, '--out', join(folder, 'none', 'plan.json')], /There is no folder .*none to write to/],
    ['a folder in place of a file', ['hold', scene, '--out', folder], /is a folder\. Name a file in it/],
    ['a file under a file', ['hold', scene, '--out', join(scene, 'plan.json')], /There is no folder/],
    ['a plan that was made for another model', ['export', other, '--plan', foreign, '--out', join(folder, 'y.stl')], /was made for another model: .* 12 triangles/],
    ['a plan with far numbers', ['export', scene, '--plan', far, '--out', join(folder, 'y.stl')], /not a plan of stilts/],
    ['mending to another format', ['check', scene, '--mend', 'x.obj'], /\.stl or \.3mf/],
    ['mending where nothing is checked', ['scan', scene, '--mend', 'x.stl'], /goes with "check"/],
    ['a file and a job', ['scan', scene, '--job', jobFile], /give one of them/],
    ['a part of nothing', ['scan', scene, '--part', 'x'], /--part names a part of/],
    ['marks where they are of no use', ['scan', scene, '--marks', jobFile], /--marks goes with "tilt"/],
    ['another format', ['export', scene, '--plan', scene, '--out', 'x.obj'], /\.stl or \.3mf/],
  ])('refuses %s with a sentence and exit code 2', async (_, args, sentence) => {
    const r = await cli(...args)
    expect([r.code, r.out]).toEqual([2, ''])
    expect(r.err).toMatch(sentence)
    expect(r.err).not.toMatch(/\n\s+at /)
    expect(existsSync('x.stl')).toBe(false)
  })
})
