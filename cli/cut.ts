import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import type { CutReport } from '@oak-stilts/core/contract'
import { cutBy, pegPlaces, sectionOf, type Plane } from '@oak-stilts/core/carve'
import { volumeOf, writeStl } from '@oak-stilts/core/mesh'
import { UsageError, type Options } from './arguments'
import { save } from './files'
import type { Output } from './output'
import { standOnPlate } from './posed'

/** Wall that is left beside a socket, mm. */
const WALL_MM = 1

/** Cuts a part by a plane, through all that it meets or only some of it, and writes both sides where they lie in the file. */
export async function cut(asked: Options, output: Output): Promise<void> {
  const { options: { plane: cutAt, whole, pegs, out, json }, mesh } = await standOnPlate(asked, output), plane = cutAt as Plane, folder = out as string
  const pieces = await sectionOf(mesh, plane), missing = whole.find(n => n >= pieces.length)
  if (missing !== undefined && pieces.length > 0) throw new UsageError(`There is no piece ${missing}: the plane meets ${pieces.length}, counted from 0.`)
  const through = pieces.filter((_, i) => !whole.includes(i))
  const places = pegs ? pegPlaces(mesh, plane, through, pegs, WALL_MM, pegs.count) : []
  if (pegs && places.length < pegs.count) throw new UsageError(`There is room for ${places.length} of ${pegs.count} pegs: a socket keeps ${WALL_MM} mm of wall beside it. Make them smaller, or take fewer.`)
  const { above, below, areaMm2 } = await cutBy(mesh, plane, { whole: whole.flatMap(n => (pieces[n] ? [pieces[n].inside] : [])), pegs: pegs && { ...pegs, at: places, wallMm: WALL_MM } })
  mkdirSync(folder, { recursive: true })
  const files = { above: join(folder, 'above.stl'), below: join(folder, 'below.stl') }
  save(files.above, writeStl(above, 'Oak Stilts, millimetres'))
  save(files.below, writeStl(below, 'Oak Stilts, millimetres'))
  const report: CutReport = { ...files, aboveMm3: volumeOf(above), belowMm3: volumeOf(below), areaMm2, pieces: pieces.map((p, i) => ({ areaMm2: p.areaMm2, whole: whole.includes(i) })), pegs: places.map(p => [...p]) }
  output.result(json ? JSON.stringify(report) : `Cut over ${areaMm2.toFixed(1)} mm² into ${(report.aboveMm3 / 1000).toFixed(2)} cm³ above and ${(report.belowMm3 / 1000).toFixed(2)} cm³ below${places.length ? `, with ${places.length} ${places.length === 1 ? 'peg' : 'pegs'}` : ''}${whole.length ? `; ${whole.length} of ${pieces.length} pieces left whole` : ''}: ${files.above}, ${files.below}`)
}
