import { createHash } from 'node:crypto'
import { strFromU8, unzipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { DEFAULT_PRINTER, DEFAULT_RESIN, PackageManifestSchema, PLAIN_PRINT } from '../../contract'
import { sourceOfBytes } from '../../mesh'
import { AS_IS, type Stand } from '../../pose'
import { between, random } from '../../testing/random'
import { box, sphere } from '../../testing/shapes'
import { PlateSlicer } from '../slice/plate-slicer'
import type { PlateToSlice } from '../slice/plate-to-slice'
import { timesOfLayers } from '../time'
import { PackageError } from './package-error'
import { checkDigest, openPackage } from './read-package'
import { packageName, PackageWriter } from './write-package'

const printer = { ...DEFAULT_PRINTER, widthMm: 20, depthMm: 10, pixelsX: 400, pixelsY: 200 }, resin = { ...DEFAULT_RESIN, bottomLayers: 2, transitionLayers: 0 }

function packaged(plate: Partial<PlateToSlice>, name = 'Ball'): { bytes: Uint8Array; pngs: Uint8Array[]; sha256: string } {
  const whole: PlateToSlice = { parts: [], copies: [{ part: 'a', xPixels: 0, yPixels: 0, turnDeg: 0 }], printer, layerMm: 0.05, printing: PLAIN_PRINT, resin, ...plate }
  const slicer = new PlateSlicer(whole), times = timesOfLayers(slicer.layerCount, 0.05, resin, [], printer), pieces: Uint8Array[] = [], pngs: Uint8Array[] = []
  const writer = new PackageWriter({ name, job: null, parts: [{ name: 'Ball', copies: 1 }], layerMm: 0.05, printer, resin, printing: PLAIN_PRINT }, bytes => pieces.push(bytes.slice()))
  for (let b = 0; b < slicer.bands; b++) {
    for (const layer of slicer.band(b)) {
      pngs.push(layer.png)
      writer.add(layer, times[writer.layers])
    }
  }
  writer.picture(pngs[0])
  writer.finish()
  return { bytes: Uint8Array.from(Buffer.concat(pieces)), pngs, sha256: writer.sha256 }
}
const ball = { id: 'a', mesh: sphere([0, 0, 4], 2, 64), stand: AS_IS as unknown as Stand, stilts: [[-1, -1], [1, -1], [1, 1], [-1, 1]].map(([x, y]) => box([x - 0.2, y - 0.2, 0], [x + 0.2, y + 0.2, 3])), raft: null }
const { bytes, pngs, sha256 } = packaged({ parts: [ball] })
const refusal = async (of: Uint8Array): Promise<unknown> => {
  try {
    const source = sourceOfBytes(of)
    for (const share of checkDigest(source)) expect(share).toBeLessThanOrEqual(1)
    return await openPackage(source, found => {
      for (let k = 0; k < found.manifest.layers.length; k++) found.layer(k)
      return Promise.resolve('whole')
    })
  } catch (error) {
    if (!(error instanceof PackageError)) throw error
    return error.code
  }
}

describe('a package of layers', () => {
  it('is a zip that another reader unpacks: its manifest fits the schema, its pictures are those that were sliced (Reference library: fflate)', () => {
    const files = unzipSync(bytes), manifest = PackageManifestSchema.parse(JSON.parse(strFromU8(files['manifest.json'])))
    expect(Object.keys(files)).toEqual([...pngs.map((_, k) => `layers/${String(k + 1).padStart(5, '0')}.png`), 'plate.png', 'manifest.json'])
    for (const [k, png] of pngs.entries()) expect(Buffer.compare(Buffer.from(files[manifest.layers[k].file]), Buffer.from(png))).toBe(0)
    expect([manifest.layers[0].exposureS, manifest.layers[2].exposureS, manifest.shades, manifest.layers.length]).toEqual([resin.bottomExposureS, resin.exposureS, 2, 120])
    // light, rest and travel of all layers, worked by hand for this resin
    expect(manifest.seconds).toBeCloseTo(2 * 28 + 118 * 2.5 + 120 * (1 + 6 + 2.4), 6)
  })
  it('ends with the SHA-256 of all before its comment (Reference library: node:crypto)', () => {
    const comment = Buffer.from(bytes.subarray(bytes.length - 71)).toString()
    expect(comment).toBe(`sha256:${createHash('sha256').update(bytes.subarray(0, bytes.length - 71)).digest('hex')}`)
    expect(sha256).toBe(createHash('sha256').update(bytes).digest('hex'))
  })
  it('says how much resin it takes (closed form: a ball on four posts, less what of them lies in the ball)', () => {
    const files = unzipSync(bytes), { resinMl } = PackageManifestSchema.parse(JSON.parse(strFromU8(files['manifest.json'])))
    expect(resinMl.parts * 1000 / ((4 / 3) * Math.PI * 8)).toBeCloseTo(1, 1)
    // a post of 0.4 mm square reaches from the plate to the ball over its middle, 4 − √(4 − 2) mm up, within 2 %
    expect(resinMl.stilts * 1000 / (4 * 0.16 * (4 - Math.SQRT2))).toBeCloseTo(1, 1)
    expect(resinMl.all).toBeCloseTo(resinMl.parts + resinMl.stilts + resinMl.rafts, 9)
  })
  it('is the same to the last byte when it is made again', () => {
    expect(Buffer.compare(Buffer.from(packaged({ parts: [ball] }).bytes), Buffer.from(bytes))).toBe(0)
  })
  it('is read back whole', async () => {
    expect(await refusal(bytes)).toBe('whole')
    await openPackage(sourceOfBytes(bytes), found => Promise.resolve(expect(Buffer.compare(Buffer.from(found.layer(50)), Buffer.from(pngs[50]))).toBe(0)))
  })
  it('altered by one byte, anywhere, is found', async () => {
    const r = random(12)
    for (let n = 0; n < 60; n++) {
      const altered = bytes.slice(), at = n < 3 ? [40, bytes.length - 10, bytes.length - 90][n] : Math.floor(between(r, 0, bytes.length))
      altered[at] ^= 1 << Math.floor(between(r, 0, 8))
      expect(['altered', 'cut-short', 'no-package'], `byte ${at}`).toContain(await refusal(altered))
    }
  })
  it('cut off anywhere is found, and what is no package at all', async () => {
    const r = random(13)
    for (let n = 0; n < 20; n++) expect(['cut-short', 'altered'], `cut ${n}`).toContain(await refusal(bytes.slice(0, Math.floor(between(r, 100, bytes.length)))))
    await expect(openPackage(sourceOfBytes(new Uint8Array(200)), () => Promise.resolve(0))).rejects.toMatchObject({ code: 'no-package' })
    await expect(openPackage(sourceOfBytes(bytes.slice(0, 5000)), () => Promise.resolve(0))).rejects.toMatchObject({ code: 'cut-short' })
  })
  it('names the layer that is not what was sliced', async () => {
    const altered = bytes.slice(), text = Buffer.from(bytes).toString('latin1'), at = text.indexOf('layers/00031.png') + 16 + 60
    altered[at] ^= 255
    await openPackage(sourceOfBytes(altered), found => Promise.resolve(expect(() => found.layer(30)).toThrow(/layer 31 is not what was sliced/)))
  })
  it('has a file name of job, resin and layer height', () => {
    expect(packageName('Diver’s bell / on stilts', 'Grey, standard', 0.05, 'zip')).toBe('Diver-s-bell-on-stilts_Grey-standard_0.05mm.zip')
    expect(packageName('…', '!', 0.1, '3mf')).toBe('print_resin_0.1mm.3mf')
  })
})
