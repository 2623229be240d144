import type { CheckReport } from '@oak-stilts/core/contract'
import { CarveError } from '@oak-stilts/core/carve'
import { HollowError } from '@oak-stilts/core/hollow'
import { areaOf, joinMeshes, MeshError, prepareMesh, UNIT_MM, write3mf, writeStl, type ModelFile, type Unit } from '@oak-stilts/core/mesh'
import { holdOpenIslands } from '@oak-stilts/core/plan'
import { PackageError, PrinterSaysNo } from '@oak-stilts/core/print'
import { after, guessUnits, moveMesh, plateOf, shapeOf } from '@oak-stilts/core/pose'
import { ModelScan } from '@oak-stilts/core/scan'
import { changeOfStilts, Clearance, Surface } from '@oak-stilts/core/stilts'
import { audit, checkPlan } from './audit'
import { readArguments, UsageError, type Options } from './arguments'
import { checkText } from './check-text'
import { checkOutput, read, save } from './files'
import { cut } from './cut'
import { hollow } from './hollow'
import { liftOutFile } from './lift-out'
import type { Output } from './output'
import { plan } from './plan'
import { planFileOf } from './plan-file'
import { proof } from './proof'
import { plateFor, scanOnPlate, standOnPlate } from './posed'
import { ready } from './ready'
import { rehearsePackage } from './rehearse'
import { reportOf } from './scan-report'
import { send } from './send'
import { slice } from './slice'
import { sourceOf } from './source'
import { tilt } from './tilt'

export type { Output } from './output'

const NOT_READY = 3

/** Runs a command. Gives its exit code: 0, or 2 with a sentence where it could not be done; 3 where what was proved is not ready. */
export async function run(words: readonly string[], output: Output): Promise<number> {
  try {
    const options = readArguments([...words])
    // before the work, not after it
    for (const path of [options.out, options.mend, options.model, options.command === 'lift-out' ? options.plan : null]) if (path && options.command !== 'cut') checkOutput(path)
    if (options.command === 'scan') await scan(options, output)
    else if (options.command === 'check') await check(options, output)
    else if (options.command === 'hold') await hold(options, output)
    else if (options.command === 'tilt') await tilt(options, output)
    else if (options.command === 'audit') await audit(options, output)
    else if (options.command === 'lift-out') await liftOutFile(options, output)
    else if (options.command === 'check-plan') await checkPlan(options, output)
    else if (options.command === 'plan') await plan(options, output)
    else if (options.command === 'hollow') await hollow(options, output)
    else if (options.command === 'cut') await cut(options, output)
    else if (options.command === 'slice') await slice(options, output)
    else if (options.command === 'send') await send(options, output)
    else if (options.command === 'rehearse') return (await rehearsePackage(options, output)) ? 0 : NOT_READY
    else if (options.command === 'ready') return (await ready(options, output)) ? 0 : NOT_READY
    else if (options.command === 'proof') return (await proof(options, output)) ? 0 : NOT_READY
    else await exportFiles(options, output)
    return 0
  } catch (error) {
    output.note(error instanceof UsageError || error instanceof MeshError || error instanceof HollowError || error instanceof CarveError || error instanceof PackageError || error instanceof PrinterSaysNo ? error.message : `This failed and should not have: ${(error as Error).stack}`)
    return 2
  }
}

