import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import type { CutReport } from '@oak-stilts/core/contract'
import { cutBy, CutTrial, pegPlaces, sectionOf, type PegSizes, type Plane, type SectionPiece } from '@oak-stilts/core/carve'
import { add, distance, dot, scale, volumeOf, writeStl, type Mesh, type Vec3 } from '@oak-stilts/core/mesh'
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
  const given = pegs && asked.pegsAt.length > 0 ? await placed(mesh, plane, through, pegs, asked.pegsAt) : null, places = given ?? (pegs ? pegPlaces(mesh, plane, through, pegs, WALL_MM, pegs.count) : [])
  if (pegs && !given && places.length < pegs.count) throw new UsageError(`There is room for ${places.length} of ${pegs.count} pegs: a socket keeps ${WALL_MM} mm of wall beside it. Make them smaller, or take fewer.`)
  const { above, below, areaMm2 } = await cutBy(mesh, plane, { whole: whole.flatMap(n => (pieces[n] ? [pieces[n].inside] : [])), pegs: pegs && { ...pegs, at: places, wallMm: WALL_MM } })
  mkdirSync(folder, { recursive: true })
  const files = { above: join(folder, 'above.stl'), below: join(folder, 'below.stl') }
  save(files.above, writeStl(above, 'Oak Stilts, millimetres'))
  save(files.below, writeStl(below, 'Oak Stilts, millimetres'))
  const report: CutReport = { ...files, aboveMm3: volumeOf(above), belowMm3: volumeOf(below), areaMm2, pieces: pieces.map((p, i) => ({ areaMm2: p.areaMm2, whole: whole.includes(i) })), pegs: places.map(p => [...p]) }
  output.result(json ? JSON.stringify(report) : `Cut over ${areaMm2.toFixed(1)} mm² into ${(report.aboveMm3 / 1000).toFixed(2)} cm³ above and ${(report.belowMm3 / 1000).toFixed(2)} cm³ below${places.length ? `, with ${places.length} ${places.length === 1 ? 'peg' : 'pegs'}` : ''}${whole.length ? `; ${whole.length} of ${pieces.length} pieces left whole` : ''}: ${files.above}, ${files.below}`)
}

/** Points brought onto the plane, each of which has room for a peg. @throws UsageError where one has not */
async function placed(mesh: Mesh, plane: Plane, through: readonly SectionPiece[], sizes: PegSizes, near: readonly Vec3[]): Promise<Vec3[]> {
  const trial = await CutTrial.of(mesh)
  try {
    return near.map((p, i) => {
      const at = add(p, scale(plane.normal, plane.offsetMm - dot(plane.normal, p))), room = trial.room(plane, through, at, sizes), text = p.join(',')
      if (room === null) throw new UsageError(`Peg ${i + 1}, at ${text}, stands beside what is cut.`)
      if (room < WALL_MM) throw new UsageError(`Peg ${i + 1}, at ${text}, leaves ${Math.max(0, room).toFixed(2)} mm of wall beside its socket; it keeps ${WALL_MM} mm. Move it, or make it smaller.`)
      const other = near.findIndex((q, j) => j < i && distance(p, q) < sizes.diameterMm + 2 * sizes.clearanceMm + WALL_MM)
      if (other >= 0) throw new UsageError(`Pegs ${other + 1} and ${i + 1} stand too near to each other.`)
      return at
    })
  } finally {
    trial.free()
  }
}
