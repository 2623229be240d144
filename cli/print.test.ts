import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { BUILT_IN_RESINS, RehearsalReportSchema, SendReportSchema, SliceReportSchema } from '@oak-stilts/core/contract'
import { joinMeshes, writeStl } from '../core/mesh'
import { box, sphere } from '../core/testing/shapes'
import { startPrinters } from '../server/printer/start'
import { run } from './run'

const folder = mkdtempSync(join(tmpdir(), 'oak-stilts-print-')), path = (name: string): string => join(folder, name)
writeFileSync(path('block.stl'), writeStl(box([-5, -5, 0], [5, 5, 4]), 'block'))
writeFileSync(path('high.stl'), writeStl(box([-5, -5, 0], [5, 5, 200]), 'high'))
writeFileSync(path('floats.stl'), writeStl(joinMeshes([box([-5, -5, 0], [5, 5, 2]), sphere([9, 0, 3], 1, 24)]), 'floats'))
async function command(...words: string[]): Promise<{ code: number; out: string; err: string }> {
  const out: string[] = [], err: string[] = []
  return { code: await run(words, { result: l => out.push(l), note: l => err.push(l) }), out: out.join('\n'), err: err.join('\n') }
}

describe('slicing from the command line', () => {
  it('writes a package, tells what it comes to (closed form: a block of 400 mm³), and rehearses it', async () => {
    const sliced = await command('slice', path('block.stl'), '--lift', '0', '--out', path('block.zip'), '--json'), report = SliceReportSchema.parse(JSON.parse(sliced.out))
    expect(sliced.code).toBe(0)
    expect(report).toMatchObject({ layers: 80, shades: 2, printer: 'Harbour 50', resinMl: { all: expect.closeTo(0.4, 5), stilts: 0 }, bytes: readFileSync(path('block.zip')).length })
    expect(report.cost).toBeCloseTo(0.4 * 1.1 * 30 / 1000, 5)
    const rehearsed = await command('rehearse', path('block.zip'), '--json')
    expect([rehearsed.code, RehearsalReportSchema.parse(JSON.parse(rehearsed.out))]).toMatchObject([0, { good: true, layers: 80, islands: [], faults: [], firstLayer: { regions: 1, areaMm2: expect.closeTo(100, 6) } }])
  })
  it('writes contours as 3MF with slices, which "check" reads as the model that it is', async () => {
    expect((await command('slice', path('block.stl'), '--lift', '0', '--out', path('block.3mf'))).out).toMatch(/^80 layers of 0\.05 mm as contours of 1 object, /)
    expect((await command('check', path('block.3mf'))).out).toMatch(/12 triangles/)
  })
  it('takes printer, resin and shades by name, and says what begins in the air with the exit code of what is not ready', async () => {
    expect((await command('slice', path('floats.stl'), '--lift', '0', '--printer', 'quay 22', '--resin', BUILT_IN_RESINS[1].name, '--smoothing', 'twice', '--layer', '0.1', '--out', path('floats.zip'))).out).toMatch(/^40 layers of 0\.1 mm for Quay 22, .* MB: .*\nestimates: /)
    const { code, out } = await command('rehearse', path('floats.zip'))
    expect([code, out]).toEqual([3, expect.stringMatching(/something is wrong with its pictures[\s\S]*see {2}Layer 21 lays [\d.]+ mm² on nothing\./)])
  })
  it('refuses what the printer cannot print, bad names, and packages that are none, each with a sentence', async () => {
    expect(await command('slice', path('high.stl'), '--lift', '0', '--out', path('high.zip'))).toMatchObject({ code: 2, err: 'The print is 200.00 mm high; Harbour 50 prints 165 mm.' })
    for (const [words, err] of [
      [['slice', path('block.stl'), '--printer', 'Nobody', '--out', path('x.zip')], /There is no printer "Nobody"/], [['slice', path('block.stl'), '--out', path('x.stl')], /"slice" needs --out PACKAGE\.zip or OUT\.3mf/],
      [['slice', path('block.stl'), '--smoothing', 'soft', '--out', path('x.zip')], /--smoothing takes "none", "twice", "fourfold" or "finest"/], [['rehearse', path('block.stl')], /The package is cut short, or is none of ours/],
      [['send', path('block.zip')], /"send" needs --to/], [['send', path('block.zip'), '--to', 'harbour'], /--to takes the address of a printer/],
    ] as const) expect(await command(...words)).toMatchObject({ code: 2, err: expect.stringMatching(err) })
    const altered = readFileSync(path('block.zip'))
    altered[altered.length >> 1] ^= 1
    writeFileSync(path('altered.zip'), altered)
    expect(await command('rehearse', path('altered.zip'))).toMatchObject({ code: 2, err: expect.stringMatching(/altered after it was written/) })
  })
  it('sends a package to a printer, which refuses one that was sliced for another', async () => {
    const printers = await startPrinters(path('printers'), 0), to = `${printers.url}/printers/harbour-50`
    try {
      const { code, out } = await command('send', path('block.zip'), '--to', to, '--json')
      expect([code, SendReportSchema.parse(JSON.parse(out))]).toMatchObject([0, { printer: 'Harbour 50', name: 'block', alreadyThere: 0 }])
      expect(printers.machines[0].state).toMatchObject({ doing: 'ready', loaded: { name: 'block' } })
      expect(await command('send', path('floats.zip'), '--to', to)).toMatchObject({ code: 2, err: expect.stringMatching(/Slice for this printer/) })
    } finally {
      await printers.close()
    }
  })
})