/** What a file holds and what is wrong with it, told or as JSON; mended, written. */
async function check(options: Options, output: Output): Promise<void> {
  const file = options.job ? await fileOfJob(options) : await read(options.file as string)
  const models = file.objects.map(o => ({ object: o, ...prepareMesh(o.mesh, { crossings: true }) }))
  const report: CheckReport = {
    format: file.format, statedUnitMm: file.unit && UNIT_MM[file.unit], notes: [...file.notes],
    unitGuesses: file.unit ? [] : guessUnits(models[0].report.sizeMm),
    models: models.map(({ object, mesh, asCame, report: { sizeMm, ...rest } }) => ({ name: object.name, copies: object.places.length, areaMm2: areaOf(mesh), sound: asCame === null && rest.degenerateTriangles === 0, mesh: { ...rest, sizeMm: [...sizeMm] } })),
  }
  if (options.mend) {
    const placed = models.flatMap(({ object, mesh }) => object.places.map(([x, y, z]) => ({ name: object.name || 'Model', mesh: moveMesh(mesh, [1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, z]) })))
    save(options.mend, options.mend.toLowerCase().endsWith('.3mf') ? write3mf(placed, 'Oak Stilts, mended') : writeStl(joinMeshes(placed.map(p => p.mesh)), 'Oak Stilts, mended'))
  }
  output.result(options.json ? JSON.stringify(report) : checkText(report, options.mend))
}

/** The part of a job as a file that holds it alone. */
async function fileOfJob(options: Options): Promise<ModelFile> {
  const { mesh, of } = await sourceOf(options), source = of?.part.source
  const unit = (Object.keys(UNIT_MM) as Unit[]).find(u => UNIT_MM[u] === source?.statedUnitMm) ?? null
  return { format: source?.format ?? 'stl', unit, notes: source?.notes ?? [], objects: [{ name: of?.part.name ?? '', mesh, places: [[0, 0, 0]] }] }
}

async function scan(options: Options, output: Output): Promise<void> {
  const start = performance.now()
  const posed = await standOnPlate(options, output)
  const report = reportOf(posed.prepared, scanOnPlate(posed).runToEnd(), (performance.now() - start) / 1000)
  output.result(JSON.stringify(report))
}

async function hold(asked: Options, output: Output): Promise<void> {
  const posed = await standOnPlate(asked, output)
  const { options, part, worths, mesh, recipe, stand, plan } = posed
  // a plan is made in the stand of the part, however that is turned
  const model = new ModelScan(mesh, { pixelMm: options.pixelMm, layerMm: options.layerMm }, stand, options.settings)
  const solids = plan.solids()
  model.setStilts(solids)
  const surface = new Surface(mesh, { shape: shapeOf(recipe), stand })
  surface.setWorths(worths)
  const steps = holdOpenIslands(model, surface, solids, { gauges: posed.gauges, plate: plateFor(posed), others: { field: new Clearance(plan.index).field(part), limitMm: options.webMm }, ledges: options.ledges })
  let step = steps.next()
  while (!step.done) step = steps.next()
  const { added, notHeld, result } = step.value
  plan.apply(changeOfStilts(plan.index, part, 'hold', { add: added }))
  save(options.out as string, JSON.stringify(planFileOf(posed)))
  const count = (state: string): number => result.islands.filter(i => i.state === state).length
  output.result(JSON.stringify({ out: options.out, stilts: plan.index.stiltsOf(part).length, added: added.length, openIslands: count('open'), partlyHeld: count('partly'), notHeld }))
}

async function exportFiles(options: Options, output: Output): Promise<void> {
  const { mesh, stand, shift, plan, part } = await standOnPlate(options, output)
  const out = options.out as string
  const support = moveMesh(joinMeshes(plan.solids()), plateOf(shift))
  const model = moveMesh(mesh, after(plateOf(shift), stand))
  if (options.stiltsOnly && support.triangles.length === 0) throw new UsageError('The plan holds no stilts that reach the plate, so there is nothing to export.')
  const title = 'Oak Stilts, millimetres'
  const bytes = out.toLowerCase().endsWith('.3mf')
    ? write3mf([...(options.stiltsOnly ? [] : [{ name: 'Model', mesh: model }]), ...(support.triangles.length ? [{ name: 'Stilts', mesh: support }] : [])], title)
    : writeStl(options.stiltsOnly ? support : joinMeshes([model, support]), title)
  save(out, bytes)
  output.result(JSON.stringify({ out, bytes: bytes.length, stilts: plan.index.stiltsOf(part).length }))
}
