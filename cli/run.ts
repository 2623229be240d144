import { accessSync, constants, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { dirname } from 'node:path'
import { DEFAULT_PRINTER, PLAN_FORMAT, PlanFileSchema, type PlanFile, type ScanReport } from '@oak-stilts/core/contract'
import { joinMeshes, MeshError, prepareSolid, readStl, STL_LIMIT_BYTES, write3mf, writeStl, type PreparedMesh } from '@oak-stilts/core/mesh'
import { holdOpenIslands } from '@oak-stilts/core/plan'
import { AS_IS, placementOf, placeMesh, type Placement, type Pose } from '@oak-stilts/core/pose'
import { ModelScan, type Cup, type ScanResult } from '@oak-stilts/core/scan'
import { GAUGES, graphOfStilt, isPlanFor, readStilts, reseatStilts, shifted, solidOfStilt, solidOfStilts, Surface, type Stilt } from '@oak-stilts/core/stilts'
import { readArguments, UsageError, type Options } from './arguments'

/** Where a command says what it has to say. */
export interface Output {
  result(line: string): void
  note(line: string): void
}

/** Runs a command. Gives its exit code: 0, or 2 with a sentence where it could not be done. */
export function run(words: readonly string[], output: Output): number {
  try {
    const options = readArguments([...words])
    // before the work, not after it
    if (options.out) checkOutput(options.out)
    if (options.command === 'scan') scan(options, output)
    else if (options.command === 'hold') hold(options, output)
    else exportFiles(options, output)
    return 0
  } catch (error) {
    output.note(error instanceof UsageError || error instanceof MeshError ? error.message : `This failed and should not have: ${(error as Error).stack}`)
    return 2
  }
}

function load(path: string): PreparedMesh {
  let bytes: Uint8Array
  try {
    if (statSync(path).size > STL_LIMIT_BYTES) throw new MeshError('too-large', `${path} has more than 500 MB. Reduce the number of triangles and export it again.`)
    bytes = readFileSync(path)
  } catch (error) {
    if (error instanceof MeshError) throw error
    throw new UsageError(`The file ${path} cannot be read: ${(error as Error).message}`)
  }
  return prepareSolid(readStl(bytes))
}

function readPlan(path: string): PlanFile {
  let text: unknown
  try {
    text = JSON.parse(readFileSync(path, 'utf8'))
  } catch (error) {
    throw new UsageError(`The plan ${path} cannot be read: ${(error as Error).message}`)
  }
  const parsed = PlanFileSchema.safeParse(text)
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

interface Posed {
  readonly prepared: PreparedMesh
  readonly placement: Placement
  /** The pose that the placement comes from; null where the file was kept where it stands. */
  readonly pose: Pose | null
  readonly stilts: Stilt[]
}

function standOnPlate(options: Options, output: Output): Posed {
  const prepared = load(options.file)
  const plan = options.plan ? readPlan(options.plan) : null
  // a plan knows the pose it was made for; pose options on the command line win, and then its stilts are seated anew
  const wanted: Pose | null = options.asIs ? null : plan && !options.poseGiven ? plan.pose : options.pose
  const positions = prepared.mesh.positions
  const placement = wanted ? placementOf(positions, wanted, options.pixelMm) : AS_IS
  let stilts: Stilt[] = []
  if (plan) {
    if (!isPlanFor(plan, { ...prepared.report, pixelMm: options.pixelMm })) {
      throw new UsageError(`${options.plan} was made for another model: ${plan.madeFor?.sizeMm.map(v => v.toFixed(2)).join(' × ')} mm, ${plan.madeFor?.triangles} triangles. This one has ${prepared.report.sizeMm.map(v => v.toFixed(2)).join(' × ')} mm, ${prepared.report.triangles} triangles.`)
    }
    const read = readStilts(plan)
    for (const note of read.notes) output.note(`The plan has ${note}`)
    stilts = read.stilts
    if (options.poseGiven && JSON.stringify(plan.pose) !== JSON.stringify(options.pose)) {
      const seated = reseatStilts(new Surface(prepared.mesh, placement), stilts, GAUGES, DEFAULT_PRINTER)
      for (const l of seated.lost) output.note(`Stilt ${l.id} found no way down: ${l.reason}`)
      stilts = seated.stilts
    } else if (wanted && plan.madeFor && plan.madeFor.pixelMm !== options.pixelMm) {
      // the part is centred by whole pixels: on another pixel it stands a little beside
      const before = placementOf(positions, wanted, plan.madeFor.pixelMm)
      stilts = shifted(stilts, placement[3] - before[3], placement[7] - before[7])
    }
  }
  return { prepared, placement, pose: wanted, stilts }
}

function scan(options: Options, output: Output): void {
  const start = performance.now()
  const { prepared, placement, stilts } = standOnPlate(options, output)
  const model = new ModelScan(prepared.mesh, { pixelMm: options.pixelMm, layerMm: options.layerMm }, placement, options.settings)
  model.setStilts(stilts.map(solidOfStilt))
  const report = reportOf(prepared, model.runToEnd(), (performance.now() - start) / 1000)
  output.result(JSON.stringify(report))
}

function reportOf(prepared: PreparedMesh, r: ScanResult, seconds: number): ScanReport {
  const { sizeMm, ...mesh } = prepared.report
  const s = r.signals
  const known = (values: Float64Array): (number | null)[] => Array.from(values, v => (Number.isFinite(v) ? v : null))
  const ventOf = ({ vent }: Cup): ScanReport['suction'][number]['vent'] => vent && { at: [...vent.at], direction: [...vent.direction], wallMm: vent.wallMm }
  return {
    layerHeightMm: r.layerMm, pixelMm: r.pixelMm, layerCount: r.layerCount,
    mesh: { ...mesh, sizeMm: [...sizeMm] },
    islands: r.islands.map(i => ({ layer: i.layer, zMm: i.zMm, areaMm2: i.areaMm2, center: [...i.center], joinsLayer: i.joinsLayer, volumeMm3: i.volumeMm3, class: i.class, state: i.state, heldShare: i.heldShare, hangingMm2: i.hangingMm2 })),
    ledges: r.ledges.map(l => ({ kind: l.kind, firstLayer: l.firstLayer, lastLayer: l.lastLayer, reachMm: l.reachMm, areaMm2: l.areaMm2, heldShare: l.heldShare, hangingMm2: l.hangingMm2, spanMm: l.spanMm, wide: l.wide, state: l.state, at: [...l.at] })),
    folded: { ...r.folded },
    suction: r.cups.map(c => ({ firstLayer: c.firstLayer, lastLayer: c.lastLayer, peakAreaMm2: c.peakAreaMm2, volumeMm3: c.volumeMm3, ends: c.ends, pullN: c.pullN, at: [...c.at], bySupports: c.bySupports, choked: c.choked, vent: ventOf(c) })),
    sealed: r.cups.filter(c => c.ends === 'closed' && !c.choked).map(c => ({ firstLayer: c.firstLayer, lastLayer: c.lastLayer, volumeMm3: c.volumeMm3, at: [...c.at], vent: ventOf(c) })),
    pools: r.pools.map(p => ({ firstLayer: p.firstLayer, lastLayer: p.lastLayer, volumeMm3: p.volumeMm3, peakAreaMm2: p.peakAreaMm2, at: [...p.at] })),
    floatingStilts: r.floating.map(f => ({ layer: f.layer, center: [...f.center] })),
    layers: { areaMm2: Array.from(r.areaMm2), unclosedRows: r.unclosedRows },
    signals: {
      areaMm2: Array.from(s.areaMm2), newMm2: Array.from(s.newMm2), unheldMm2: Array.from(s.unheldMm2), regions: Array.from(s.regions), enclosedMm2: Array.from(s.enclosedMm2),
      peelN: Array.from(s.peelN), centerX: known(s.centerX), centerY: known(s.centerY), offCenterMm: known(s.offCenterMm), jumps: Array.from(s.jumps),
    },
    seconds,
  }
}

function hold(options: Options, output: Output): void {
  const { prepared, placement, pose, stilts } = standOnPlate(options, output)
  const model = new ModelScan(prepared.mesh, { pixelMm: options.pixelMm, layerMm: options.layerMm }, placement, options.settings)
  model.setStilts(stilts.map(solidOfStilt))
  const steps = holdOpenIslands(model, new Surface(prepared.mesh, placement), stilts, { gauges: GAUGES, plate: DEFAULT_PRINTER, ledges: options.ledges })
  let step = steps.next()
  while (!step.done) step = steps.next()
  const { added, notHeld, result } = step.value
  const graphs = [...stilts, ...added].map(graphOfStilt)
  const plan: PlanFile = {
    format: PLAN_FORMAT, version: 2, pose,
    madeFor: { pixelMm: options.pixelMm, layerMm: options.layerMm, triangles: prepared.report.triangles, sizeMm: [...prepared.report.sizeMm] },
    nodes: graphs.flatMap(g => g.nodes), beams: graphs.flatMap(g => g.beams),
  }
  save(options.out as string, JSON.stringify(plan))
  const count = (state: string): number => result.islands.filter(i => i.state === state).length
  output.result(JSON.stringify({ out: options.out, stilts: graphs.length, added: added.length, openIslands: count('open'), partlyHeld: count('partly'), notHeld }))
}

function exportFiles(options: Options, output: Output): void {
  const { prepared, placement, stilts } = standOnPlate(options, output)
  const out = options.out as string
  const support = solidOfStilts(stilts)
  const model = placeMesh(prepared.mesh, placement)
  if (options.stiltsOnly && support.triangles.length === 0) throw new UsageError('The plan holds no stilts that reach the plate, so there is nothing to export.')
  const title = 'Oak Stilts, millimetres'
  const bytes = out.toLowerCase().endsWith('.3mf')
    ? write3mf([...(options.stiltsOnly ? [] : [{ name: 'Model', mesh: model }]), ...(support.triangles.length ? [{ name: 'Stilts', mesh: support }] : [])], title)
    : writeStl(options.stiltsOnly ? support : joinMeshes([model, support]), title)
  save(out, bytes)
  output.result(JSON.stringify({ out, bytes: bytes.length, stilts: stilts.length }))
}
