import { copyFileSync, existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, truncateSync, writeFileSync } from 'node:fs'
import { request } from 'node:http'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import Database from 'libsql'
import { sql } from 'kysely'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import type { Change, Edit, Job, PlanNode, Problem } from '@oak-stilts/core/contract'
import { writeStl } from '../core/mesh'
import { kneeRow, partRow } from '../core/testing/jobs'
import { box, sphere } from '../core/testing/shapes'
import { openDatabase } from './database/sqlite'
import { migrate } from './database/migrations'
import { runImport } from './import/run-import'
import { startServer, type Running } from './index'
import { JobStore } from './store/jobs'
import { startProcess } from './testing/server-process'

let folder: string
let server: Running | null = null
const logged: unknown[] = []

const start = async (host = '127.0.0.1'): Promise<Running> => (server = await startServer({ dataFolder: folder, port: 0, host, seed: false, say: () => undefined, log: error => logged.push(error) }))
const url = (path: string): string => `${server?.url}/api${path}`
const bring = async (bytes: Uint8Array = writeStl(box([0, 0, 0], [4, 4, 4]), 'b')): Promise<Job> => (await fetch(url('/jobs?name=Box'), { method: 'POST', body: bytes as BodyInit })).json() as Promise<Job>
const send = (id: string, baseRevision: number, name: string, batch = `batch-${name}`): Promise<Response> =>
  fetch(url(`/jobs/${id}/edits`), { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ batch, baseRevision, edits: [{ label: 'rename', step: `step ${name}`, way: 'do', set: { name } }] }) })
const get = async (id: string): Promise<Job> => (await fetch(url(`/jobs/${id}`))).json() as Promise<Job>
const databasePath = (): string => join(folder, 'oak-stilts.sqlite')

const NEW = { name: 'a job', parts: [{ part: partRow(), places: [[0, 0]] as [number, number][] }], turnDeg: 0, picture: 'y' }
const NO_MESHES = (): null => null
const edit = (change: Change): Edit => ({ ...change, step: change.label, way: 'do' })
const meshOf = (job: Job): string => job.parts[0].source.meshHash

beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'oak-stilts-faults-'))
  logged.length = 0
})
afterEach(async () => {
  await server?.close()
  server = null
  rmSync(folder, { recursive: true, force: true })
  expect(logged).toEqual([])
})

describe('another program holds the database', () => {
  it('an edit waits for it, is kept once, and nothing after it suffers', async () => {
    await start()
    const { id } = await bring()
    const other = new Database(databasePath())
    for (let i = 0; i < 3; i++) {
      other.exec('BEGIN IMMEDIATE')
      const answer = send(id, i, `name ${i}`)
      await new Promise(resolve => setTimeout(resolve, 400))
      other.exec('COMMIT')
      expect((await answer).status).toBe(200)
    }
    other.close()
    expect(await get(id)).toMatchObject({ revision: 3, name: 'name 2' })
    expect((await fetch(url(`/jobs/${id}`), { method: 'DELETE' })).status).toBe(204)
    await server?.close()
    await start()
    expect((await fetch(url(`/jobs/${id}`))).status).toBe(404)
  })

  it('says so where it takes too long, keeps answering meanwhile, and takes the edit afterwards', { timeout: 20_000 }, async () => {
    await start()
    const { id } = await bring()
    const other = new Database(databasePath())
    other.exec('BEGIN IMMEDIATE')
    const waiting = send(id, 0, 'too long')
    expect((await fetch(url('/health'))).status).toBe(200)
    const answer = await waiting
    expect([answer.status, ((await answer.json()) as Problem).code]).toEqual([503, 'busy'])
    other.exec('ROLLBACK')
    other.close()
    expect((await send(id, 0, 'too long')).status).toBe(200)
    expect(await get(id)).toMatchObject({ revision: 1, name: 'too long' })
  })
})

describe('a full disk', () => {
  it('is said, acknowledges nothing, and leaves the database as it was', async () => {
    const db = openDatabase(databasePath())
    await migrate(db, NO_MESHES)
    const store = new JobStore(db)
    const id = await store.create({ ...NEW, name: 'full' })
    const { rows } = await sql<{ page_count: number }>`PRAGMA page_count`.execute(db)
    await sql.raw(`PRAGMA max_page_count = ${rows[0].page_count + 1}`).execute(db)
    const { parts: [part] } = (await store.get(id)) as Job
    const batch = { batch: 'the-large-one', baseRevision: 0, edits: [edit({ label: 'large', put: { nodes: Array.from({ length: 2000 }, (_, i) => kneeRow(i + 1, i, part.id)) } })] }
    await expect(store.edit(id, batch)).rejects.toThrow(/disk .* is full/)
    expect(await store.get(id)).toMatchObject({ revision: 0, nodes: [] })
    await sql.raw('PRAGMA max_page_count = 1000000').execute(db)
    expect(await store.edit(id, batch)).toBe(1)
    expect((await store.get(id))?.nodes).toHaveLength(2000)
    await db.destroy()
  })
})

