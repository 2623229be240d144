import { createHash, randomBytes } from 'node:crypto'
import { mkdtempSync, readdirSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { BUILT_IN_PRINTERS, DEFAULT_RESIN, NO_FAULTS, PLAIN_PRINT, PrinterStateSchema, type PrinterState, type Printer } from '@oak-stilts/core/contract'
import { PackageWriter, PlateSlicer, sendPackage, timesOfLayers, type PrinterLink } from '@oak-stilts/core/print'
import { between, random } from '../../core/testing/random'
import { box } from '../../core/testing/shapes'
import { Machine } from './machine'
import { startPrinters, type RunningPrinters } from './start'

const [harbour, other] = BUILT_IN_PRINTERS
function packageFor(printer: Printer, highMm = 2): { bytes: Uint8Array; sha256: string } {
  const slicer = new PlateSlicer({ parts: [{ id: 'a', mesh: box([-5, -5, 0], [5, 5, highMm]), stand: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0] as never, stilts: [], raft: null }], copies: [{ part: 'a', xPixels: 0, yPixels: 0, turnDeg: 0 }], printer, layerMm: 0.05, printing: PLAIN_PRINT, resin: DEFAULT_RESIN })
  const pieces: Uint8Array[] = [], writer = new PackageWriter({ name: 'Block', job: null, parts: [{ name: 'Block', copies: 1 }], layerMm: 0.05, printer, resin: DEFAULT_RESIN, printing: PLAIN_PRINT }, b => pieces.push(b.slice())), times = timesOfLayers(slicer.layerCount, 0.05, DEFAULT_RESIN, [], printer)
  for (let b = 0; b < slicer.bands; b++) for (const l of slicer.band(b)) writer.add(l, times[writer.layers])
  writer.finish()
  return { bytes: Uint8Array.from(Buffer.concat(pieces)), sha256: writer.sha256 }
}
let good: { bytes: Uint8Array; sha256: string }, tall: typeof good
beforeAll(() => {
  good = packageFor(harbour)
  // so many layers that a busy machine does not come to its end before it is told anything
  tall = packageFor(harbour, 40)
})

let folder = '', running: RunningPrinters
beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'oak-stilts-printers-'))
  running = await startPrinters(folder, 0)
})
afterEach(async () => {
  await running.close()
  rmSync(folder, { recursive: true, force: true })
})
const address = (): string => `${running.url}/printers/harbour-50`
const link: PrinterLink = async (method, path, send) => {
  const answer = await fetch(`${address()}${path}`, { method, headers: { ...(send?.json !== undefined && { 'Content-Type': 'application/json' }), ...(send?.piece !== undefined && { 'Content-Type': 'application/offset+octet-stream' }), ...send?.headers }, body: send?.json !== undefined ? JSON.stringify(send.json) : (send?.piece as BodyInit | undefined) })
  return { status: answer.status, body: await answer.json().catch(() => null) }
}
const send = (of: { bytes: Uint8Array; sha256: string }, told: (n: number) => void = () => undefined, goesOn: () => void = () => undefined, ask: PrinterLink = link): Promise<PrinterState> => sendPackage({ name: 'Block', bytes: of.bytes.length, sha256: of.sha256, piece: (at, n) => Promise.resolve(of.bytes.slice(at, at + Math.min(n, 20_000))) }, { ask, told, goesOn, wait: ms => new Promise(resolve => setTimeout(resolve, ms / 20)) })
const state = async (): Promise<PrinterState> => PrinterStateSchema.parse(await (await fetch(address())).json())
const order = (what: string): Promise<Response> => fetch(`${address()}/orders`, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ order: what }) })
const simulate = (what: object): Promise<Response> => fetch(`${address()}/simulation`, { method: 'PUT', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(what) })
const until = async (is: (s: PrinterState) => boolean): Promise<PrinterState> => {
  for (;;) {
    const s = await state()
    if (is(s)) return s
    if (['done', 'failed', 'stopped'].includes(s.doing)) throw new Error(`It is ${s.doing}: ${s.says}`)
    await new Promise(r => setTimeout(r, 20))
  }
}
const altered = (at: number): { bytes: Uint8Array; sha256: string } => {
  const bytes = good.bytes.slice()
  bytes[at] ^= 4
  return { bytes, sha256: createHash('sha256').update(bytes).digest('hex') }
}

