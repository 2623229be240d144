import { existsSync, statSync } from 'node:fs'
import { basename, extname } from 'node:path'
import { BUILT_IN_PRINTERS, DEFAULT_PRINTER, DEFAULT_RESIN, pixelMmOf, PLAIN_PRINT, PrinterSchema, type ContoursReport, type Copy, type Printer, type SliceReport } from '@oak-stilts/core/contract'
import { checkDigest, costOf, openPackage, PackageWriter, PlateSlicer, PlateView, timesOfLayers, writeSlices3mf, type PartToSlice } from '@oak-stilts/core/print'
import { feetOf, raftSolid, stiltSolids } from '@oak-stilts/core/raft'
import { UsageError, type Options } from './arguments'
import { jsonFrom, saveInPieces, withFile } from './files'
import type { Output } from './output'
import { standOnPlate, type Posed } from './posed'
import { resinNamed } from './proof'
import { layersOf } from './slice-threads'
import { jobNamed } from './source'

/** Writes the layers of a file, or of all parts and copies of a job, as a package for a printer. */
export async function slice(asked: Options, output: Output): Promise<void> {
  const job = asked.job === null ? null : await jobNamed(asked.job), own = job?.printer ?? DEFAULT_PRINTER, printer = asked.printer === null ? own : printerNamed(asked.printer), out = asked.out as string
  if (job && asked.plan) throw new UsageError('A job brings its own plans; --plan goes with a file.')
  if (job && pixelMmOf(printer) !== pixelMmOf(own)) throw new UsageError(`The job was planned for ${own.name}, whose pixels are ${pixelMmOf(own)} mm; those of ${printer.name} are ${pixelMmOf(printer)} mm. Choose that printer in the job first, so that it is scanned for it.`)
  const resin = asked.resin === null ? (job?.resin ?? DEFAULT_RESIN) : resinNamed(asked.resin), options: Options = { ...asked, pixelMm: pixelMmOf(printer) }
  const names = job ? job.parts.filter(p => asked.part === null || p.name === asked.part).map(p => p.name) : [null], parts: PartToSlice[] = [], copies: Pick<Copy, 'part' | 'xPixels' | 'yPixels' | 'turnDeg'>[] = [], counted: { name: string; copies: number }[] = []
  if (names.length === 0) throw new UsageError(`There is no part “${asked.part ?? ''}” in this job.`)
  let layerMm = options.layerMm
  for (const name of names) {
    const posed = await standOnPlate({ ...options, part: name }, output), mine = job ? job.copies.filter(c => c.part === posed.part) : [{ part: posed.part, xPixels: 0, yPixels: 0, turnDeg: posed.shift.turnDeg }]
    layerMm = posed.options.layerMm
    parts.push(partOf(posed))
    copies.push(...mine)
    counted.push({ name: name ?? basename(asked.file as string, extname(asked.file as string)), copies: mine.length })
  }
  const printing = { ...(job?.printing ?? PLAIN_PRINT), ...(asked.smoothing && { smoothing: asked.smoothing }) }
  const plate = { parts, copies, printer, layerMm, printing, resin }, slicer = new PlateSlicer(plate), times = timesOfLayers(slicer.layerCount, layerMm, resin, printing.ranges, printer), view = new PlateView(slicer.layerCount, printer.pixelsX, printer.pixelsY)
  if (slicer.layerCount === 0) throw new UsageError('There is nothing to print in it.')
  if (slicer.layerCount * layerMm > printer.heightMm + layerMm) throw new UsageError(`The print is ${(slicer.layerCount * layerMm).toFixed(2)} mm high; ${printer.name} prints ${printer.heightMm} mm.`)
  if (/\.3mf$/i.test(out)) {
    const made = await saveInPieces(out, async write => {
      const steps = writeSlices3mf(plate, job?.name ?? counted[0].name, write)
      for (let step = await steps.next(); ; step = await steps.next()) if (step.done) return step.value
    })
    const contours: ContoursReport = { out, bytes: statSync(out).size, printer: printer.name, layerMm, ...made }
    output.result(asked.json ? JSON.stringify(contours) : `${made.layers} layers of ${layerMm} mm as contours of ${made.objects} ${made.objects === 1 ? 'object' : 'objects'}, ${(statSync(out).size / 1e6).toFixed(1)} MB: ${out}`)
    return
  }
  const manifest = await saveInPieces(out, async write => {
    const writer = new PackageWriter({ name: job?.name ?? counted[0].name, job: null, parts: counted, layerMm, printer, resin, printing }, write)
    for await (const layer of layersOf(plate, slicer)) {
      if (layer.cutPixels > 0) throw new UsageError(`Layer ${writer.layers + 1} reaches over the edge of what ${printer.name} can show. Move the copies in, or take fewer.`)
      view.add(writer.layers, layer.png)
      writer.add(layer, times[writer.layers])
    }
    writer.picture(view.png())
    return writer.finish()
  })
  await readBack(out)
  const { resinMl, seconds, shades } = manifest
  const report: SliceReport = { out, bytes: statSync(out).size, printer: printer.name, resin: resin.name, layerMm, layers: slicer.layerCount, shades, seconds, resinMl, cost: costOf(resinMl.all, resin) }
  output.result(asked.json ? JSON.stringify(report) : `${report.layers} layers of ${layerMm} mm for ${report.printer}, ${(report.bytes / 1e6).toFixed(1)} MB: ${out}\nestimates: ${hours(seconds)}, ${resinMl.all.toFixed(1)} ml of ${resin.name} (parts ${resinMl.parts.toFixed(1)}, stilts ${resinMl.stilts.toFixed(1)}, rafts ${resinMl.rafts.toFixed(1)}), cost ${report.cost.toFixed(2)}`)
}

const hours = (seconds: number): string => `${Math.floor(seconds / 3600)} h ${Math.round((seconds % 3600) / 60)} min`

function partOf({ part, mesh, stand, plan }: Posed): PartToSlice {
  return { id: part, mesh, stand, stilts: stiltSolids(plan.index, part), raft: raftSolid(plan.raft, feetOf(plan.nodes.values(), part)) }
}

/** Reads a package to its end, as a printer would. @throws PackageError */
function readBack(path: string): Promise<void> {
  return withFile(path, source => {
    for (const steps = checkDigest(source); !steps.next().done;);
    return openPackage(source, found => {
      for (let k = 0; k < found.manifest.layers.length; k++) found.layer(k)
      return Promise.resolve()
    })
  })
}

/** A built-in printer by its name, or one from a file. @throws UsageError */
function printerNamed(name: string): Printer {
  const known = BUILT_IN_PRINTERS.find(p => p.name.toLowerCase() === name.toLowerCase())
  if (known) return known
  if (!existsSync(name)) throw new UsageError(`There is no printer "${name}", and no file of that name. Built in are ${BUILT_IN_PRINTERS.map(p => `"${p.name}"`).join(', ')}.`)
  const parsed = PrinterSchema.safeParse(jsonFrom(name))
  if (!parsed.success) throw new UsageError(`${name} holds no printer: ${parsed.error.issues[0].path.join('.')} ${parsed.error.issues[0].message}.`)
  return parsed.data
}