describe('a process that is killed between any two statements', () => {
  it('leaves an edit whole or absent, and what was acknowledged is there', async () => {
    const moments: string[] = []
    /** What a process that ends now leaves on the disk. */
    const leave = (): void => {
      const at = mkdtempSync(join(folder, 'moment-'))
      for (const file of readdirSync(folder)) if (/^oak-stilts\.sqlite(-wal)?$/.test(file)) copyFileSync(join(folder, file), join(at, file))
      moments.push(join(at, 'oak-stilts.sqlite'))
    }
    const db = openDatabase(databasePath(), leave)
    await migrate(db, NO_MESHES)
    const store = new JobStore(db)
    const id = await store.create({ ...NEW, name: 'before' })
    const { parts: [part] } = (await store.get(id)) as Job
    const knees = (x: number): PlanNode[] => [1, 2, 3].map(n => kneeRow(n, x, part.id))
    await store.edit(id, { batch: 'the-first', baseRevision: 0, edits: [edit({ label: 'place', put: { nodes: knees(1) } })] })
    const state = async (s: JobStore): Promise<unknown> => [await s.get(id), await s.history(id)]
    const before = await state(store)
    moments.length = 0
    const edits = [edit({ label: 'rename', set: { name: 'after' } }), edit({ label: 'move', put: { nodes: knees(2) } }), edit({ label: 'delete', drop: { nodes: [knees(2)[1].id] } })]
    await store.edit(id, { batch: 'the-second', baseRevision: 1, edits })
    const statements = moments.length
    leave()
    const after = await state(store)
    await db.destroy()
    expect(statements).toBeGreaterThan(4)
    for (const [i, path] of moments.slice(0, statements + 1).entries()) {
      const left = openDatabase(path)
      expect(await state(new JobStore(left)), `statement ${i + 1} of ${statements}`).toEqual(i < statements ? before : after)
      await left.destroy()
    }
  })
})

describe('batches', () => {
  it('of one name with other edits in them are refused; the same ones are acknowledged again, also when others followed', async () => {
    await start()
    const { id } = await bring()
    expect((await send(id, 0, 'first', 'the-same-name')).status).toBe(200)
    const other = await send(id, 1, 'other', 'the-same-name')
    expect([other.status, ((await other.json()) as Problem).code]).toEqual([409, 'batch-reused'])
    expect((await send(id, 1, 'second')).status).toBe(200)
    expect(await (await send(id, 0, 'first', 'the-same-name')).json()).toEqual({ revision: 1 })
    expect(await get(id)).toMatchObject({ name: 'second', revision: 2, batches: ['the-same-name', 'batch-second'] })
  })

  it('are whole or absent: what fails in the middle leaves nothing', async () => {
    await start()
    const { id, parts: [part] } = await bring()
    const db = new Database(databasePath())
    db.exec(`CREATE TRIGGER no_more BEFORE INSERT ON rows WHEN NEW.id = '${kneeRow(2).id}' BEGIN SELECT RAISE(ABORT, 'no more'); END`)
    db.close()
    const half = [edit({ label: 'rename', set: { name: 'half' } }), edit({ label: 'place', put: { nodes: [1, 2].map(n => kneeRow(n, 0, part.id)) } })]
    const answer = await fetch(url(`/jobs/${id}/edits`), { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ batch: 'half-a-batch', baseRevision: 0, edits: half }) })
    expect(answer.status).toBe(500)
    expect(logged.splice(0)).toHaveLength(1)
    expect(await get(id)).toMatchObject({ name: 'Box', revision: 0, nodes: [], batches: [] })
    expect((await send(id, 0, 'and on')).status).toBe(200)
  })
})

describe('two servers on one data folder', () => {
  it('the second refuses and names the first; a killed one leaves no lock behind', { timeout: 60_000 }, async () => {
    const first = await startProcess(folder)
    await expect(startProcess(folder)).rejects.toThrow(new RegExp(`is in use by another Oak Stilts server \\(process ${first.child.pid},`))
    await expect(start()).rejects.toThrow(/is in use/)
    await first.end('SIGKILL')
    const second = await startProcess(folder)
    await second.end('SIGTERM')
    // leaving puts everything into the one file
    expect(statSync(`${databasePath()}-wal`, { throwIfNoEntry: false })?.size ?? 0).toBe(0)
  })
})

