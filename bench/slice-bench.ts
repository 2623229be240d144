import { readFileSync } from 'node:fs'
import { deflateSync, inflateSync } from 'node:zlib'
import { BUILT_IN_PRINTERS, DEFAULT_LAYER_MM, DEFAULT_PRINTER, DEFAULT_RESIN, PLAIN_PRINT, SmoothingSchema, type Smoothing } from '../core/contract'
import { prepareMesh, readModel, sourceOfBytes, wholeOf } from '../core/mesh'
import { holdOpenIslands } from '../core/plan'
import { DEFAULT_POSE, standOf, UNSHAPED } from '../core/pose'
import { openPackage, PackageWriter, PlateSlicer, rehearse, timesOfLayers, type PlateToSlice } from '../core/print'
import { layersOf } from '../cli/slice-threads'
import { ModelScan } from '../core/scan'
import { GAUGES, solidOfStilt, Surface } from '../core/stilts'
import { demoStl } from '../server'

// Slicing, all in, beside zlib alone on the same pictures, in the same run: one core, each layer once, every so many layers to zlib.
const EVERY = 16
const STILTS = 300

const { mesh } = prepareMesh(wholeOf(await readModel(readFileSync(await demoStl('heron')))))
const raster = { pixelMm: 0.05, layerMm: DEFAULT_LAYER_MM }, stand = standOf(mesh.positions, DEFAULT_POSE, raster.pixelMm)
const scan = new ModelScan(mesh, raster, stand), steps = holdOpenIslands(scan, new Surface(mesh, { shape: UNSHAPED, stand }), [], { gauges: GAUGES, plate: DEFAULT_PRINTER, ledges: true })
let step = steps.next()
while (!step.done) step = steps.next()
const stilts = step.value.added.slice(0, STILTS).map(solidOfStilt)

const idat = (png: Uint8Array): Uint8Array => png.subarray(41, 41 + new DataView(png.buffer, png.byteOffset).getUint32(33))

async function slice(name: string, smoothing: Smoothing, more: Partial<PlateToSlice> = {}): Promise<void> {
  const plate: PlateToSlice = { parts: [{ id: 'heron', mesh, stand, stilts, raft: null }], copies: [{ part: 'heron', xPixels: 0, yPixels: 0, turnDeg: 0 }], printer: DEFAULT_PRINTER, layerMm: DEFAULT_LAYER_MM, printing: { ...PLAIN_PRINT, smoothing }, resin: DEFAULT_RESIN, ...more }
  const printer = { ...DEFAULT_PRINTER, ...plate.printer }, pieces: Uint8Array[] = [], pngs: Uint8Array[] = [], begun = performance.now(), slicer = new PlateSlicer(plate), times = timesOfLayers(slicer.layerCount, DEFAULT_LAYER_MM, DEFAULT_RESIN, [], printer)
  const writer = new PackageWriter({ name, job: null, parts: [], layerMm: DEFAULT_LAYER_MM, printer, resin: DEFAULT_RESIN, printing: { ...PLAIN_PRINT, smoothing } }, bytes => pieces.push(bytes.slice()))
  let bytes = 0
  for (let b = 0; b < slicer.bands; b++) {
    for (const layer of slicer.band(b)) {
      bytes += layer.png.length
      pngs.push(layer.png)
      writer.add(layer, times[writer.layers])
    }
  }
  writer.finish()
  const own = (performance.now() - begun) / slicer.layerCount
  let zlib = 0, zlibBytes = 0, ownBytes = 0, compared = 0
  for (let k = 0; k < pngs.length; k += EVERY) {
    const raw = inflateSync(idat(pngs[k])), start = performance.now(), packed = deflateSync(raw, { level: 6 })
    zlib += performance.now() - start
    zlibBytes += packed.length
    ownBytes += idat(pngs[k]).length
    compared++
  }
  zlib /= compared
  // on two cores, their start included
  const alongside = performance.now()
  let second = 0
  for await (const layer of layersOf(plate, slicer, 2)) second += layer.png.length
  const both = (performance.now() - alongside) / slicer.layerCount
  if (second !== bytes) throw new Error('Two cores made other pictures than one.')
  console.log(`${name}, ${smoothing}: ${slicer.layerCount} layers, ${own.toFixed(2)} ms a layer all in, ${(bytes / slicer.layerCount / 1024).toFixed(1)} kB; zlib 6 alone ${zlib.toFixed(2)} ms; ratio ${(own / zlib).toFixed(3)}; on two cores ${both.toFixed(2)} ms, ratio ${(both / zlib).toFixed(3)}; bytes ${(100 * (ownBytes / zlibBytes - 1)).toFixed(1)} % over zlib's; memory so far ${(process.resourceUsage().maxRSS / 1024).toFixed(0)} MB at most`)
  const start = performance.now()
  const { result, faults } = await openPackage(sourceOfBytes(Buffer.concat(pieces)), found => {
    const steps = rehearse(found)
    let step = steps.next()
    while (!step.done) step = steps.next()
    return Promise.resolve(step.value)
  })
  const ms = (performance.now() - start) / slicer.layerCount
  console.log(`  its rehearsal: ${ms.toFixed(2)} ms a layer, ${(ms / own).toFixed(2)} of slicing; ${faults.length} faults, ${result.islands.filter(i => i.state === 'open').length} islands, ${result.cups.length} cups`)
}

console.log(`heron with ${stilts.length} stilts`)
const [, quay] = [BUILT_IN_PRINTERS[1], BUILT_IN_PRINTERS[2]]
for (const smoothing of SmoothingSchema.options) await slice('one', smoothing)
const across = Math.round(75 / 0.022), along = Math.round(55 / 0.022)
// the full plate takes its time: `one` leaves it out
if (process.argv[2] === 'one') process.exit()
const places = [-1, 0, 1].flatMap(x => [-0.5, 0.5].map(y => ({ part: 'heron', xPixels: x * across, yPixels: Math.round(y * along), turnDeg: 0 })))
for (const smoothing of ['none', 'fourfold'] as const) await slice(`a full plate of ${places.length} on ${quay.name}`, smoothing, { printer: quay, copies: places })
