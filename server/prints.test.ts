import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { DEFAULT_PRINTER, DEFAULT_RESIN, PLAIN_PRINT, PrintSchema, type Print } from '@oak-stilts/core/contract'
import { factsOf } from '@oak-stilts/core/print'
import { copyRow, partRow } from '../core/testing/jobs'
import { startPrinters } from './printer/start'
import { startServer, type Running } from './start'

let folder = '', server: Running
const start = async (printers: readonly string[] = []): Promise<void> => {
  server = await startServer({ dataFolder: folder, port: 0, host: '127.0.0.1', seed: false, printers, say: () => undefined, log: error => { throw error } })
}
beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'oak-stilts-prints-'))
  await start()
})
afterEach(async () => {
  await server.close()
  rmSync(folder, { recursive: true, force: true })
})
const api = (path: string, init?: RequestInit): Promise<Response> => fetch(`${server.url}/api${path}`, init)
const put = (path: string, body: unknown): Promise<Response> => api(path, { method: 'PUT', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) })
const list = async (query = ''): Promise<Print[]> => (await (await api(`/prints${query}`)).json()) as Print[]
const print = (id: string, more: Partial<Print> = {}): Print => PrintSchema.parse({
  id, job: { id: 'job', state: 's' }, name: 'Cone', at: '2026-05-01T10:00:00.000Z', facts: factsOf({ printer: DEFAULT_PRINTER, resin: DEFAULT_RESIN, layerMm: 0.05, printing: PLAIN_PRINT }, [partRow()], [copyRow()], 100, () => [{ gauge: 'Medium', diameterMm: 0.5 }]),
  seconds: 10, resinMl: 1, sha256: null, outcome: null, photo: null, ...more,
})

describe('the print log', () => {
  it('keeps prints, newest first, those of a job or all, over a restart', async () => {
    expect((await put('/prints/a', print('a'))).status).toBe(204)
    await put('/prints/b', print('b', { at: '2026-05-02T10:00:00.000Z', job: null }))
    await put('/prints/a', print('a', { outcome: { kind: 'failed', layer: 7, symptom: 'stuck', copies: [], note: 'x' } }))
    await server.close()
    await start()
    expect((await list()).map(p => p.id)).toEqual(['b', 'a'])
    expect(await list('?job=job')).toMatchObject([{ id: 'a', outcome: { kind: 'failed', layer: 7 }, facts: { parts: [{ stilts: 1, gauges: [{ name: 'Medium', count: 1 }] }] } }])
    expect((await api('/prints/a', { method: 'DELETE' })).status).toBe(204)
    expect((await api('/prints/a', { method: 'DELETE' })).status).toBe(404)
  })
  it('keeps a photograph, which no later note takes away, and refuses what is none', async () => {
    const jpeg = Uint8Array.from([0xff, 0xd8, 0xff, 0xe0, 1, 2, 3])
    await put('/prints/a', print('a'))
    expect(await (await api('/prints/a/photo', { method: 'PUT', body: 'no picture' })).json()).toMatchObject({ code: 'no-photo', detail: 'This is no photograph that is known here. Take a JPEG, PNG or WebP.' })
    expect((await api('/prints/none/photo', { method: 'PUT', body: jpeg })).status).toBe(404)
    expect((await api('/prints/a/photo', { method: 'PUT', body: jpeg })).status).toBe(200)
    await put('/prints/a', print('a', { outcome: { kind: 'good', note: '' } }))
    await server.close()
    // what nothing uses is cleared away at the start
    await start()
    const found = await api('/prints/a/photo')
    expect([found.headers.get('content-type'), new Uint8Array(await found.arrayBuffer())]).toEqual(['image/jpeg', jpeg])
  })
  it('refuses what is no print, with a sentence', async () => {
    expect(await (await put('/prints/a', { ...print('a'), seconds: -1 })).json()).toMatchObject({ status: 400, detail: expect.stringMatching(/^This cannot be kept in the log: seconds/) })
    expect((await put('/prints/a', print('b'))).status).toBe(400)
    expect(await list()).toEqual([])
  })
})

describe('printers that are found', () => {
  it('are none until simulated ones are started; then those there are again after a restart, and others under their addresses', async () => {
    expect(await (await api('/printers')).json()).toEqual([])
    expect(((await (await api('/printers/simulated', { method: 'POST' })).json()) as { id: string }[]).map(p => p.id)).toEqual(['0.harbour-50', '0.harbour-35', '0.quay-22'])
    await server.close()
    const others = await startPrinters(join(folder, 'elsewhere'), 0)
    try {
      await start([others.url, 'http://127.0.0.1:1'])
      expect(((await (await api('/printers')).json()) as { id: string }[]).map(p => p.id)).toEqual(['0.harbour-50', '0.harbour-35', '0.quay-22', '1.harbour-50', '1.harbour-35', '1.quay-22'])
      expect(await (await api('/printers/1.quay-22')).json()).toMatchObject({ id: 'quay-22', doing: 'idle' })
      const order = await api('/printers/1.quay-22/orders', { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: '{"order":"start"}' })
      expect([order.status, await order.json()]).toMatchObject([409, { code: 'not-now', detail: 'Nothing is loaded in Quay 22.' }])
    } finally {
      await others.close()
    }
    expect([(await api('/printers/1.quay-22')).status, (await api('/printers/9.quay-22')).status, (await api('/printers/nothing')).status]).toEqual([502, 404, 404])
  })
})
