import { newId, type HollowReport, type Recipe } from '@oak-stilts/core/contract'
import { boreAt, finishPart, stepPoint } from '@oak-stilts/core/finish'
import { LEAST_CELLS } from '@oak-stilts/core/hollow'
import { volumeOf, writeStl } from '@oak-stilts/core/mesh'
import { UNSHAPED, upOfTilt } from '@oak-stilts/core/pose'
import { UsageError, type Options } from './arguments'
import { save } from './files'
import type { Output } from './output'
import { standOnPlate } from './posed'
import { wallThreads } from './wall-threads'

/** How fine an inner wall is made where nobody says, mm; finer where the wall is thin. */
const USUAL_CELL_MM = 0.2

/** Takes the inside out of a part, drills it, and writes what is left where it lies in its file. */
export async function hollow(asked: Options, output: Output): Promise<void> {
  const start = performance.now(), { options, base, recipe, pose } = await standOnPlate(asked, output, true), { wallMm, selfSupporting, holes, out } = options
  if (recipe.plug) throw new UsageError('This part is the plug of a hole; it has no inside to take out.')
  const cellMm = options.cellMm ?? Math.min(USUAL_CELL_MM, wallMm / LEAST_CELLS), { slopeDeg, flapMm } = options.settings
  // a hollow that the job has already gives way to this one; its holes and cuts stay
  const step: Recipe['hollow'] = { on: true, wallMm, cellMm, carries: selfSupporting ? { up: [...upOfTilt(pose ?? { tiltXDeg: 0, tiltYDeg: 0 })], slopeDeg, flapMm } : null }
  const threads = wallThreads(), hollowed = await finishPart(base, { ...recipe, hollow: step }, { helpers: threads.helpers }).finally(() => threads.end()), plain: Recipe = { ...recipe, unitMm: 1, scale: [1, 1, 1], mirrored: false, hollow: null, cuts: [], plug: null }
  const bores = holes.map(({ near, diameterMm }) => ({ ...boreAt(hollowed.mesh, near, diameterMm), diameterMm }))
  const { mesh } = bores.length === 0 ? hollowed : await finishPart(hollowed.mesh, { ...plain, holes: bores.map(b => ({ id: newId(), on: true, at: stepPoint(b.at, UNSHAPED), into: [...b.into], diameterMm: b.diameterMm, endDiameterMm: b.diameterMm, depthMm: b.depthMm })) })
  const bytes = writeStl(mesh, 'Oak Stilts, millimetres')
  save(out as string, bytes)
  const { solidMm3, chambers, leftSolid } = hollowed.hollow as NonNullable<typeof hollowed.hollow>, volumeMm3 = volumeOf(mesh)
  const report: HollowReport = {
    out: out as string, wallMm, cellMm, selfSupporting, solidMm3, volumeMm3, leftSolid: { ...leftSolid },
    chambers: chambers.map(c => ({ volumeMm3: c.volumeMm3, min: [...c.box.min], max: [...c.box.max] })), holes: bores.map(b => ({ at: [...b.at], into: [...b.into], diameterMm: b.diameterMm, depthMm: b.depthMm })),
    triangles: mesh.triangles.length / 3, seconds: (performance.now() - start) / 1000,
  }
  output.result(options.json ? JSON.stringify(report) : textOf(report))
}

function textOf({ solidMm3, volumeMm3, wallMm, chambers, leftSolid, holes, out }: HollowReport): string {
  const cm3 = (mm3: number): string => `${(mm3 / 1000).toFixed(2)} cm³`, one = chambers.length === 1
  return `${cm3(solidMm3)} came to ${cm3(volumeMm3)} with walls of ${wallMm} mm: ${one ? 'one hollow' : `${chambers.length} hollows`} of ${chambers.map(c => cm3(c.volumeMm3)).join(', ')}${holes.length === 0 ? `, and nothing that opens ${one ? 'it' : 'them'}` : `, ${holes.length} ${holes.length === 1 ? 'hole' : 'holes'}`}${leftSolid.count ? `; ${leftSolid.count} too small to drain left solid` : ''}: ${out}`
}
