import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { joinMeshes, writeStl } from '../core/mesh'
import { objText, plyBytes } from '../core/testing/model-files'
import { box, sphere } from '../core/testing/shapes'
import { temporaryFolder } from './bench'
import { withBench } from './with-bench'

const { server, bench } = withBench({ seed: false, begin: async ({ server: s, bench: b }) => void (await b.page.goto(`${s.url}/jobs`)) })
const files = temporaryFolder()

function file(name: string, bytes: Uint8Array | string): string {
  const path = join(files, name)
  writeFileSync(path, bytes)
  return path
}

describe('bringing a model in', () => {
  const good = writeStl(box([0, 0, 0], [10, 10, 10]), 'box')
  const nan = good.slice()
  new DataView(nan.buffer).setFloat32(84 + 12, NaN, true)

  it.each<[string, Uint8Array | string, RegExp]>([
    ['empty.stl', '', /This file is empty/],
    ['picture.stl', new Uint8Array(4000).map((_, i) => (i * 197 + (i >> 3)) & 255), /not an STL, OBJ, PLY or 3MF file/],
    ['short.stl', good.slice(0, good.length - 120), /cut short: it announces 12 triangles and holds 9/],
    ['nan.stl', nan, /1 coordinate in this file is not a number/],
    ['text.stl', 'solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0', /cut short/],
    ['nothing.stl', writeStl({ positions: new Float32Array(0), triangles: new Uint32Array(0) }, 'none'), /holds no triangles/],
  ])('says what is wrong with %s and leaves the rest untouched', async (name, bytes, sentence) => {
    await bench.page.getByLabel('Model files').setInputFiles(file(name, bytes))
    const alert = bench.page.getByRole('alert')
    await alert.filter({ hasText: sentence }).waitFor()
    expect(await alert.textContent()).toContain(`${name} was not brought in`)
    expect(await server.jobs()).toEqual([])
  })

  it('asks whether a model made to stand is kept on the plate, with keep chosen', async () => {
    await bench.page.getByLabel('Model files').setInputFiles(file('Standing box.stl', writeStl(joinMeshes([box([0, 0, 3], [10, 10, 8]), sphere([30, 5, 12], 4)]), 'x')))
    await bench.page.getByRole('heading', { name: 'This file looks made to stand' }).waitFor()
    expect(await bench.page.getByLabel(/Keep on the plate/).isChecked()).toBe(true)
    await bench.scanned()
    await bench.page.getByRole('button', { name: 'Stand it so' }).click()
    await bench.saved()
    const job = await server.job(await server.idOf('Standing box'))
    expect(job.parts[0].pose.liftMm).toBe(0)
    expect(job.parts[0].source.summary).toMatchObject({ triangles: 12 + 48 * 46, unclosedEdges: 0, shells: 2 })
    await bench.page.getByRole('link', { name: 'Part', exact: true }).click()
    expect(await bench.page.getByText('Closed, and nothing in it is odd.').isVisible()).toBe(true)
  })

  it('takes several files at once, of any format, as parts of one job or as a job each', async () => {
    const obj = file('Disc.obj', objText(sphere([0, 0, 0], 3, 12))), ply = file('Ball.ply', plyBytes(sphere([0, 0, 0], 4, 12), 'binary_big_endian'))
    await bench.page.getByRole('link', { name: 'Jobs', exact: true }).click()
    await bench.page.getByLabel('Model files').setInputFiles([obj, ply])
    await bench.page.getByRole('dialog', { name: '2 models' }).getByRole('button', { name: 'One job of 2 parts' }).click()
    await bench.scanned()
    const { parts, copies } = await server.job(await server.idOf('Disc'))
    expect(parts.map(p => [p.name, p.source.format]).sort()).toEqual([['Ball', 'ply'], ['Disc', 'obj']])
    // beside each other, nothing in the other
    expect(new Set(copies.map(c => `${c.xPixels} ${c.yPixels}`)).size).toBe(2)
    await bench.page.getByRole('link', { name: 'Jobs', exact: true }).click()
    await bench.page.getByLabel('Model files').setInputFiles([obj, ply])
    await bench.page.getByRole('button', { name: '2 jobs, one each' }).click()
    await bench.page.getByRole('link', { name: 'Open Ball' }).waitFor()
    expect((await server.jobs()).map(j => j.name).sort()).toEqual(['Ball', 'Disc', 'Disc', 'Standing box'])
  })

  it('takes what is dropped anywhere on the bench as parts of its job', async () => {
    await bench.page.getByRole('link', { name: 'Open Ball' }).click()
    await bench.scanned()
    const drop = (kind: string): Promise<void> => bench.page.evaluate(([kind, text]) => {
      const data = new DataTransfer()
      data.items.add(new File([text], 'Cube.obj'))
      document.querySelector('canvas')?.dispatchEvent(new DragEvent(kind, { dataTransfer: data, bubbles: true, cancelable: true }))
    }, [kind, objText(box([0, 0, 0], [4, 4, 4]))])
    await drop('dragenter')
    await bench.page.getByText('Drop to add to this job').waitFor()
    await drop('drop')
    await bench.message(/Cube was added/)
    await bench.saved()
    expect((await server.job(await server.idOf('Ball'))).parts.map(p => p.name)).toEqual(['Ball', 'Cube'])
  })

  it('ends at once where it is cancelled', async () => {
    await bench.page.getByRole('link', { name: 'Jobs', exact: true }).click()
    await bench.page.getByLabel('Model files').setInputFiles(file('Large.stl', writeStl(sphere([0, 0, 0], 5, 1000), 'large')))
    await bench.page.getByRole('status').filter({ hasText: /Large\.stl/ }).waitFor()
    await bench.page.getByRole('button', { name: 'Cancel' }).click()
    await bench.page.getByRole('button', { name: 'Choose models' }).and(bench.page.locator(':enabled')).waitFor()
    expect((await server.jobs()).map(j => j.name)).not.toContain('Large')
    await bench.page.getByRole('link', { name: 'Open Standing box' }).click()
    await bench.scanned()
  })

  it('keeps a renamed job and lists it with a picture', async () => {
    await bench.page.getByLabel('Job name').fill('Box and ball')
    await bench.page.getByLabel('Job name').press('Enter')
    await bench.saved()
    await bench.page.getByRole('link', { name: 'Jobs', exact: true }).click()
    await bench.page.getByRole('link', { name: 'Open Box and ball' }).waitFor()
    const picture = bench.page.getByRole('img', { name: 'Picture of Box and ball' })
    await expect.poll(() => picture.evaluate(e => (e as HTMLImageElement).naturalWidth)).toBe(480)
  })

  it('copies and deletes', async () => {
    await bench.page.getByRole('button', { name: 'Copy Box and ball' }).click()
    await bench.page.getByRole('link', { name: 'Open Box and ball (copy)' }).waitFor()
    await bench.page.getByRole('button', { name: 'Delete Box and ball (copy)' }).click()
    await expect.poll(async () => (await server.jobs()).length).toBe(4)
    expect(bench.errors).toEqual([])
  })
})
