import { DEFAULT_PRINTER, DEFAULT_RESIN, type TiltReport } from '@oak-stilts/core/contract'
import { PRIZED, worthOfFaces, worthsOf } from '@oak-stilts/core/marks'
import { lighterMesh } from '@oak-stilts/core/mesh'
import type { TiltAngles } from '@oak-stilts/core/pose'
import { cellOf, DEFAULT_WEIGHTS, localMeter, measureCoarsely, measureFully, NO_SYMMETRY, PRIZED_WEIGHTS, Room, SkinTable, symmetryOf, TiltSearch, whyOf, type TiltMeasures } from '@oak-stilts/core/tilts'
import { UsageError, type Options } from './arguments'
import type { Output } from './output'
import { standOnPlate } from './posed'
import { marksOf } from './source'

const LIGHT_TRIANGLES = 40_000

/** Searches all tilts of a part and tells the few that are worth a look beside the one that was asked for. */
export async function tilt(asked: Options, output: Output): Promise<void> {
  if (asked.asIs) throw new UsageError('--as-is keeps the file where it stands; "tilt" tilts it.')
  const start = performance.now(), { options, of, mesh, worths: own, shift, fileTriangles } = await standOnPlate(asked, output)
  const worths = options.marks ? worthOfFaces(mesh, worthsOf(await marksOf(options.marks, options.part, fileTriangles), fileTriangles)) : own
  const light = await lighterMesh(mesh, LIGHT_TRIANGLES), room = new Room(light, of?.job.printer ?? DEFAULT_PRINTER, options.pose.liftMm)
  const basis = { liftMm: options.pose.liftMm, settings: options.settings, resin: of?.job.resin ?? DEFAULT_RESIN, layerMm: options.layerMm, skin: new SkinTable(mesh, worths) }
  const { tiltXDeg, tiltYDeg, zero } = options.pose, now: TiltAngles = { tiltXDeg, tiltYDeg, ...(zero && { zero }) }
  const symmetry = worths ? NO_SYMMETRY : symmetryOf(light), search = new TiltSearch(now, { symmetry, cellMm: cellOf(light), fits: t => room.turnFor(t, shift.turnDeg) !== null })
  const meter = localMeter((t, cellMm) => measureCoarsely(light, t, cellMm, basis), t => {
    for (const steps = measureFully(mesh, t, options.pixelMm, basis); ;) {
      const step = steps.next()
      if (step.done) return step.value
    }
  })
  const prized = worths?.includes(PRIZED) ?? false, weights = prized ? PRIZED_WEIGHTS : DEFAULT_WEIGHTS
  await search.look(meter, weights)
  await search.refine(meter, weights)
  const here = search.fullOf(now)?.measures as TiltMeasures
  const report: TiltReport = {
    tried: search.tried.length, symmetry: symmetry.order === 1 ? null : { axis: [...symmetry.axis], order: Number.isFinite(symmetry.order) ? symmetry.order : null },
    now: { tiltXDeg, tiltYDeg, measures: written(here) },
    tilts: search.offered(weights).map(({ tilt: t, measures }) => ({ tiltXDeg: t.tiltXDeg, tiltYDeg: t.tiltYDeg, turnDeg: room.turnFor(t, shift.turnDeg), why: whyOf(measures, here, prized), measures: written(measures) })),
    seconds: (performance.now() - start) / 1000,
  }
  output.result(options.json ? JSON.stringify(report) : textOf(report))
}

function written({ steepMm2: [plain, prized, spare, offLimits], ...rest }: TiltMeasures): TiltReport['now']['measures'] {
  return { ...rest, islands: { ...rest.islands }, steepMm2: { plain, prized, spare, offLimits } }
}

/** A search as a person reads it at the terminal. */
function textOf({ tried, symmetry, now, tilts, seconds }: TiltReport): string {
  const figures = (m: TiltReport['now']['measures']): string => `${m.islands.limb + m.islands.detail} islands, ledges ${(m.ledgesMm2 ?? 0).toFixed(0)} mm², ${m.scarMm2.toFixed(0)} mm² of skin to hold, ~${m.peelN.toFixed(1)} N, ${m.cups} cups, ${m.heightMm.toFixed(1)} mm, ~${(m.seconds / 3600).toFixed(1)} h, ~${m.stiltMl.toFixed(1)} ml in stilts`
  return [
    `${tried} tilts tried in ${seconds.toFixed(1)} s${symmetry ? `; the part is the same ${symmetry.order === null ? 'after any turn about an axis' : `${symmetry.order} times in a turn about an axis`}` : ''}`,
    `now    x ${now.tiltXDeg}°, y ${now.tiltYDeg}°: ${figures(now.measures)}`,
    ...tilts.map((t, i) => `${String(i + 1).padEnd(6)} x ${t.tiltXDeg}°, y ${t.tiltYDeg}°: ${t.tiltXDeg === now.tiltXDeg && t.tiltYDeg === now.tiltYDeg ? 'as it stands now' : t.why}${t.turnDeg === null ? ' It does not fit the printer.' : ''}\n       ${figures(t.measures)}`),
  ].join('\n')
}
