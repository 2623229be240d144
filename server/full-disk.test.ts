import { readdirSync, statSync } from 'node:fs'
import { join } from 'node:path'
import Database from 'libsql'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import type { Job, Problem } from '@oak-stilts/core/contract'
import { writeStl } from '../core/mesh'
import { between, random } from '../core/testing/random'
import { kneeRow } from '../core/testing/jobs'
import { box, sphere } from '../core/testing/shapes'
import { smallDisk, type SmallDisk } from './testing/small-disk'
import { startProcess, type ServerProcess } from './testing/server-process'

// A disk that is really full, under a server that is really killed. Only who may mount a disk can try this.
const probe = smallDisk(1)
probe?.remove()

describe.skipIf(!probe)('a disk that is full', { timeout: 120_000 }, () => {
  let disk: SmallDisk, server: ServerProcess
  beforeEach(async () => {
    disk = smallDisk(12) as SmallDisk
    server = await startProcess(disk.folder)
  })
  afterEach(async () => {
    await server.end('SIGKILL')
    disk.remove()
  })

  const ask = (path: string, init?: RequestInit): Promise<Response> => fetch(`${server.url}/api${path}`, init)
  const bring = (bytes: Uint8Array): Promise<Response> => ask('/jobs?name=Part', { method: 'POST', body: bytes as BodyInit })
  const get = async (id: string): Promise<Job> => (await ask(`/jobs/${id}`)).json() as Promise<Job>
  const nameOf = (n: number): string => `batch number ${n}`
  /** Puts some kilobytes of nodes. */
  const put = ({ id, parts: [part] }: Job, revision: number, number: number, nodes = 60): Promise<Response> => ask(`/jobs/${id}/edits`, {
    method: 'POST', headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ batch: nameOf(number), baseRevision: revision, edits: [{ label: 'place', step: nameOf(number), way: 'do', put: { nodes: Array.from({ length: nodes }, (_, i) => kneeRow(1000 * number + i, i, part.id)) } }] }),
  })
  const parts = (): string[] => readdirSync(disk.folder, { recursive: true }).map(String).filter(n => n.endsWith('.part') || n.startsWith('uploads/'))

  it('keeps every acknowledged edit and none of the others, over kills and with room now and then', async () => {
    const r = random(9)
    const job = (await (await bring(writeStl(box([0, 0, 0], [4, 4, 4]), 'box'))).json()) as Job
    const kept: number[] = []
    let refused = 0, kills = 0
    for (let n = 1; n <= 34; n++) {
      if (n % 7 === 3) disk.fill(Math.floor(between(r, 0, 60_000)))
      const answer = await put(job, kept.length, n, 20 + Math.floor(between(r, 0, 120))).catch(() => null)
      if (answer?.status === 200) kept.push(n)
      else {
        expect([answer?.status, ((await answer?.json()) as Problem).code]).toEqual([507, 'disk-full'])
        refused++
      }
      // what is there can be read, however full the disk is
      expect((await get(job.id)).batches).toEqual(kept.map(nameOf))
      if (n % 7 === 6) {
        await server.end('SIGKILL')
        kills++
        // a full disk is said and nothing is touched
        if (n % 2 === 0) {
          disk.fill()
          await expect(startProcess(disk.folder)).rejects.toThrow(/its disk is full\. Set DATA_DIR to another folder/)
        }
        disk.free()
        server = await startProcess(disk.folder)
        expect((await get(job.id)).batches).toEqual(kept.map(nameOf))
      }
    }
    expect(Math.min(refused, kept.length, kills)).toBeGreaterThan(3)
    const after = await get(job.id)
    expect([...new Set(after.nodes.map(node => Math.floor(Number.parseInt(node.id, 10) / 1000)))].sort((a, b) => a - b)).toEqual(kept)
    const db = new Database(join(disk.folder, 'oak-stilts.sqlite'))
    expect(db.prepare('PRAGMA integrity_check').all()).toEqual([{ integrity_check: 'ok' }])
    db.close()
  })

  it('refuses a model that does not fit with a sentence, leaves nothing of it behind, and takes the next one', async () => {
    const large = writeStl(sphere([0, 0, 0], 10, 540), 'large'), small = writeStl(box([0, 0, 0], [4, 4, 4]), 'box')
    expect(large.length).toBeGreaterThan(13 << 20)
    const used = (): number => readdirSync(disk.folder, { recursive: true }).reduce((n, f) => n + statSync(join(disk.folder, String(f))).size, 0)
    const before = used()
    const answer = await bring(large)
    expect([answer.status, ((await answer.json()) as Problem).code]).toEqual([507, 'disk-full'])
    expect(parts()).toEqual([])
    // nearly full: the file still goes in, what is made of it does not
    disk.fill(9_000)
    const ball = await bring(writeStl(sphere([0, 0, 0], 3, 12), 'ball'))
    expect([ball.status, ((await ball.json()) as Problem).code]).toEqual([507, 'disk-full'])
    disk.free()
    expect(parts()).toEqual([])
    expect(used()).toBeLessThan(before + (1 << 20))
    expect((await bring(small)).status).toBe(201)
    expect(((await (await ask('/jobs')).json()) as unknown[]).length).toBe(1)
  })
})