describe('a simulated printer', () => {
  it('is found in the list, takes a package in pieces, and runs it to its end in speeded-up time', async () => {
    expect(((await (await fetch(`${running.url}/printers`)).json()) as PrinterState[]).map(p => [p.printer.name, p.doing])).toEqual(BUILT_IN_PRINTERS.map(p => [p.name, 'idle']))
    const arrived: number[] = [], loaded = await send(good, n => arrived.push(n))
    expect(loaded).toMatchObject({ doing: 'ready', loaded: { name: 'Block', layers: 40, bytes: good.bytes.length } })
    expect(arrived.at(-1)).toBe(good.bytes.length)
    expect(arrived.length).toBeGreaterThan(3)
    await simulate({ speed: 20_000 })
    const told: PrinterState[] = [], events = await fetch(`${address()}/events`), reader = (events.body as ReadableStream<Uint8Array>).getReader()
    expect((await order('start')).status).toBe(200)
    for (let text = ''; told.at(-1)?.doing !== 'done';) {
      text += new TextDecoder().decode((await reader.read()).value)
      const found = text.split('\n\n')
      text = found.pop() ?? ''
      told.push(...found.map(t => PrinterStateSchema.parse(JSON.parse(t.slice(6)))))
    }
    await reader.cancel()
    const done = told.at(-1) as PrinterState
    // 40 layers of 100 mm² of 0.05 mm: 0.2 ml (closed form)
    expect(done.run).toMatchObject({ layer: 40, secondsLeft: 0, resinUsedMl: expect.closeTo(0.2, 2) })
    expect(done.vatMl).toBeCloseTo(250 - 0.2, 2)
  })
  it('pauses, goes on and stops when it is told to', async () => {
    await send(tall)
    await simulate({ speed: 300 })
    await order('start')
    await until(s => (s.run?.layer ?? 0) > 2)
    expect((await (await order('pause')).json() as PrinterState).doing).toBe('paused')
    const { run } = await state()
    await new Promise(r => setTimeout(r, 150))
    expect((await state()).run?.layer).toBe(run?.layer)
    expect((await order('start')).status).toBe(409)
    await order('resume')
    await until(s => (s.run?.layer ?? 0) > (run?.layer ?? 0))
    expect(await (await order('stop')).json()).toMatchObject({ doing: 'stopped', says: expect.stringMatching(/^Stopped at layer \d+\.$/) })
    expect((await order('pause')).status).toBe(409)
  })
  it('refuses what is larger than its memory, with both sizes, and what it has no room for', async () => {
    await expect(send({ bytes: new Uint8Array(0), sha256: good.sha256 })).rejects.toMatchObject({ code: 'bad-request' })
    const refused = await link('POST', '/uploads', { json: { name: 'Large', bytes: 4_100_000_000, sha256: good.sha256 } })
    expect(refused).toMatchObject({ status: 413, body: { code: 'too-large', detail: 'The package has 4100 MB; Harbour 50 holds 4000 MB. Print fewer copies at once, or without shades.' } })
    await simulate({ faults: { ...NO_FAULTS, fullMemory: true } })
    await expect(send(good)).rejects.toMatchObject({ code: 'full', message: expect.stringMatching(/^The memory of Harbour 50 is full/) })
    expect((await state()).loaded).toBeNull()
  })
  it('names what is altered, cut off, for another printer, or none at all, and never loads it', async () => {
    await send(good)
    const r = random(3)
    for (let n = 0; n < 8; n++) await expect(send(altered(Math.floor(between(r, 100, good.bytes.length))))).rejects.toMatchObject({ name: 'PrinterSaysNo', code: expect.stringMatching(/altered|cut-short|no-package/) })
    await expect(send({ bytes: good.bytes.slice(0, 9000), sha256: createHash('sha256').update(good.bytes.slice(0, 9000)).digest('hex') })).rejects.toMatchObject({ code: 'cut-short' })
    await expect(send({ ...good, sha256: 'a'.repeat(64) })).rejects.toMatchObject({ code: 'altered', message: expect.stringMatching(/not what was sent/) })
    await expect(send(packageFor(other, 0.1))).rejects.toMatchObject({ code: 'picture', message: 'The pictures have 4096 × 2560 pixels; Harbour 50 shows 3067 × 1555. Slice for this printer.' })
    const noise = randomBytes(5000)
    await expect(send({ bytes: noise, sha256: createHash('sha256').update(noise).digest('hex') })).rejects.toMatchObject({ code: expect.stringMatching(/cut-short|no-package/) })
    // what was loaded before is there still, and nothing of the others
    expect((await state()).loaded?.sha256).toBe(good.sha256)
    expect(readdirSync(join(folder, 'harbour-50')).sort()).toEqual([`${good.sha256}.zip`, 'state.json'])
  })
  it('goes on with an upload whose connection breaks at random moments, and with one that was left off', async () => {
    const r = random(5), starts: number[] = []
    let breaks = 0
    const loaded = await send(good, n => {
      starts.push(n)
      if (r() < 0.4) {
        breaks++
        void simulate({ faults: { ...NO_FAULTS, dropConnection: true } })
      }
    })
    expect(loaded.loaded?.sha256).toBe(good.sha256)
    expect(breaks).toBeGreaterThan(0)
    await order('forget')
    let pieces = 0
    await expect(send(good, () => undefined, () => {
      if (++pieces > 3) throw new Error('left')
    })).rejects.toThrow('left')
    const again: number[] = []
    await send(good, n => again.push(n))
    expect(again[0]).toBeGreaterThan(0)
    expect((await state()).doing).toBe('ready')
  }, 30_000)
  it('gives up after a while where nothing answers, and says that what arrived stays', async () => {
    let pieces = 0
    await expect(send(good, undefined, undefined, (method, path, sent) => (++pieces > 3 ? Promise.reject(new Error('gone')) : link(method, path, sent)))).rejects.toMatchObject({ code: 'lost', message: expect.stringMatching(/What has arrived stays there/) })
    const again: number[] = []
    await send(good, n => again.push(n))
    expect(again[0]).toBe(40_000)
  }, 30_000)
  it('without power answers nothing, and with it again knows where it was; so does the program when it is started anew', async () => {
    await send(tall)
    await simulate({ speed: 300 })
    await order('start')
    const before = await until(s => (s.run?.layer ?? 0) > 3)
    await simulate({ power: false })
    await expect(fetch(address())).rejects.toThrow()
    expect((await (await fetch(`${running.url}/printers`)).json() as PrinterState[]).map(p => p.id)).not.toContain('harbour-50')
    await simulate({ power: true })
    const back = await until(s => s.doing === 'interrupted')
    expect(back.run?.layer).toBeGreaterThanOrEqual(before.run?.layer ?? 0)
    expect(back.says).toMatch(/^The power went while it printed layer \d+\.$/)
    await order('resume')
    await until(s => (s.run?.layer ?? 0) > (back.run?.layer ?? 0))
    // the program ends without a word
    const anew = await new Machine('harbour-50', harbour, join(folder, 'harbour-50')).start()
    expect(anew.state).toMatchObject({ doing: 'interrupted', loaded: { sha256: tall.sha256 } })
    anew.end()
  })
  it('stops for an empty vat, goes on once it is filled, and fails where the film holds what is printed', async () => {
    await send(good)
    await simulate({ speed: 20_000, vatMl: 0.1 })
    await order('start')
    const empty = await until(s => s.doing === 'paused')
    expect(empty.says).toMatch(/^The vat is empty at layer (20|21)\. Fill it and go on\.$/)
    await order('refill')
    await order('resume')
    await until(s => s.doing === 'done')
    await simulate({ faults: { ...NO_FAULTS, filmSticksFrom: 12 } })
    await order('start')
    expect((await until(s => s.doing === 'failed')).says).toBe('What is printed stays on the film since layer 13.')
  })
})
