import { describe, expect, it } from 'vitest'
import { DEFAULT_PRINTER, DEFAULT_RESIN, PLAIN_PRINT } from '@oak-stilts/core/contract'
import { joinMeshes } from '@oak-stilts/core/mesh'
import { AS_IS, type Stand } from '@oak-stilts/core/pose'
import { PlateSlicer, type PlateToSlice } from '@oak-stilts/core/print'
import { box, sphere } from '../core/testing/shapes'
import { layersOf } from './slice-threads'

const mesh = joinMeshes([box([-5, -5, 0], [5, 5, 6]), sphere([9, 0, 6], 5, 32)])
const plate: PlateToSlice = { parts: [{ id: 'a', mesh, stand: AS_IS as unknown as Stand, stilts: [], raft: null }], copies: [{ part: 'a', xPixels: 0, yPixels: 0, turnDeg: 0 }, { part: 'a', xPixels: 400, yPixels: 100, turnDeg: 30 }], printer: DEFAULT_PRINTER, layerMm: 0.05, printing: { ...PLAIN_PRINT, smoothing: 'twice' }, resin: DEFAULT_RESIN }
async function made(threads: number): Promise<string[]> {
  const out: string[] = []
  for await (const layer of layersOf(plate, new PlateSlicer(plate), threads)) out.push(`${layer.pixels} ${layer.partPixels} ${Buffer.from(layer.png).toString('base64')}`)
  return out
}

describe('layers on several threads', () => {
  it('are those of one, byte for byte and in their order', async () => {
    const one = await made(1)
    expect(one).toHaveLength(220)
    for (const threads of [2, 3]) expect(await made(threads)).toEqual(one)
  })
  it('are left off with the one who takes them', async () => {
    let count = 0
    for await (const layer of layersOf(plate, new PlateSlicer(plate), 2)) {
      expect(layer.png.length).toBeGreaterThan(0)
      if (++count === 20) break
    }
    expect(count).toBe(20)
  })
})
