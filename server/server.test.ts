import { createHash } from 'node:crypto'
import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import Ajv from 'ajv/dist/2020'
import { sql } from 'kysely'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { z } from 'zod'
import { BringingInSchema, BroughtInSchema, DEFAULT_PRINTER, DEFAULT_RESIN, DEFAULT_SETTINGS, JobSchema, MeshFaultsSchema, pixelMmOf, type Edit, type History, type KitEntry, type Job, type Problem } from '@oak-stilts/core/contract'
import { decodeMesh, prepareMesh, writeStl, type Mesh, type Vec3 } from '../core/mesh'
import { motionOfPose, movePoint, plateOf, shiftOf, standOf, movePointBack } from '../core/pose'
import { PlanIndex } from '../core/stilts'
import { copyRow, kneeRow } from '../core/testing/jobs'
import { meshXml, modelXml, packageOf } from '../core/testing/model-files'
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
/** A change as a step of its own. */
const step = (change: object, name: string = Math.random().toString(), way: Edit['way'] = 'do'): object => ({ ...change, step: name, way })
const edit = (id: string, baseRevision: number, edits: object[], batch = `batch-${Math.random()}`): Promise<Response> =>
  fetch(`${server.url}/api/jobs/${id}/edits`, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ batch, baseRevision, edits }) })

