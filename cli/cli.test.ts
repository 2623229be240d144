import { spawnSync } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { CheckReportSchema, PlanFileSchema, ScanReportSchema } from '@oak-stilts/core/contract'
import { joinMeshes, prepareMesh, readModel, wholeOf, writeStl } from '../core/mesh'
import { objText } from '../core/testing/model-files'
import { bowl, sphere } from '../core/testing/shapes'
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

  it('ends with exit code 2 and a sentence, no stack, where a command makes no sense', () => {
    const r = typed('slice', scene)
    expect([r.code, r.out]).toEqual([2, ''])
    expect(r.err).toMatch(/no command "slice"/)
    expect(r.err).not.toMatch(/\n\s+at /)
  })

  it.each<[string, string[], RegExp]>([
    ['no command', [], /A command is missing/],
    ['an unknown command', ['slice', scene], /no command "slice"/],
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
    ['another format', ['export', scene, '--plan', scene, '--out', 'x.obj'], /\.stl or \.3mf/],
  ])('refuses %s with a sentence and exit code 2', async (_, args, sentence) => {
    const r = await cli(...args)
    expect([r.code, r.out]).toEqual([2, ''])
    expect(r.err).toMatch(sentence)
    expect(r.err).not.toMatch(/\n\s+at /)
    expect(existsSync('x.stl')).toBe(false)
  })
})
