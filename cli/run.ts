import { accessSync, closeSync, constants, fstatSync, openSync, readFileSync, readSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { createHash } from 'node:crypto'
import { dirname } from 'node:path'
import { AnyPlanFileSchema, AS_MADE, DEFAULT_PRINTER, PLAN_FORMAT, type AnyPlanFile, type Change, type CheckReport, type PlanBeam, type PlanFile, type PlanNode, type Recipe, type ScanReport, type Cup, type StandPoint } from '@oak-stilts/core/contract'
import { areaOf, encodeMesh, joinMeshes, MeshError, prepareMesh, prepareSolid, readModel, sourceOfFile, UNIT_MM, wholeOf, write3mf, writeStl, type Mesh, type ModelFile, type PreparedMesh } from '@oak-stilts/core/mesh'
import { holdOpenIslands } from '@oak-stilts/core/plan'
import { after, AS_IS, NO_SHIFT, moveMesh, guessUnits, plateOf, shapedMesh, shapeOf, standOf, type PlateShift, type Stand, type StandPose } from '@oak-stilts/core/pose'
import { ModelScan, type ScanResult } from '@oak-stilts/core/scan'
import { changeOfStilts, Clearance, fitOfPlan, GAUGES, PlanIndex, readPlan, recipeOfPlan, reseatStilts, solidOfStructure, Surface, type Plate } from '@oak-stilts/core/stilts'
import { checkText } from './check-text'
import { readArguments, UsageError, type Options } from './arguments'

/** Where a command says what it has to say. */
export interface Output {
  result(line: string): void
  note(line: string): void
}

/** Runs a command. Gives its exit code: 0, or 2 with a sentence where it could not be done. */
export async function run(words: readonly string[], output: Output): Promise<number> {
  try {
    const options = readArguments([...words])
    // before the work, not after it
    for (const path of [options.out, options.mend]) if (path) checkOutput(path)
    if (options.command === 'scan') await scan(options, output)
    else if (options.command === 'check') await check(options, output)
    else if (options.command === 'hold') await hold(options, output)
    else await exportFiles(options, output)
    return 0
  } catch (error) {
    output.note(error instanceof UsageError || error instanceof MeshError ? error.message : `This failed and should not have: ${(error as Error).stack}`)
    return 2
  }
}

/** Reads a model file. @throws MeshError, UsageError */
async function read(path: string): Promise<ModelFile> {
  let file: number
  try {
    file = openSync(path, 'r')
  } catch (error) {
    throw new UsageError(`The file ${path} cannot be read: ${(error as Error).message}`)
  }
  try {
    const { size } = fstatSync(file)
    return await readModel(sourceOfFile(size, (buffer, at) => readSync(file, buffer, 0, buffer.length, at)))
  } finally {
    closeSync(file)
  }
}

/** What a file holds and what is wrong with it, told or as JSON; mended, written. */
async function check(options: Options, output: Output): Promise<void> {
  const file = await read(options.file)
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

function loadPlan(path: string): AnyPlanFile {
  let text: unknown
  try {
    text = JSON.parse(readFileSync(path, 'utf8'))
  } catch (error) {
    throw new UsageError(`The plan ${path} cannot be read: ${(error as Error).message}`)
  }
  const parsed = AnyPlanFileSchema.safeParse(text)
  if (!parsed.success) throw new UsageError(`${path} is not a plan of stilts: ${parsed.error.issues[0].path.join('.')} ${parsed.error.issues[0].message}`)
  return parsed.data
}

function isFolder(path: string): boolean {
  try {
    return statSync(path).isDirectory()
  } catch {
    return false
  }
}

/** @throws UsageError where a file cannot be written to this path */
function checkOutput(path: string): void {
  if (isFolder(path)) throw new UsageError(`${path} is a folder. Name a file in it.`)
  const folder = dirname(path)
  if (!isFolder(folder)) throw new UsageError(`There is no folder ${folder} to write to. Make it first, or name another one.`)
  try {
    accessSync(folder, constants.W_OK)
  } catch {
    throw new UsageError(`The folder ${folder} cannot be written. Name another one.`)
  }
}

/** Writes a file whole or not at all. @throws UsageError */
function save(path: string, content: string | Uint8Array): void {
  const part = `${path}.${process.pid}.part`
  try {
    writeFileSync(part, content)
    renameSync(part, path)
  } catch (error) {
    rmSync(part, { force: true })
    const { code } = error as { code?: string }
    throw new UsageError(code === 'ENOSPC' ? `The disk is full: ${path} was not written.` : `${path} cannot be written (${code ?? (error as Error).message}).`)
  }
}

/** The one part that a command works on. */
const PART = 'part'

interface Posed {
  readonly prepared: PreparedMesh
  /** The part: what the recipe makes of the prepared mesh. */
  readonly mesh: Mesh
  readonly recipe: Recipe
  readonly meshHash: string
  /** Where the part stands by itself, and from there how it stands on the plate. */
  readonly stand: Stand
  readonly shift: PlateShift
  /** The pose that the stand comes from; null where the file was kept where it stands. */
  readonly pose: StandPose | null
  readonly plan: Plan
}

/** The rows of a plan and their graph. */
class Plan {
  readonly nodes = new Map<string, PlanNode>()
  readonly beams = new Map<string, PlanBeam>()
  readonly index = new PlanIndex(this.nodes, this.beams)

  apply({ put, drop }: Pick<Change, 'put' | 'drop'>): void {
    for (const id of drop?.nodes ?? []) this.nodes.delete(id)
    for (const id of drop?.beams ?? []) this.beams.delete(id)
    for (const n of put?.nodes ?? []) this.nodes.set(n.id, n)
    for (const b of put?.beams ?? []) this.beams.set(b.id, b)
    this.index.touch([...(put?.nodes ?? []).map(n => n.id), ...(drop?.nodes ?? [])], [...(put?.beams ?? []).map(b => b.id), ...(drop?.beams ?? [])])
  }

  solids(): Mesh[] {
    return [...this.index.structures().values()].map(s => solidOfStructure(this.index, s))
  }
}

function plateFor({ shift }: Pick<Posed, 'shift'>): Plate {
  return { ...DEFAULT_PRINTER, shift }
}

async function standOnPlate(options: Options, output: Output): Promise<Posed> {
  const prepared = prepareSolid(wholeOf(await read(options.file)))
  const meshHash = createHash('sha256').update(encodeMesh(prepared.mesh)).digest('hex')
  const file = options.plan ? loadPlan(options.plan) : null
  // a plan knows the pose it was made for; pose options on the command line win, and then its stilts are seated anew
  const given = !file || options.poseGiven
  const { turnDeg, ...asked } = options.pose
  const filePose = file?.pose && { tiltXDeg: file.pose.tiltXDeg, tiltYDeg: file.pose.tiltYDeg, liftMm: file.pose.liftMm, ...('zero' in file.pose && file.pose.zero && { zero: file.pose.zero }) }
  const pose: StandPose | null = options.asIs ? null : given ? asked : filePose ?? null
  const recipe = file ? recipeOfPlan(file) : AS_MADE, shape = shapeOf(recipe), mesh = shapedMesh(prepared.mesh, shape), { positions } = mesh
  const stand = pose ? standOf(positions, pose, options.pixelMm) : AS_IS
  const plan = new Plan()
  let turn = options.asIs ? 0 : turnDeg
  if (file) {
    const target = { ...prepared.report, part: PART, positions, meshHash, pixelMm: options.pixelMm }
    if (fitOfPlan(file, target) === 'other' && file.version !== 1) {
      throw new UsageError(`${options.plan} was made for another model: ${file.madeFor?.sizeMm.map(v => v.toFixed(2)).join(' × ')} mm, ${file.madeFor?.triangles} triangles. This one has ${prepared.report.sizeMm.map(v => v.toFixed(2)).join(' × ')} mm, ${prepared.report.triangles} triangles.`)
    }
    const read = readPlan(file, target)
    for (const note of read.notes) output.note(`The plan has ${note}`)
    plan.apply({ put: { nodes: read.nodes, beams: read.beams } })
    if (!given) turn = read.turnDeg
    if (given && JSON.stringify(filePose) !== JSON.stringify(asked)) seatAnew(plan, new Surface(mesh, { shape, stand }), { ...DEFAULT_PRINTER, shift: { ...NO_SHIFT, turnDeg: turn } }, output)
  }
  return { prepared, mesh, recipe, meshHash, stand, shift: { ...NO_SHIFT, turnDeg: turn }, pose, plan }
}

function seatAnew(plan: Plan, surface: Surface, plate: Plate, output: Output): void {
  const stilts = plan.index.stiltsOf(PART)
  const shapes = reseatStilts(surface, stilts, GAUGES, plate)
  shapes.forEach((s, i) => {
    if (s.foot === 'lost') output.note(`Stilt ${stilts[i].number} found no way down: ${s.lostFor}`)
  })
  plan.apply(changeOfStilts(plan.index, PART, 'seat anew', { put: shapes.map((shape, i) => ({ stilt: stilts[i], shape })) }))
}

/** The scan of a part as it stands on the plate, turn and all. */
function scanOnPlate({ mesh, stand, shift, plan }: Posed, options: Options): ModelScan {
  const plate = plateOf(shift)
  const model = new ModelScan(mesh, { pixelMm: options.pixelMm, layerMm: options.layerMm }, after(plate, stand), options.settings)
  model.setStilts(plan.solids().map(s => moveMesh(s, plate)))
  return model
}

async function scan(options: Options, output: Output): Promise<void> {
  const start = performance.now()
  const posed = await standOnPlate(options, output)
  const report = reportOf(posed.prepared, scanOnPlate(posed, options).runToEnd(), (performance.now() - start) / 1000)
  output.result(JSON.stringify(report))
}

function reportOf(prepared: PreparedMesh, r: ScanResult, seconds: number): ScanReport {
  const { sizeMm, ...mesh } = prepared.report
  const s = r.signals
  const known = (values: Float64Array): (number | null)[] => Array.from(values, v => (Number.isFinite(v) ? v : null))
  const ventOf = ({ vent }: Cup): ScanReport['suction'][number]['vent'] => vent && { at: xyz(vent.at), direction: xyz(vent.direction), wallMm: vent.wallMm }
  return {
    layerHeightMm: r.layerMm, pixelMm: r.pixelMm, layerCount: r.layerCount,
    mesh: { ...mesh, sizeMm: [...sizeMm] },
    islands: r.islands.map(i => ({ layer: i.layer, zMm: i.zMm, areaMm2: i.areaMm2, center: xyz(i.center), joinsLayer: i.joinsLayer, volumeMm3: i.volumeMm3, class: i.class, state: i.state, heldShare: i.heldShare, hangingMm2: i.hangingMm2 })),
    ledges: r.ledges.map(l => ({ kind: l.kind, firstLayer: l.firstLayer, lastLayer: l.lastLayer, reachMm: l.reachMm, areaMm2: l.areaMm2, heldShare: l.heldShare, hangingMm2: l.hangingMm2, spanMm: l.spanMm, wide: l.wide, state: l.state, at: xyz(l.at) })),
    folded: { ...r.folded },
    suction: r.cups.map(c => ({ firstLayer: c.firstLayer, lastLayer: c.lastLayer, peakAreaMm2: c.peakAreaMm2, volumeMm3: c.volumeMm3, ends: c.ends, pullN: c.pullN, at: xyz(c.at), bySupports: c.bySupports, narrowVent: c.narrowVent, vent: ventOf(c) })),
    sealed: r.cups.filter(c => c.ends === 'closed' && !c.narrowVent).map(c => ({ firstLayer: c.firstLayer, lastLayer: c.lastLayer, volumeMm3: c.volumeMm3, at: xyz(c.at), vent: ventOf(c) })),
    pools: r.pools.map(p => ({ firstLayer: p.firstLayer, lastLayer: p.lastLayer, volumeMm3: p.volumeMm3, peakAreaMm2: p.peakAreaMm2, at: xyz(p.at) })),
    floatingStilts: r.floating.map(f => ({ layer: f.layer, center: xyz(f.center) })),
    layers: { areaMm2: Array.from(r.areaMm2), unclosedRows: r.unclosedRows },
    signals: {
      areaMm2: Array.from(s.areaMm2), newMm2: Array.from(s.newMm2), hangingMm2: Array.from(s.hangingMm2), pieces: Array.from(s.pieces), enclosedMm2: Array.from(s.enclosedMm2),
      peelN: Array.from(s.peelN), centerX: known(s.centerX), centerY: known(s.centerY), offCenterMm: known(s.offCenterMm), jumps: Array.from(s.jumps),
    },
    seconds,
  }
}

async function hold(options: Options, output: Output): Promise<void> {
  const posed = await standOnPlate(options, output)
  const { prepared, mesh, recipe, meshHash, stand, shift, pose, plan } = posed
  // a plan is made in the stand of the part, however that is turned
  const model = new ModelScan(mesh, { pixelMm: options.pixelMm, layerMm: options.layerMm }, stand, options.settings)
  const solids = plan.solids()
  model.setStilts(solids)
  const steps = holdOpenIslands(model, new Surface(mesh, { shape: shapeOf(recipe), stand }), solids, { gauges: GAUGES, plate: plateFor(posed), others: { field: new Clearance(plan.index).field(PART), limitMm: options.webMm }, ledges: options.ledges })
  let step = steps.next()
  while (!step.done) step = steps.next()
  const { added, notHeld, result } = step.value
  plan.apply(changeOfStilts(plan.index, PART, 'hold', { add: added }))
  const file: PlanFile = {
    format: PLAN_FORMAT, version: 3, recipe, pose, turnDeg: shift.turnDeg,
    madeFor: { pixelMm: options.pixelMm, layerMm: options.layerMm, triangles: prepared.report.triangles, sizeMm: [...prepared.report.sizeMm], meshHash },
    nodes: [...plan.nodes.values()], beams: [...plan.beams.values()],
  }
  save(options.out as string, JSON.stringify(file))
  const count = (state: string): number => result.islands.filter(i => i.state === state).length
  output.result(JSON.stringify({ out: options.out, stilts: plan.index.stiltsOf(PART).length, added: added.length, openIslands: count('open'), partlyHeld: count('partly'), notHeld }))
}

async function exportFiles(options: Options, output: Output): Promise<void> {
  const { mesh, stand, shift, plan } = await standOnPlate(options, output)
  const out = options.out as string
  const support = moveMesh(joinMeshes(plan.solids()), plateOf(shift))
  const model = moveMesh(mesh, after(plateOf(shift), stand))
  if (options.stiltsOnly && support.triangles.length === 0) throw new UsageError('The plan holds no stilts that reach the plate, so there is nothing to export.')
  const title = 'Oak Stilts, millimetres'
  const bytes = out.toLowerCase().endsWith('.3mf')
    ? write3mf([...(options.stiltsOnly ? [] : [{ name: 'Model', mesh: model }]), ...(support.triangles.length ? [{ name: 'Stilts', mesh: support }] : [])], title)
    : writeStl(options.stiltsOnly ? support : joinMeshes([model, support]), title)
  save(out, bytes)
  output.result(JSON.stringify({ out, bytes: bytes.length, stilts: plan.index.stiltsOf(PART).length }))
}

function xyz([x, y, z]: StandPoint): [number, number, number] {
  return [x, y, z]
}