describe('jobs over the API', () => {
  let job: Job
  it('brings in an STL and gives the job, its mesh and a picture', async () => {
    const answer = await bring('Ball.stl', writeStl(sphere([0, 0, 0], 5, 32), 'ball'))
    expect(answer.status).toBe(201)
    job = (await answer.json()) as Job
    expect(job).toMatchObject({ name: 'Ball', revision: 0, parts: [{ name: 'Ball', poseSettled: true, pose: { liftMm: 5 }, source: { fileName: 'Ball.stl', summary: { triangles: 32 * 30, unclosedEdges: 0 } } }], copies: [{ part: job.parts[0].id, xPixels: 0, yPixels: 0, turnDeg: 0 }] })
    const { meshHash, fileHash } = job.parts[0].source
    const mesh = await fetch(`${server.url}/api/meshes/${meshHash}`)
    expect([mesh.headers.get('etag'), createHash('sha256').update(Buffer.from(await mesh.arrayBuffer())).digest('hex')]).toEqual([`"${meshHash}"`, meshHash])
    // the file itself is kept as it came
    expect(createHash('sha256').update(readFileSync(join(folder, 'blobs', `${fileHash}.file`))).digest('hex')).toBe(fileHash)
    const picture = Buffer.from(await (await fetch(`${server.url}/api/jobs/${job.id}/picture`)).arrayBuffer())
    expect(picture.subarray(1, 4).toString()).toBe('PNG')
    expect(readdirSync(join(folder, 'uploads'))).toEqual([])
  })

  it('brings in what a 3MF holds: a part for each object, copies where the file has them, its unit and what was left out', async () => {
    const cube = meshXml(box([0, 0, 0], [1, 1, 1])), ball = meshXml(sphere([0, 0, 0.2], 0.2, 12))
    const bytes = packageOf(modelXml(`<resources><object id="1" name="Cube" pid="9" pindex="0">${cube}</object><object id="2" name="Ball">${ball}</object></resources><build><item objectid="1"/><item objectid="1" transform="1 0 0 0 1 0 0 0 1 2 0 0"/><item objectid="2" transform="1 0 0 0 1 0 0 0 1 1 2 0"/></build>`, 'unit="inch"'))
    const answer = await bring('two things.3mf', bytes)
    expect(answer.status).toBe(201)
    const { name, parts, copies } = JobSchema.parse(await answer.json())
    expect([name, parts.map(p => [p.name, p.source.fileName, p.source.format, p.source.object, p.source.statedUnitMm, p.source.notes, p.source.summary.sizeMm.map(v => Math.round(10 * v) / 10)])]).toEqual(['two things', [
      ['Cube', 'two things.3mf', '3mf', 0, 25.4, [{ kind: 'colours' }], [25.4, 25.4, 25.4]],
      ['Ball', 'two things.3mf', '3mf', 1, 25.4, [{ kind: 'colours' }], [10.2, 10.2, 10.2]],
    ]])
    const at = (i: number): number[][] => copies.filter(c => c.part === parts[i].id).map(c => [c.xPixels, c.yPixels].map(v => v * pixelMmOf(DEFAULT_PRINTER)))
    // the middles of all lie from 0.5 to 2.5 inches across and from 0.5 to 2 along
    at(0).flat().concat(at(1).flat()).forEach((v, i) => expect(Math.abs(v - [-25.4, -19.05, 25.4, -19.05, -12.7, 19.05][i])).toBeLessThan(0.03))
    expect(copies).toHaveLength(3)
  })

  it('keeps of a damaged mesh what was mended, what it was, and what was found in it', async () => {
    const ball = sphere([0, 0, 0], 5, 16), triangles = ball.triangles.slice(9)
    ;[triangles[1], triangles[2]] = [triangles[2], triangles[1]]
    const { parts: [{ source }] } = JobSchema.parse(await (await bring('Damaged.stl', writeStl({ positions: ball.positions, triangles }, 'd'))).json())
    const faults = MeshFaultsSchema.parse(await (await fetch(`${server.url}/api/faults/${source.faultsHash}`)).json())
    expect(faults.map(f => [f.kind, f.count > 0, f.segments.length > 0])).toEqual(expect.arrayContaining([['flipped', true, true], ['unclosed', true, true]]))
    const mesh = async (hash: string | null): Promise<Mesh> => decodeMesh(await (await fetch(`${server.url}/api/meshes/${hash}`)).arrayBuffer())
    const [mended, plain] = [await mesh(source.meshHash), await mesh(source.plainHash)]
    expect([plain.triangles.length, prepareMesh(mended).report.unclosedEdges, prepareMesh(plain).report.unclosedEdges > 0]).toEqual([triangles.length, 0, true])
    expect((await fetch(`${server.url}/api/faults/${'0'.repeat(64)}`)).status).toBe(404)
  })

  it('tells how far a file has come to who listens, and ends', async () => {
    const task = 'a-task-of-mine', mesh = sphere([0, 0, 0], 5, 400)
    const answer = fetch(`${server.url}/api/jobs?name=big.stl&task=${task}`, { method: 'POST', headers: { 'Content-Type': 'application/octet-stream' }, body: writeStl(mesh, 'big') as BodyInit })
    let events = await fetch(`${server.url}/api/tasks/${task}`)
    while (events.status === 404) events = await fetch(`${server.url}/api/tasks/${task}`)
    expect(events.headers.get('content-type')).toMatch(/^text\/event-stream/)
    const told = (await events.text()).split('\n\n').filter(t => t).map(t => BringingInSchema.parse(JSON.parse(t.replace('data: ', ''))))
    expect((await answer).status).toBe(201)
    expect(told.map(t => t.stage).filter((s, i, all) => s !== all[i - 1]).slice(-3)).toEqual(['reading', 'preparing', 'storing'])
    const shares = told.filter(t => t.stage === 'reading').map(t => t.share)
    expect(shares).toEqual([...shares].sort((a, b) => a - b))
    expect((await fetch(`${server.url}/api/tasks/${task}`)).status).toBe(404)
  })

  it('answers errors as problem documents (Published: RFC 9457)', async () => {
    for (const [answer, status, code] of [
      [await bring('x', new Uint8Array([1, 2, 3])), 422, 'not-a-model'],
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
    const node = kneeRow(1, 1, job.parts[0].id), edits = [step({ label: 'place', put: { nodes: [node] } }, 'a'), step({ label: 'rename', set: { name: 'Ball, held' } }, 'b')]
    const first = await edit(job.id, 0, edits, 'the-first-batch')
    expect(await first.json()).toEqual({ revision: 1 })
    const again = await edit(job.id, 0, edits, 'the-first-batch')
    expect(await again.json()).toEqual({ revision: 1 })
    const stale = await edit(job.id, 0, [step({ label: 'drop', drop: { nodes: [node.id] } })])
    expect(stale.status).toBe(409)
    const now = (await (await fetch(`${server.url}/api/jobs/${job.id}`)).json()) as Job
    expect(now).toMatchObject({ revision: 1, name: 'Ball, held', nodes: [node] })
  })

  it('keeps what every step changed and what takes it back, and which were undone', async () => {
    const history = async (): Promise<History> => (await (await fetch(`${server.url}/api/jobs/${job.id}/history`)).json()) as History
    const node = kneeRow(1, 1, job.parts[0].id)
    expect(await history()).toEqual({
      done: [
        { step: 'a', change: { label: 'place', put: { nodes: [node] } }, inverse: { label: 'place', drop: { nodes: [node.id] } } },
        { step: 'b', change: { label: 'rename', set: { name: 'Ball, held' } }, inverse: { label: 'rename', set: { name: 'Ball' } } },
      ],
      undone: [],
    })
    await edit(job.id, 1, [step({ label: 'move', put: { nodes: [{ ...node, at: [9, 9, 9] }] } }, 'c'), step({ label: 'move', put: { nodes: [node] } }, 'c', 'undo')])
    const { done, undone } = await history()
    expect([done.map(d => d.step), undone.map(d => [d.step, d.inverse.put?.nodes])]).toEqual([['a', 'b'], [['c', [node]]]])
    // what is noted is stored, and is no step
    const found = { id: job.parts[0].id, of: 'a state', checks: [] }
    await edit(job.id, 2, [step({ label: 'prove', put: { proofs: [found] } }, 'n', 'note')])
    expect(((await (await fetch(`${server.url}/api/jobs/${job.id}`)).json()) as Job).proofs).toEqual([found])
    expect(await history()).toEqual({ done, undone })
    await edit(job.id, 3, [step({ label: 'rename', set: { name: 'Ball, held' } }, 'd')])
    expect((await history()).undone).toEqual([])
  })

  it('refuses rows that hang on others which are not there, as a whole', async () => {
    const part = job.parts[0].id, [a, b] = [kneeRow(11, 1, part), kneeRow(12, 2, part)]
    const beam = { id: 'beam', part, kind: 'shaft', from: a.id, to: b.id, fromDiameterMm: 1, toDiameterMm: 1 }
    const tried = async (...changes: object[]): Promise<string> => {
      const { revision } = (await (await fetch(`${server.url}/api/jobs/${job.id}`)).json()) as Job
      const answer = await edit(job.id, revision, changes.map(c => step({ label: 'try', ...c })))
      return answer.status === 200 ? 'taken' : ((await answer.json()) as Problem).detail
    }
    expect(await tried({ put: { nodes: [a], beams: [beam] } })).toMatch(/without an end in its part/)
    expect(await tried({ put: { nodes: [{ ...a, part: 'another' }] } })).toMatch(/of a part that is not in this job/)
    expect(await tried({ put: { copies: [copyRow('stray', 'another')] } })).toMatch(/of a part that is not in this job/)
    expect(await tried({ put: { nodes: [a, b], beams: [beam] } })).toBe('taken')
    expect(await tried({ drop: { nodes: [b.id] } })).toMatch(/that beams still end at/)
    // a shaft that leads back to where it came from; a brace may
    const back = { ...beam, id: 'back', from: b.id, to: a.id }
    expect(await tried({ put: { beams: [back] } })).toMatch(/go in a circle/)
    expect(await tried({ put: { beams: [{ ...back, kind: 'brace' }] } }, { drop: { beams: ['back'] } })).toBe('taken')
    expect(await tried({ drop: { parts: [part] } })).toMatch(/leaves rows of it/)
    expect(await tried({ drop: { nodes: [b.id] } }, { drop: { beams: ['beam'], nodes: [a.id] } })).toBe('taken')
  })

  it('brings a second part in, which an edit puts, drops and puts again', async () => {
    const answer = await fetch(`${server.url}/api/jobs/${job.id}/parts?name=Box`, { method: 'POST', body: writeStl(box([0, 0, 0], [4, 4, 4]), 'box') as BodyInit })
    expect(answer.status).toBe(201)
    const [brought] = z.array(BroughtInSchema).parse(await answer.json()), part = { ...brought.part, id: 'second' }
    expect(part).toMatchObject({ name: 'Box', poseSettled: false, pose: { liftMm: 0 } })
    const { revision } = (await (await fetch(`${server.url}/api/jobs/${job.id}`)).json()) as Job
    expect((await edit(job.id, revision, [step({ label: 'add', put: { parts: [part], copies: [copyRow('c2', 'second')] } })])).status).toBe(200)
    expect((await edit(job.id, revision + 1, [step({ label: 'delete', drop: { parts: ['second'], copies: ['c2'] } })])).status).toBe(200)
    // undo may want it back: its mesh stays for as long as the job
    await server.close()
    server = await start()
    expect((await fetch(`${server.url}/api/meshes/${part.source.meshHash}`)).status).toBe(200)
    expect((await fetch(`${server.url}/api/jobs/none/parts?name=Box`, { method: 'POST', body: writeStl(box([0, 0, 0], [4, 4, 4]), 'box') as BodyInit })).status).toBe(404)
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

describe('the kit', () => {
  const put = (body: unknown): Promise<Response> => fetch(`${server.url}/api/kit`, { method: 'PUT', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) })
  const list = async (): Promise<KitEntry[]> => (await (await fetch(`${server.url}/api/kit`)).json()) as KitEntry[]
  const printer: KitEntry = { id: 'p1', kind: 'printer', printer: { ...DEFAULT_PRINTER, name: 'Mine' } }, resin: KitEntry = { id: 'r1', kind: 'resin', resin: { ...DEFAULT_RESIN, name: 'Mine', webMm: 0.7 } }
  it('keeps own printers and resins over a restart, changes and deletes them', async () => {
    expect(await list()).toEqual([])
    expect((await put([printer, resin])).status).toBe(204)
    expect((await put([{ ...printer, printer: { ...printer.printer, heightMm: 99 } }])).status).toBe(204)
    await server.close()
    server = await start()
    expect(await list()).toEqual([{ ...printer, printer: { ...printer.printer, heightMm: 99 } }, resin])
    expect((await fetch(`${server.url}/api/kit/p1`, { method: 'DELETE' })).status).toBe(204)
    expect((await fetch(`${server.url}/api/kit/p1`, { method: 'DELETE' })).status).toBe(404)
    expect(await list()).toEqual([resin])
  })
  it('takes all or nothing, and says what is wrong', async () => {
    const oblong = { id: 'p2', kind: 'printer', printer: { ...DEFAULT_PRINTER, name: 'Oblong', pixelsY: 700 } }
    const answer = await put([printer, oblong])
    expect([answer.status, ((await answer.json()) as Problem).detail]).toEqual([400, expect.stringMatching(/pixelsY must have square pixels/)])
    expect((await put([{ ...printer, printer: { ...printer.printer, layersMm: [0.1, 0.05] } }])).status).toBe(400)
    expect(await list()).toEqual([resin])
  })
})

describe('the database', () => {
  it('comes from every older version to the newest with all that it held, and refuses a newer one', async () => {
    const mesh = box([0, 0, 0], [30, 20, 10])
    const pose = { tiltXDeg: 10, tiltYDeg: 20, turnDeg: 33, liftMm: 4 }, printer = { name: 'Harbour 50', widthMm: 153.36, depthMm: 77.76, heightMm: 165, pixelMm: 0.05, layerMm: 0.03 }
    const then = motionOfPose(mesh.positions, pose, 0.05), stand = standOf(mesh.positions, pose, 0.05)
    const at = (p: Vec3): Vec3 => movePoint(then, p)
    // one stilt to the plate with sizes set by hand, one that lost its foot, a knee that belongs to nothing
    const nodes = [
      { id: '1.tip', stilt: 1, kind: 'tip', at: at([3, 4, 0]), contact: { point: [3, 4, 0], normal: [0, 0, -1] }, gauge: 'light', role: 'detail', diameterMm: 0.4, penetrationMm: 0.2, byHand: ['tipDiameterMm'] },
      { id: '1.knee', stilt: 1, kind: 'knee', at: at([3, 4, -2]) }, { id: '1.foot', stilt: 1, kind: 'foot', at: at([3, 4, -5]), on: 'plate', diameterMm: 3, heightMm: 0.8 },
      { id: '2.tip', stilt: 2, kind: 'tip', at: at([5, 5, 0]), contact: { point: [5, 5, 0], normal: [0, 0, -1] }, gauge: 'fine', role: 'carrier', diameterMm: 0.2, penetrationMm: 0.1, byHand: [] },
      { id: '2.knee', stilt: 2, kind: 'knee', at: at([5, 5, -2]) }, { id: '2.foot', stilt: 2, kind: 'foot', at: at([5, 5, -3]), on: 'none', diameterMm: 3, heightMm: 0.8 },
      { id: '9.knee', stilt: 9, kind: 'knee', at: at([1, 1, -1]) },
    ] as const
    const beams = [1, 2].flatMap(n => [
      { id: `${n}.cone`, stilt: n, from: `${n}.tip`, to: `${n}.knee`, fromDiameterMm: 0.4, toDiameterMm: 0.9 }, { id: `${n}.shaft1`, stilt: n, from: `${n}.knee`, to: `${n}.foot`, fromDiameterMm: 0.9, toDiameterMm: 1.1 },
    ])
    const waiver = { id: 'w1', kind: 'cup', at: [1, 2, 3], reason: 'it is vented by hand' }
    const settings = { ...DEFAULT_SETTINGS, flapMm: 1.5 }
    const hash = 'd'.repeat(64), summary = { triangles: 12, unclosedEdges: 0, cappedLoops: 0, duplicateTriangles: 0, degenerateTriangles: 0, shells: 1, turnedShells: 0, cavities: 0, sheets: 0, tooDamaged: false, volumeMm3: 1, sizeMm: [1, 1, 1], looksStanding: false }
    const meshes = (asked: string): Float32Array | null => (asked === hash ? mesh.positions : null)
    for (let version = 0; version < 4; version++) {
      const db = openDatabase(join(mkdtempSync(join(tmpdir(), 'oak-stilts-db-')), 'old.sqlite'))
      for (let v = 0; v < version; v++) await db.transaction().execute(trx => MIGRATIONS[v](trx, meshes))
      await sql.raw(`PRAGMA user_version = ${version}`).execute(db)
      // filled as the program of that version did
      if (version > 0) {
        for (const [id, m, p] of [['j', hash, pose], ['straight', hash, { ...pose, turnDeg: 0 }], ['gone', 'e'.repeat(64), pose]] as const) {
          await sql`INSERT INTO jobs (id, name, revision, mesh_hash, mesh_summary, printer, pose, pose_settled, picture_version, created_at, updated_at)
            VALUES (${id}, 'old', 7, ${m}, ${JSON.stringify(summary)}, ${JSON.stringify(printer)}, ${JSON.stringify(p)}, 1, 'picture', '2026-01-01', '2026-01-02')`.execute(db)
          for (const n of nodes) await sql`INSERT INTO plan_nodes VALUES (${id}, ${n.id}, ${JSON.stringify(n)})`.execute(db)
          for (const b of beams) await sql`INSERT INTO plan_beams VALUES (${id}, ${b.id}, ${JSON.stringify(b)})`.execute(db)
        }
        if (version < 3) await sql`UPDATE jobs SET last_batch = 'the-last-batch'`.execute(db)
        else await sql`INSERT INTO batches VALUES ('j', 'the-last-batch', NULL, 7)`.execute(db)
        await sql`INSERT INTO marks VALUES ('demo-seeded', 'then')`.execute(db)
      }
      if (version > 1) {
        await sql`UPDATE jobs SET settings = ${JSON.stringify(settings)}`.execute(db)
        await sql`INSERT INTO waivers VALUES ('j', 'w1', ${JSON.stringify(waiver)})`.execute(db)
      }
      await migrate(db, meshes)
      const store = new JobStore(db)
      if (version === 0) expect(await store.list()).toEqual([])
      else {
        const job = (await store.get('j')) as Job
        expect(job).toMatchObject({
          id: 'j', name: 'old', revision: 7, layerMm: 0.03, batches: ['the-last-batch'], settings: version > 1 ? settings : DEFAULT_SETTINGS, printer: { name: 'Harbour 50', heightMm: 165, pixelsX: 3067, pixelsY: 1555 },
          parts: [{ name: 'old', poseSettled: true, pose: { tiltXDeg: 10, tiltYDeg: 20, liftMm: 4 }, source: { meshHash: hash, fileHash: null, summary } }], copies: [{ turnDeg: 33 }],
          waivers: version > 1 ? [{ ...waiver, part: job.parts[0].id }] : [],
        })
        expect(pixelMmOf(job.printer)).toBe(0.05)
        // every node is where it was on the part, and on the plate to half a pixel
        expect(job.nodes.map(n => n.id)).toEqual(nodes.map(n => n.id).sort())
        const plate = plateOf(shiftOf(job.copies[0], 0.05))
        for (const n of job.nodes) {
          const was = nodes.find(o => o.id === n.id)?.at as Vec3, onPart = movePointBack(stand, n.at), onPlate = movePoint(plate, n.at)
          movePointBack(then, was).forEach((v, i) => expect(onPart[i]).toBeCloseTo(v, 6))
          onPlate.forEach((v, i) => expect(Math.abs(v - was[i])).toBeLessThan(0.0251))
        }
        const [held, lost] = new PlanIndex(new Map(job.nodes.map(n => [n.id, n])), new Map(job.beams.map(b => [b.id, b]))).stiltsOf(job.parts[0].id)
        expect(held).toMatchObject({ number: 1, gauge: 'light', role: 'detail', foot: 'plate', own: { tipDiameterMm: 0.4 }, anchor: { point: [3, 4, 0], normal: [0, 0, -1] }, sizes: { tipDiameterMm: 0.4, penetrationMm: 0.2, coneLengthMm: expect.closeTo(2, 6), kneeDiameterMm: 0.9, shaftFootDiameterMm: 1.1, footDiameterMm: 3, footHeightMm: 0.8 } })
        expect(lost).toMatchObject({ number: 2, gauge: 'fine', role: 'carrier', foot: 'lost' })
        // one that was not turned is not touched at all; one whose mesh is missing keeps its rows
        expect((await store.get('straight'))?.nodes.map(n => n.at)).toEqual([...nodes].sort((a, b) => (a.id < b.id ? -1 : 1)).map(n => n.at))
        expect((await store.get('gone'))?.nodes).toHaveLength(7)
        expect((await store.list()).map(l => [l.id, l.stilts, l.copies, l.parts.length])).toEqual([['gone', 2, 1, 1], ['j', 2, 1, 1], ['straight', 2, 1, 1]])
        expect([await store.pictureOf('j'), await store.flag('demo-seeded'), [...(await store.usedBlobs())].includes(`${hash}.mesh`)]).toEqual(['picture', 'then', true])
        // a batch whose answer got lost before the program was renewed
        expect(await store.edit('j', { batch: 'the-last-batch', baseRevision: 6, edits: [{ label: 'again', step: 's', way: 'do', set: { name: 'again' } }] })).toBe(7)
      }
      await sql.raw('PRAGMA user_version = 99').execute(db)
      await expect(migrate(db, meshes)).rejects.toThrow(/newer version/)
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
