import { mkdtempSync, readdirSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import Ajv from 'ajv/dist/2020'
import { sql } from 'kysely'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { DEFAULT_PRINTER, DEFAULT_SETTINGS, type Job, type Problem } from '@oak-stilts/core/contract'
import { writeStl } from '../core/mesh'
import { box, sphere } from '../core/testing/shapes'
import { migrate, MIGRATIONS } from './database/migrations'
import { openDatabase } from './database/sqlite'
import { startServer, type Running } from './index'
import { JobStore } from './store/jobs'

const folder = mkdtempSync(join(tmpdir(), 'oak-stilts-server-'))
let server: Running
const start = (): Promise<Running> => startServer({ dataFolder: folder, port: 0, host: '127.0.0.1', seed: false, say: () => undefined, log: error => { throw error } })

beforeAll(async () => {
  server = await start()
})
afterAll(() => server.close())

const bring = (name: string, bytes: Uint8Array): Promise<Response> => fetch(`${server.url}/api/jobs?name=${encodeURIComponent(name)}`, { method: 'POST', headers: { 'Content-Type': 'application/octet-stream' }, body: bytes as BodyInit })
const edit = (id: string, baseRevision: number, edits: object[], batch = `batch-${Math.random()}`): Promise<Response> =>
  fetch(`${server.url}/api/jobs/${id}/edits`, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ batch, baseRevision, edits }) })

describe('jobs over the API', () => {
  let job: Job
  it('brings in an STL and gives the job, its mesh and a picture', async () => {
    const answer = await bring('Ball.stl', writeStl(sphere([0, 0, 0], 5, 32), 'ball'))
    expect(answer.status).toBe(201)
    job = (await answer.json()) as Job
    expect(job).toMatchObject({ name: 'Ball', revision: 0, poseSettled: true, pose: { liftMm: 5 }, mesh: { triangles: 32 * 30, unclosedEdges: 0 } })
    expect((await fetch(`${server.url}/api/jobs/${job.id}/mesh`)).headers.get('etag')).toContain(job.meshHash)
    const picture = Buffer.from(await (await fetch(`${server.url}/api/jobs/${job.id}/picture`)).arrayBuffer())
    expect(picture.subarray(1, 4).toString()).toBe('PNG')
    expect(readdirSync(join(folder, 'uploads'))).toEqual([])
  })

  it('answers errors as problem documents (Published: RFC 9457)', async () => {
    for (const [answer, status, code] of [
      [await bring('x', new Uint8Array([1, 2, 3])), 422, 'not-stl'],
      [await bring('', writeStl(box([0, 0, 0], [1, 1, 1]), 'b')), 400, 'name'],
      [await fetch(`${server.url}/api/jobs/none`), 404, 'not-found'],
      [await edit(job.id, 0, [{ label: '' }]), 400, 'bad-edit'],
    ] as const) {
      expect(answer.status).toBe(status)
      expect(answer.headers.get('content-type')).toMatch(/^application\/problem\+json/)
      const problem = (await answer.json()) as Problem
      expect(problem).toMatchObject({ status, code })
      expect(problem.detail).toMatch(/\.$/)
    }
  })

  it('applies edits, refuses a stale one, and acknowledges a repeated one again', async () => {
    const node = { id: '1.knee', stilt: 1, kind: 'knee', at: [1, 2, 3] }
    const first = await edit(job.id, 0, [{ label: 'place', putNodes: [node] }, { label: 'rename', name: 'Ball, held' }], 'the-first-batch')
    expect(await first.json()).toEqual({ revision: 1 })
    const again = await edit(job.id, 0, [{ label: 'place', putNodes: [node] }, { label: 'rename', name: 'Ball, held' }], 'the-first-batch')
    expect(await again.json()).toEqual({ revision: 1 })
    const stale = await edit(job.id, 0, [{ label: 'drop', dropNodes: ['1.knee'] }])
    expect(stale.status).toBe(409)
    const now = (await (await fetch(`${server.url}/api/jobs/${job.id}`)).json()) as Job
    expect(now).toMatchObject({ revision: 1, name: 'Ball, held', nodes: [node] })
  })

  it('keeps all of it over a restart', async () => {
    await server.close()
    server = await start()
    const now = (await (await fetch(`${server.url}/api/jobs/${job.id}`)).json()) as Job
    expect([now.name, now.nodes.length]).toEqual(['Ball, held', 1])
    const copy = (await (await fetch(`${server.url}/api/jobs/${job.id}/copy`, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: '{"name":"Second"}' })).json()) as Job
    expect(copy).toMatchObject({ name: 'Second', revision: 0, nodes: now.nodes })
  })

  it('describes what it answers: the published schema fits', async () => {
    const document = (await (await fetch(`${server.url}/api/openapi.json`)).json()) as { components: { schemas: Record<string, object> } }
    const ajv = new Ajv({ strict: false, validateFormats: false })
    const fits = ajv.compile(document.components.schemas.JobSummary)
    for (const j of (await (await fetch(`${server.url}/api/jobs`)).json()) as object[]) expect(fits(j), ajv.errorsText(fits.errors)).toBe(true)
    const job1 = ajv.compile(document.components.schemas.Job)
    expect(job1(await (await fetch(`${server.url}/api/jobs/${job.id}`)).json()), ajv.errorsText(job1.errors)).toBe(true)
  })

  it('turns away foreign hosts and foreign pages', async () => {
    const foreign = await fetch(`${server.url}/api/jobs/${job.id}`, { method: 'DELETE', headers: { Origin: 'http://elsewhere.example' } })
    expect(foreign.status).toBe(403)
    const ok = await fetch(`${server.url}/api/jobs`)
    expect(ok.headers.get('cross-origin-embedder-policy')).toBe('require-corp')
    expect(ok.headers.get('content-security-policy')).toContain("script-src 'self' 'wasm-unsafe-eval'")
  })
})