describe('a data folder', () => {
  it('whose database is damaged is left as it is, and the last copy is named', async () => {
    await start()
    const { id } = await bring()
    await server?.close()
    // the copy of the day was made at the first start, when there was nothing yet
    const copies = join(folder, 'copies')
    rmSync(copies, { recursive: true })
    await start()
    await server?.close()
    server = null
    const [copy] = readdirSync(copies)
    expect(copy).toMatch(/^\d{4}-\d\d-\d\d\.sqlite$/)
    const kept = new Database(join(copies, copy))
    expect(kept.prepare('SELECT id FROM jobs').all()).toEqual([{ id }])
    kept.close()
    for (const damage of [() => writeFileSync(databasePath(), 'nonsense'.repeat(2000)), () => truncateSync(databasePath(), 0), () => rmSync(databasePath())]) {
      damage()
      const before = existsSync(databasePath()) ? readFileSync(databasePath()) : null
      await expect(start()).rejects.toThrow(new RegExp(`oak-stilts\\.sqlite is (damaged|empty|missing).*The last good copy is .*${copy}`))
      expect(existsSync(databasePath()) ? readFileSync(databasePath()) : null).toEqual(before)
    }
  })

  it('that cannot be one is refused with a sentence', async () => {
    const file = join(folder, 'a-file')
    writeFileSync(file, 'x')
    await expect(startServer({ dataFolder: file, port: 0, host: '127.0.0.1', seed: false, say: () => undefined, log: () => undefined })).rejects.toThrow(/cannot be used: there is a file in its place\. Set DATA_DIR/)
    await expect(start('203.0.113.7')).rejects.toThrow(/no address 203\.0\.113\.7 on this machine/)
  })

  it('loses what nothing refers to any more: a day after deletion, with a new picture, and after a crash', async () => {
    await start()
    const blobs = join(folder, 'blobs')
    const first = await bring(), second = await bring(), ball = await bring(writeStl(sphere([0, 0, 0], 3, 16), 's'))
    expect(meshOf(first)).toBe(meshOf(second))
    const png = readFileSync(join(blobs, readdirSync(blobs).find(n => n.endsWith('.png')) as string))
    await fetch(url(`/jobs/${ball.id}/picture`), { method: 'PUT', headers: { 'Content-Type': 'image/png' }, body: Buffer.concat([png, Buffer.from('more')]) })
    expect(readdirSync(blobs).filter(n => n.endsWith('.png'))).toHaveLength(2)
    await fetch(url(`/jobs/${first.id}`), { method: 'DELETE' })
    expect(existsSync(join(blobs, `${meshOf(second)}.mesh`))).toBe(true)
    await fetch(url(`/jobs/${second.id}`), { method: 'DELETE' })
    expect(existsSync(join(blobs, `${meshOf(second)}.mesh`))).toBe(true)
    await server?.close()
    const db = openDatabase(join(folder, 'oak-stilts.sqlite'))
    await db.updateTable('jobs').set({ deleted_at: new Date(Date.now() - 25 * 3600 * 1000).toISOString() }).where('deleted_at', 'is not', null).execute()
    await db.destroy()
    await start()
    expect(readdirSync(blobs).sort()).toEqual([`${meshOf(ball)}.mesh`, `${ball.parts[0].source.fileHash}.file`, `${ball.parts[0].source.faultsHash}.faults`, readdirSync(blobs).find(n => n.endsWith('.png'))].sort())
    await server?.close()
    writeFileSync(join(blobs, `${'0'.repeat(64)}.mesh`), 'left behind')
    writeFileSync(join(blobs, 'half.part'), 'left behind')
    await start()
    expect(readdirSync(blobs)).toHaveLength(4)
  })

  it('whose mesh is damaged or missing says so, and the same file brought in again mends it', async () => {
    await start()
    const job = await bring()
    const path = join(folder, 'blobs', `${meshOf(job)}.mesh`), whole = readFileSync(path)
    for (const damage of [() => truncateSync(path, 40), () => rmSync(path)]) {
      damage()
      const answer = await fetch(url(`/meshes/${meshOf(job)}`))
      expect([answer.status, answer.headers.get('cache-control')]).toEqual([404, null])
      expect(((await answer.json()) as Problem).detail).toMatch(/Bring the same file in again/)
      await bring()
      expect(Buffer.from(await (await fetch(url(`/meshes/${meshOf(job)}`))).arrayBuffer()).equals(whole)).toBe(true)
    }
  })
})

