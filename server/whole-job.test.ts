import { mkdtempSync, readdirSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { strToU8, unzipSync, zipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { contentOf, JobSchema, listsOf, VersionContentSchema, VersionSchema, type Job, type JobSummary } from '@oak-stilts/core/contract'
import { writeStl } from '../core/mesh'
import { rowsOfStilt } from '../core/stilts'
import { uprightShape } from '../core/testing/jobs'
import { meshXml, modelXml, packageOf } from '../core/testing/model-files'
import { box, sphere } from '../core/testing/shapes'
import { startServer, type Running } from './index'

// A job of parts from two files, one of which holds two models, with stilts, marks and a recipe: out as one file and in again; put
// away, deleted and brought back; kept as versions.
const folders = [0, 1].map(() => mkdtempSync(join(tmpdir(), 'oak-stilts-whole-')))
let servers: Running[] = []
beforeAll(async () => {
  servers = await Promise.all(folders.map(dataFolder => startServer({ dataFolder, port: 0, host: '127.0.0.1', seed: false, say: () => undefined, log: error => { throw error } })))
})
afterAll(() => Promise.all(servers.map(s => s.close())))

const at = (path: string, server = 0): string => `${servers[server].url}/api${path}`
const send = (path: string, method: string, body?: unknown, server = 0): Promise<Response> => fetch(at(path, server), { method, ...(body instanceof Uint8Array ? { body: body as BodyInit, headers: { 'Content-Type': 'application/octet-stream' } } : body === undefined ? {} : { body: JSON.stringify(body), headers: { 'Content-Type': 'application/json' } }) })
const jobOf = async (id: string, server = 0): Promise<Job> => JobSchema.parse(await (await send(`/jobs/${id}`, 'GET', undefined, server)).json())
const names = async (path = '/jobs'): Promise<string[]> => ((await (await send(path, 'GET')).json()) as JobSummary[]).map(j => j.name)
let id = ''
const editNow = async (change: object): Promise<void> => {
  const { revision } = await jobOf(id)
  expect((await send(`/jobs/${id}/edits`, 'POST', { batch: `batch-${Math.random()}`, baseRevision: revision, edits: [{ label: 'x', step: `s${Math.random()}`, way: 'do', ...change }] })).status).toBe(200)
}

beforeAll(async () => {
  const pair = packageOf(modelXml(`<resources><object id="1" name="Cube">${meshXml(box([0, 0, 0], [8, 8, 8]))}</object><object id="2" name="Ball">${meshXml(sphere([30, 0, 4], 4, 16))}</object></resources><build><item objectid="1"/><item objectid="2"/></build>`))
  const made = JobSchema.parse(await (await send(`/jobs?name=${encodeURIComponent('pair.3mf')}`, 'POST', pair)).json())
  id = made.id
  const [extra] = (await (await send(`/jobs/${id}/parts?name=slab.stl`, 'POST', writeStl(box([0, 0, 0], [9, 9, 2]), 'slab'))).json()) as { part: object }[]
  const [first] = made.parts, rows = rowsOfStilt(uprightShape(1), { part: first.id, number: 1 })
  await editNow({ set: { name: 'A whole job' }, put: { parts: [{ ...extra.part, id: 'slab' }, { ...first, recipe: { mended: true, unitMm: 1, scale: [1, 2, 1], mirrored: true } }], copies: [{ id: 'slabcopy', part: 'slab', xPixels: -300, yPixels: 40, turnDeg: 20 }], nodes: rows.nodes, beams: rows.beams, marks: [{ id: 'm', part: first.id, worth: 'prized', runs: [2, 3] }], waivers: [{ id: 'w', part: 'slab', kind: 'island', at: [1, 2, 3], reason: 'fine as it is' }] } })
})

describe('a whole job', () => {
  it('goes out as one file and comes in elsewhere as it was', async () => {
    const answer = await fetch(at(`/jobs/${id}/file`))
    expect([answer.status, answer.headers.get('content-type')]).toEqual([200, 'model/3mf'])
    const bytes = new Uint8Array(await answer.arrayBuffer()), before = await jobOf(id)
    const come = await send('/jobs?name=whatever.3mf', 'POST', bytes, 1)
    expect(come.status).toBe(201)
    const after = JobSchema.parse(await come.json())
    expect(listsOf(contentOf(after).tables)).toEqual(listsOf(contentOf(before).tables))
    expect(contentOf(after).fields).toEqual(contentOf(before).fields)
    for (const { source } of after.parts) expect((await fetch(at(`/meshes/${source.meshHash}`, 1))).status).toBe(200)
    expect(Buffer.from(await (await fetch(at(`/jobs/${after.id}/picture`, 1))).arrayBuffer())).toEqual(Buffer.from(await (await fetch(at(`/jobs/${id}/picture`))).arrayBuffer()))
    // and out again, with nothing left behind
    expect(Object.keys(unzipSync(new Uint8Array(await (await fetch(at(`/jobs/${after.id}/file`, 1))).arrayBuffer())))).toEqual(Object.keys(unzipSync(bytes)))
    for (const folder of folders) expect(readdirSync(join(folder, 'uploads'))).toEqual([])
  })

  it('goes out whole while its picture is replaced', async () => {
    const png = new Uint8Array(await (await fetch(at(`/jobs/${id}/picture`))).arrayBuffer()), pictures = Array.from({ length: 12 }, (_, i) => Buffer.concat([png, Buffer.from(`${i}`)]))
    const going = fetch(at(`/jobs/${id}/file`))
    for (const body of pictures) expect((await fetch(at(`/jobs/${id}/picture`), { method: 'PUT', headers: { 'Content-Type': 'image/png' }, body })).status).toBe(204)
    const answer = await going
    expect(answer.status).toBe(200)
    expect(Object.keys(unzipSync(new Uint8Array(await answer.arrayBuffer())))).toContain('Metadata/thumbnail.png')
  })

  it('that is no job any more is refused, and leaves nothing', async () => {
    const parts = unzipSync(new Uint8Array(await (await fetch(at(`/jobs/${id}/file`))).arrayBuffer()))
    const json = JSON.parse(new TextDecoder().decode(parts['Metadata/job.json'])) as { beams: { from: string }[] }, [source] = Object.keys(parts).filter(p => p.endsWith('.source'))
    const tried = async (changed: Record<string, Uint8Array>): Promise<string> => {
      const answer = await send('/jobs?name=j.3mf', 'POST', zipSync({ ...parts, ...changed }), 1)
      expect(answer.status).toBe(422)
      return ((await answer.json()) as { detail: string }).detail
    }
    const jobs = ((await (await fetch(at('/jobs', 1))).json()) as unknown[]).length
    expect(await tried({ [source]: strToU8('solid other') })).toMatch(/not what it was/)
    expect(await tried({ 'Metadata/job.json': strToU8(JSON.stringify({ ...json, beams: json.beams.map(b => ({ ...b, from: 'nobody' })) })) })).toMatch(/does not hang together/)
    expect(((await (await fetch(at('/jobs', 1))).json()) as unknown[]).length).toBe(jobs)
    expect(readdirSync(join(folders[1], 'uploads'))).toEqual([])
  })

  it('is put away and taken out again', async () => {
    const archived = async (): Promise<boolean[]> => ((await (await send('/jobs', 'GET')).json()) as JobSummary[]).map(j => j.archived)
    expect((await send(`/jobs/${id}/archived`, 'PUT', { archived: true })).status).toBe(204)
    expect(await archived()).toEqual([true])
    expect((await send(`/jobs/${id}/archived`, 'PUT', { archived: 'yes' })).status).toBe(400)
    await send(`/jobs/${id}/archived`, 'PUT', { archived: false })
    expect(await archived()).toEqual([false])
  })

  it('is brought back after it was deleted, with all that belongs to it', async () => {
    const before = await jobOf(id)
    expect((await send(`/jobs/${id}`, 'DELETE')).status).toBe(204)
    for (const path of [`/jobs/${id}`, `/jobs/${id}/history`, `/jobs/${id}/picture`, `/jobs/${id}/file`, `/jobs/${id}/versions`]) expect((await send(path, 'GET')).status).toBe(404)
    expect((await send(`/jobs/${id}/edits`, 'POST', { batch: 'another batch', baseRevision: before.revision, edits: [{ label: 'x', step: 'y', way: 'do', set: { name: 'z' } }] })).status).toBe(404)
    expect((await send(`/jobs/${id}`, 'DELETE')).status).toBe(404)
    expect([await names(), await names('/jobs/deleted')]).toEqual([[], ['A whole job']])
    expect((await send(`/jobs/${id}/restore`, 'POST')).status).toBe(204)
    expect(await jobOf(id)).toEqual(before)
    expect((await fetch(at(`/meshes/${before.parts[0].source.meshHash}`))).status).toBe(200)
    expect((await send(`/jobs/${id}/restore`, 'POST')).status).toBe(404)
  })

  it('is kept as versions that stay as they were', async () => {
    const keep = async (name: string): Promise<ReturnType<typeof VersionSchema.parse>> => VersionSchema.parse(await (await send(`/jobs/${id}/versions`, 'POST', { name })).json())
    const before = await jobOf(id), first = await keep('First try')
    expect(first).toMatchObject({ name: 'First try', stilts: 1 })
    await editNow({ drop: { nodes: before.nodes.map(n => n.id), beams: before.beams.map(b => b.id) } })
    const second = await keep('Bare')
    expect((await (await send(`/jobs/${id}/versions`, 'GET')).json() as { name: string; stilts: number }[]).map(v => [v.name, v.stilts])).toEqual([['Bare', 0], ['First try', 1]])
    const content = VersionContentSchema.parse(await (await send(`/jobs/${id}/versions/${first.id}`, 'GET')).json())
    expect([content.nodes, content.beams, content.parts]).toEqual([before.nodes, before.beams, before.parts])
    expect((await send(`/jobs/${id}/versions`, 'POST', { name: '' })).status).toBe(400)
    expect((await send(`/jobs/${id}/versions/${second.id}`, 'DELETE')).status).toBe(204)
    expect((await send(`/jobs/${id}/versions/${second.id}`, 'GET')).status).toBe(404)
  })
})