describe('the database', () => {
  it('comes from every older version to the newest with all that it held, and refuses a newer one', async () => {
    const pose = { tiltXDeg: 1, tiltYDeg: 2, turnDeg: 3, liftMm: 4 }
    const knee = { id: '1.knee', stilt: 1, kind: 'knee', at: [1, 2, 3] }, beam = { id: '1.cone', stilt: 1, from: '1.tip', to: '1.knee', fromDiameterMm: 1, toDiameterMm: 2 }
    const waiver = { id: 'w1', kind: 'cup', at: [1, 2, 3], reason: 'it is vented by hand' }
    const settings = { ...DEFAULT_SETTINGS, flapMm: 1.5 }
    const mesh = { triangles: 12, unclosedEdges: 0, zippedEdges: 0, cappedLoops: 0, duplicateTriangles: 0, degenerateTriangles: 0, shells: 1, turnedShells: 0, cavities: 0, sheets: 0, tooDamaged: false, volumeMm3: 1, sizeMm: [1, 1, 1], looksStanding: false }
    for (let version = 0; version <= MIGRATIONS.length; version++) {
      const db = openDatabase(join(mkdtempSync(join(tmpdir(), 'oak-stilts-db-')), 'old.sqlite'))
      for (let v = 0; v < version; v++) await db.transaction().execute(MIGRATIONS[v])
      await sql.raw(`PRAGMA user_version = ${version}`).execute(db)
      // filled as the program of that version did
      if (version > 0) {
        await sql`INSERT INTO jobs (id, name, revision, mesh_hash, mesh_summary, printer, pose, pose_settled, picture_version, created_at, updated_at)
          VALUES ('j', 'old', 7, 'hash', ${JSON.stringify(mesh)}, ${JSON.stringify(DEFAULT_PRINTER)}, ${JSON.stringify(pose)}, 1, 'picture', '2026-01-01', '2026-01-02')`.execute(db)
        if (version < 3) await sql`UPDATE jobs SET last_batch = 'the-last-batch'`.execute(db)
        else await sql`INSERT INTO batches VALUES ('j', 'the-last-batch', NULL, 7)`.execute(db)
        await sql`INSERT INTO plan_nodes VALUES ('j', '1.knee', ${JSON.stringify(knee)})`.execute(db)
        await sql`INSERT INTO plan_beams VALUES ('j', '1.cone', ${JSON.stringify(beam)})`.execute(db)
        await sql`INSERT INTO marks VALUES ('demo-seeded', 'then')`.execute(db)
      }
      if (version > 1) {
        await sql`UPDATE jobs SET settings = ${JSON.stringify(settings)}`.execute(db)
        await sql`INSERT INTO waivers VALUES ('j', 'w1', ${JSON.stringify(waiver)})`.execute(db)
      }
      await migrate(db)
      const store = new JobStore(db)
      if (version === 0) expect(await store.list()).toEqual([])
      else {
        expect(await store.get('j')).toEqual({
          id: 'j', name: 'old', revision: 7, meshHash: 'hash', mesh, printer: DEFAULT_PRINTER, pose, poseSettled: true, nodes: [knee], beams: [beam],
          settings: version > 1 ? settings : DEFAULT_SETTINGS, waivers: version > 1 ? [waiver] : [], batches: ['the-last-batch'],
        })
        expect([await store.pictureOf('j'), await store.mark('demo-seeded')]).toEqual(['picture', 'then'])
        // a batch whose answer got lost before the program was renewed
        expect(await store.edit('j', { batch: 'the-last-batch', baseRevision: 6, edits: [{ label: 'again', name: 'again' }] })).toBe(7)
      }
      await sql.raw('PRAGMA user_version = 99').execute(db)
      await expect(migrate(db)).rejects.toThrow(/newer version/)
      await db.destroy()
    }
  })
  it('binds booleans as numbers and refuses what cannot be stored', async () => {
    const db = openDatabase(join(mkdtempSync(join(tmpdir(), 'oak-stilts-db-')), 'x.sqlite'))
    const { rows } = await sql<{ v: number }>`SELECT ${true} AS v`.execute(db)
    expect(rows[0].v).toBe(1)
    await expect(sql`SELECT ${{ an: 'object' }}`.execute(db)).rejects.toThrow(/cannot be stored/)
    await db.destroy()
  })
  it('says so where the data folder cannot be one', async () => {
    const file = join(folder, 'a-file')
    writeFileSync(file, 'x')
    await expect(startServer({ dataFolder: file, port: 0, host: '127.0.0.1', seed: false, say: () => undefined, log: () => undefined })).rejects.toThrow(/there is a file in its place/)
  })
})