/** A request whose headers and address the usual client would refuse to send. */
function rawly(path: string, headers: Record<string, string>, body = ''): Promise<{ status: number; problem: Problem; policy: string | undefined }> {
  const { port } = new URL(server?.url ?? '')
  return new Promise((resolve, reject) => {
    const r = request({ host: '127.0.0.1', port, path, method: body ? 'POST' : 'GET', headers }, answer => {
      let text = ''
      answer.on('data', (c: Buffer) => (text += c.toString()))
      answer.on('end', () => resolve({ status: answer.statusCode ?? 0, problem: JSON.parse(text || '{}') as Problem, policy: answer.headers['content-security-policy'] as string | undefined }))
    })
    r.on('error', reject)
    r.end(body)
  })
}

describe('odd requests', () => {
  it('are refused with a sentence, never as a failure of the server', async () => {
    await start()
    const { id } = await bring()
    const json = { 'Content-Type': 'application/json' }
    const edits = `/api/jobs/${id}/edits`
    for (const [path, headers, body, status, code] of [
      [edits, { ...json, Origin: 'null' }, '{}', 403, 'origin'],
      [edits, { ...json, Origin: 'nonsense' }, '{}', 403, 'origin'],
      [edits, { 'Content-Type': 'application/json; charset=x-none' }, '{}', 415, 'charset'],
      [edits, { ...json, 'Content-Encoding': 'x-none' }, '{}', 415, 'encoding'],
      [edits, json, '{"batch":', 400, 'bad-json'],
      ['/api/jobs/%E0%A4%A', {}, '', 400, 'address'],
      ['/assets/gone-1234.js', {}, '', 404, 'not-found'],
      ['/api/jobs', { Host: 'elsewhere.example' }, '', 421, 'host'],
    ] as const) {
      const answer = await rawly(path, headers, body)
      expect([path, answer.status, answer.problem.code]).toEqual([path, status, code])
      expect(answer.problem.detail).toMatch(/\.$/)
      expect(answer.policy).toContain("default-src 'self'")
    }
    for (const name of ['a\u0000b', 'half \ud83d']) expect((await send(id, 0, name)).status).toBe(400)
  })
})

describe('bringing models in', () => {
  it('says so where one needs more memory than it may have, and the server lives on', async () => {
    await start()
    const path = join(folder, 'ball.stl')
    writeFileSync(path, writeStl(sphere([0, 0, 0], 3, 64), 's'))
    const task = { kind: 'read', path, pose: { tiltXDeg: 0, tiltYDeg: 0, turnDeg: 0, liftMm: 5 }, pixelMm: 0.05, meshPaths: `${path}.mesh`, picturePath: `${path}.png` } as const
    expect(await runImport(task, { memoryMb: 1 })).toMatchObject({ ok: false, code: 'too-large' })
    expect((await runImport(task)).ok).toBe(true)
    const stop = new AbortController()
    const all = Promise.all([runImport(task), runImport(task), runImport(task, { signal: stop.signal })])
    stop.abort()
    expect((await all).map(a => (a.ok ? 'ok' : a.code))).toEqual(['ok', 'ok', 'cancelled'])
    expect((await fetch(url('/health'))).status).toBe(200)
  })
})

describe('large plans', () => {
  it('are stored in order and come back the same', async () => {
    const db = openDatabase(databasePath())
    await migrate(db, NO_MESHES)
    const store = new JobStore(db)
    const id = await store.create({ ...NEW, name: 'large' })
    const { parts: [part] } = (await store.get(id)) as Job
    const nodes = Array.from({ length: 12_000 }, (_, i): PlanNode => ({ ...kneeRow(i, 0, part.id), at: [i / 7, 0.1 + i / 3, 1e-7 * i] }))
    await store.edit(id, { batch: 'all-of-them', baseRevision: 0, edits: [edit({ label: 'place', put: { nodes: nodes.toReversed() } })] })
    expect((await store.get(id))?.nodes).toEqual(nodes)
    const moved: PlanNode = { ...nodes[7], at: [1, 2, 3] }
    await store.edit(id, { batch: 'one-of-them', baseRevision: 1, edits: [edit({ label: 'move', put: { nodes: [moved] }, drop: { nodes: nodes.slice(10).map(n => n.id) } })] })
    expect((await store.get(id))?.nodes).toEqual(nodes.slice(0, 10).map(n => (n.id === moved.id ? moved : n)))
    expect((await store.history(id))?.done[1].inverse.put?.nodes).toHaveLength(11_991)
    const copy = await store.copy(id, 'again')
    expect((await store.get(copy as string))?.nodes).toHaveLength(10)
    await db.destroy()
  })
})
