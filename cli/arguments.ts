import { parseArgs } from 'node:util'
import type { PegSizes, Plane } from '@oak-stilts/core/carve'
import type { Vec3 } from '@oak-stilts/core/mesh'
import { DEFAULT_POSE, type Pose } from '@oak-stilts/core/pose'
import { DEFAULT_LAYER_MM, DEFAULT_PRINTER, DEFAULT_RESIN, DEFAULT_SETTINGS, pixelMmOf, PLANNED, RaftKindSchema, SmoothingSchema, WorthSchema, type PlanOptions, type Smoothing, type ScanSettings } from '@oak-stilts/core/contract'

/** Bad input of the person at the terminal: one sentence, exit code 2. */
export class UsageError extends Error {}

const COMMANDS = ['scan', 'hold', 'export', 'check', 'tilt', 'audit', 'plan', 'lift-out', 'proof', 'ready', 'hollow', 'cut', 'slice', 'rehearse', 'send'] as const

export interface Options {
  readonly command: (typeof COMMANDS)[number] | 'check-plan'
  /** Null where a part of a job is meant. */
  readonly file: string | null
  /** The file of a whole job, and the name of the part of it that is meant; null where it has only one. */
  readonly job: string | null
  readonly part: string | null
  /** A job whose face marks count. */
  readonly marks: string | null
  /** Names of the options that were given. */
  readonly given: ReadonlySet<string>
  readonly layerMm: number
  readonly pixelMm: number
  readonly pose: Pose
  /** Whether any pose option was given; else a plan's own pose counts. */
  readonly poseGiven: boolean
  readonly asIs: boolean
  readonly plan: string | null
  readonly out: string | null
  /** A resin by name or file; null for that of the job, or the usual one. */
  readonly resin: string | null
  /** A recipe of plans by name or file; null for none. */
  readonly recipe: string | null
  /** What else a plan is asked for, in the place of what the recipe says. */
  readonly planning: Partial<PlanOptions>
  /** Places on the plate, mm: a plan is only for the findings there. */
  readonly near: readonly Vec3[] | null
  /** Triangles of the file, from and to, counted from 0: a plan is only for what hangs over them. */
  readonly triangles: readonly (readonly [number, number])[] | null
  /** Where the model without its supports is written to. */
  readonly model: string | null
  readonly stiltsOnly: boolean
  /** Where the mended mesh is written to. */
  readonly mend: string | null
  readonly json: boolean
  readonly settings: ScanSettings
  readonly ledges: boolean
  /** What a part is hollowed to, and how fine; null for what is usual. */
  readonly wallMm: number
  readonly cellMm: number | null
  /** Whether its ceilings are to carry themselves in the pose that is given. */
  readonly selfSupporting: boolean
  /** Where a part is cut, in the coordinates of the file; pieces of the section that stay whole; pegs on the largest that does not. */
  readonly plane: Plane | null
  readonly whole: readonly number[]
  readonly pegs: (PegSizes & { readonly count: number }) | null
  /** Points of the file near which pegs stand on the plane; where there are none, they stand where there is most room. */
  readonly pegsAt: readonly Vec3[]
  /** Holes near points of the file. */
  readonly holes: readonly { readonly near: Vec3; readonly diameterMm: number }[]
  /** A printer by name or file; null for that of the job, or the usual one. How finely shades are found; null for what the job says. */
  readonly printer: string | null
  readonly smoothing: Smoothing | null
  /** The address of a printer that a package is sent to. */
  readonly to: string | null
  /** Gap that stilts keep from each other, mm. */
  readonly webMm: number
}

export const USAGE = `Usage:
  scan FILE [--layer 0.05] [--pixel 0.05] [--tilt-x D] [--tilt-y D] [--turn D] [--lift MM | --as-is] [--plan PLAN.json] [--json]
       [--flap MM] [--tip-hold MM] [--span MM] [--slope D] [--vent MM]
  hold FILE [the same options] [--ledges] [--web MM] --out PLAN.json
  check FILE [--mend OUT.stl|OUT.3mf] [--json]
  tilt FILE [--marks JOB.3mf] [pose options] [--json]
  audit FILE [--plan PLAN.json] [--json]
  lift-out FILE --model OUT.stl --plan OUT.json [--json]
  plan check FILE --plan PLAN.json [--web MM] [--json]
  plan FILE [pose options] [--plan PLAN.json] [--recipe NAME|RECIPE.json] [--what everything|islands|first|inside|faces]
       [--faces spare|prized|plain,…] [--near X,Y,Z;…] [--triangles N-M,…] [--gauges ID,ID] [--within MM] [--flatter D] [--no-branches] [--no-sticks] [--raft none|pads|joined|plate] [--resin NAME|RESIN.json]
       --out PLAN.json [--json]
  proof FILE --plan PLAN.json [--resin NAME|RESIN.json] [--json]
  ready FILE [pose options] [--resin NAME|RESIN.json] --out JOB.3mf [--json]
  hollow FILE --wall MM [--cell MM] [--self-supporting [--tilt-x D] [--tilt-y D]] [--hole X,Y,Z,D]… --out OUT.stl [--json]
  cut FILE --plane NX,NY,NZ,D [--keep N,N] [--peg round|keyed,DIAMETER,DEPTH,CLEARANCE,COUNT [--peg-at X,Y,Z]…] --out DIR [--json]
  slice FILE [pose options] [--plan PLAN.json] [--printer NAME|PRINTER.json] [--resin NAME|RESIN.json] [--smoothing none|twice|fourfold|finest] --out PACKAGE.zip|OUT.3mf [--json]
  rehearse PACKAGE.zip [--json]
  send PACKAGE.zip --to http://HOST:PORT/printers/NAME [--json]
  export FILE [pose options] --plan PLAN.json --out OUT.stl|OUT.3mf [--stilts-only]
In place of FILE each takes --job JOB.3mf [--part NAME]: a part of a whole job, with its pose, stilts, marks and settings.`

/** Reads the command line. @throws UsageError */
export function readArguments(argv: readonly string[]): Options {
  let parsed
  try {
    parsed = parseArgs({
      args: joinNegatives(argv),
      allowPositionals: true,
      options: {
        layer: { type: 'string' }, pixel: { type: 'string' }, 'tilt-x': { type: 'string' }, 'tilt-y': { type: 'string' }, turn: { type: 'string' },
        lift: { type: 'string' }, 'as-is': { type: 'boolean' }, plan: { type: 'string' }, out: { type: 'string' }, json: { type: 'boolean' }, ledges: { type: 'boolean' },
        flap: { type: 'string' }, 'tip-hold': { type: 'string' }, span: { type: 'string' }, slope: { type: 'string' }, vent: { type: 'string' }, web: { type: 'string' }, 'stilts-only': { type: 'boolean' }, mend: { type: 'string' }, model: { type: 'string' },
        wall: { type: 'string' }, cell: { type: 'string' }, 'self-supporting': { type: 'boolean' }, plane: { type: 'string' }, keep: { type: 'string' }, peg: { type: 'string' }, 'peg-at': { type: 'string', multiple: true }, hole: { type: 'string', multiple: true },
        printer: { type: 'string' }, smoothing: { type: 'string' }, to: { type: 'string' },
        job: { type: 'string' }, part: { type: 'string' }, marks: { type: 'string' }, resin: { type: 'string' },
        what: { type: 'string' }, recipe: { type: 'string' }, near: { type: 'string' }, triangles: { type: 'string' }, faces: { type: 'string' }, gauges: { type: 'string' }, within: { type: 'string' }, flatter: { type: 'string' }, raft: { type: 'string' }, 'no-branches': { type: 'boolean' }, 'no-sticks': { type: 'boolean' },
      },
    })
  } catch (error) {
    throw new UsageError(`${(error as Error).message.split('\n')[0]}\n${USAGE}`)
  }
  const { values, positionals } = parsed
  const [command, ...words] = positionals
  // that a plan is checked is a word of its own
  const checksPlan = command === 'plan' && words[0] === 'check'
  if (checksPlan) words.shift()
  const [file, ...rest] = words
  if (!isCommand(command)) throw new UsageError(`${command ? `There is no command "${command}".` : 'A command is missing.'}\n${USAGE}`)
  if (values.job !== undefined ? file !== undefined : !file || rest.length > 0) throw new UsageError(values.job !== undefined ? '--job stands in place of a file; give one of them.' : `"${command}" takes one file.\n${USAGE}`)
  if (values.part !== undefined && values.job === undefined && values.marks === undefined) throw new UsageError('--part names a part of --job or --marks.')
  if (values.marks !== undefined && (command !== 'tilt' || values.job !== undefined)) throw new UsageError('--marks goes with "tilt" and a file; a job brings its own marks.')
  const asIs = values['as-is'] === true
  if (asIs && (values.lift !== undefined || values['tilt-x'] !== undefined || values['tilt-y'] !== undefined || values.turn !== undefined)) {
    throw new UsageError('--as-is keeps the file where it stands; it does not go with --lift, --tilt-x, --tilt-y or --turn.')
  }
  if (command === 'plan' && !checksPlan && !values.out) throw new UsageError('"plan" needs --out PLAN.json, the file to write the plan to; "plan check" looks at one.')
  if (command === 'hollow' && (!values.wall || !values.out || !/\.stl$/i.test(values.out))) throw new UsageError('"hollow" needs --wall MM and --out OUT.stl, the file to write the part to.')
  for (const option of ['wall', 'cell', 'self-supporting', 'hole'] as const) if (values[option] !== undefined && command !== 'hollow') throw new UsageError(`--${option} goes with "hollow".`)
  if (command === 'cut' && (!values.plane || !values.out)) throw new UsageError('"cut" needs --plane NX,NY,NZ,D and --out DIR, the folder to write both sides to.')
  if (values['peg-at'] && !values.peg) throw new UsageError('--peg-at says where pegs stand; --peg says what they are like.')
  for (const option of ['plane', 'keep', 'peg', 'peg-at'] as const) if (values[option] !== undefined && command !== 'cut') throw new UsageError(`--${option} goes with "cut".`)
  if (command === 'hold' && !values.out) throw new UsageError('"hold" needs --out PLAN.json, the file to write the plan to.')
  if (command === 'export' && (!values.out || (!values.plan && !values.job))) throw new UsageError('"export" needs --plan PLAN.json (or --job) and --out OUT.stl or OUT.3mf.')
  if (command === 'export' && values.out && !/\.(stl|3mf)$/i.test(values.out)) throw new UsageError('--out must end in .stl or .3mf.')
  if (values.mend !== undefined && command !== 'check') throw new UsageError('--mend goes with "check".')
  if (values.mend && !/\.(stl|3mf)$/i.test(values.mend)) throw new UsageError('--mend must end in .stl or .3mf.')
  if (values.resin !== undefined && (checksPlan || (command !== 'proof' && command !== 'ready' && command !== 'plan' && command !== 'slice'))) throw new UsageError('--resin goes with "proof", "ready", "plan" and "slice".')
  for (const option of ['printer', 'smoothing'] as const) if (values[option] !== undefined && command !== 'slice') throw new UsageError(`--${option} goes with "slice".`)
  if (command === 'slice' && (!values.out || !/\.(zip|3mf)$/i.test(values.out))) throw new UsageError('"slice" needs --out PACKAGE.zip or OUT.3mf, the file to write the layers to.')
  if (command === 'slice' && values.pixel !== undefined) throw new UsageError('Layers have the pixels of their printer; --pixel does not go with "slice".')
  if ((values.to !== undefined) !== (command === 'send')) throw new UsageError(command === 'send' ? '"send" needs --to, the address of a printer.' : '--to goes with "send".')
  if (values.to !== undefined && !/^http:\/\/[^/]+\/printers\/[^/]+\/?$/.test(values.to)) throw new UsageError(`--to takes the address of a printer, as http://127.0.0.1:4180/printers/harbour-50, not "${values.to}".`)
  if (command === 'send' && values.job !== undefined) throw new UsageError('"send" takes a package of layers, not a job.')
  if (command === 'rehearse' && values.job !== undefined) throw new UsageError('"rehearse" takes a package of layers, not a job.')
  if (values.smoothing !== undefined && !SmoothingSchema.options.some(o => o === values.smoothing)) wrong('smoothing', SmoothingSchema.options)
  for (const option of ONLY_PLAN) if (values[option] !== undefined && (command !== 'plan' || checksPlan)) throw new UsageError(`--${option} goes with "plan".`)
  if ((['what', 'faces', 'near', 'triangles'] as const).filter(o => values[o] !== undefined && !(o === 'faces' && values.what === 'faces')).length > 1) throw new UsageError('A plan is for one of --what, --faces, --near and --triangles.')
  if (command === 'ready' && (!values.out || !/\.3mf$/i.test(values.out))) throw new UsageError('"ready" needs --out JOB.3mf, the file to write the job to.')
  if (command === 'ready' && values.pixel !== undefined) throw new UsageError('A job has the pixels of its printer; --pixel does not go with "ready".')
  if (command === 'ready' && asIs) throw new UsageError('A job keeps how its part is tilted and lifted; --as-is does not go with "ready".')
  if (command === 'lift-out' && (!values.model || !values.plan)) throw new UsageError('"lift-out" needs --model OUT.stl and --plan OUT.json, the files to write model and plan to.')
  if (values.model !== undefined && (command !== 'lift-out' || !/\.stl$/i.test(values.model))) throw new UsageError(command === 'lift-out' ? '--model must end in .stl.' : '--model goes with "lift-out".')
  return {
    command: checksPlan ? 'check-plan' : command, file: file ?? null, job: values.job ?? null, part: values.part ?? null, marks: values.marks ?? null, given: new Set(Object.keys(values)), asIs, mend: values.mend ?? null, json: values.json === true,
    layerMm: number(values.layer, '--layer', DEFAULT_LAYER_MM, 0.005, 1),
    pixelMm: number(values.pixel, '--pixel', pixelMmOf(DEFAULT_PRINTER), 0.005, 1),
    pose: {
      tiltXDeg: number(values['tilt-x'], '--tilt-x', DEFAULT_POSE.tiltXDeg, -360, 360),
      tiltYDeg: number(values['tilt-y'], '--tilt-y', DEFAULT_POSE.tiltYDeg, -360, 360),
      turnDeg: number(values.turn, '--turn', DEFAULT_POSE.turnDeg, -360, 360),
      liftMm: number(values.lift, '--lift', DEFAULT_POSE.liftMm, 0, 200),
    },
    poseGiven: [values.lift, values['tilt-x'], values['tilt-y'], values.turn].some(v => v !== undefined),
    recipe: values.recipe ?? null, planning: planningOf(values), near: values.near === undefined ? null : placesIn(values.near), triangles: values.triangles === undefined ? null : rangesIn(values.triangles),
    plan: values.plan ?? null, resin: values.resin ?? null, model: values.model ?? null, out: values.out ?? null, stiltsOnly: values['stilts-only'] === true,
    ledges: values.ledges === true,
    wallMm: number(values.wall, '--wall', 2, 0.2, 50), cellMm: values.cell === undefined ? null : number(values.cell, '--cell', 0.2, 0.05, 5), selfSupporting: values['self-supporting'] === true, holes: (values.hole ?? []).map(holeIn),
    plane: values.plane === undefined ? null : planeIn(values.plane), whole: values.keep === undefined ? [] : rangesIn(values.keep, '--keep', 'pieces of the section').flatMap(([a, b]) => Array.from({ length: b - a + 1 }, (_, i) => a + i)), pegs: values.peg === undefined ? null : pegsIn(values.peg), pegsAt: (values['peg-at'] ?? []).map(at => pointIn(at, '--peg-at')),
    to: values.to?.replace(/\/$/, '') ?? null, printer: values.printer ?? null, smoothing: values.smoothing === undefined ? null : (values.smoothing as Smoothing),
    webMm: number(values.web, '--web', DEFAULT_RESIN.webMm, 0, 5),
    settings: {
      ...DEFAULT_SETTINGS,
      flapMm: number(values.flap, '--flap', DEFAULT_SETTINGS.flapMm, 0.1, 20),
      tipHoldMm: number(values['tip-hold'], '--tip-hold', DEFAULT_SETTINGS.tipHoldMm, 0.1, 20),
      spanMm: number(values.span, '--span', DEFAULT_SETTINGS.spanMm, 0.1, 40),
      slopeDeg: number(values.slope, '--slope', DEFAULT_SETTINGS.slopeDeg, 10, 80),
      ventMm: number(values.vent, '--vent', DEFAULT_SETTINGS.ventMm, 0.1, 10),
    },
  }
}

const ONLY_PLAN = ['recipe', 'what', 'near', 'triangles', 'faces', 'gauges', 'within', 'flatter', 'raft', 'no-branches', 'no-sticks'] as const
/** What a plan is asked for by the options that were given. */
function planningOf(values: { readonly [K in (typeof ONLY_PLAN)[number]]?: string | boolean }): Partial<PlanOptions> {
  const list = (name: 'faces' | 'gauges'): string[] => String(values[name]).split(',').map(v => v.trim()), given = (name: (typeof ONLY_PLAN)[number]): boolean => values[name] !== undefined
  const oneOf = <T extends string>(name: 'what' | 'faces' | 'raft', all: readonly T[], value: string): T => all.find(a => a === value) ?? wrong(name, all)
  return {
    ...(given('what') ? { what: oneOf('what', PLANNED, String(values.what)) } : given('faces') ? { what: 'faces' } : {}),
    ...(given('faces') ? { worths: list('faces').map(w => oneOf('faces', WorthSchema.options, w)) } : {}),
    ...(given('gauges') ? { gauges: list('gauges') } : {}),
    ...(given('within') ? { holdMm: number(String(values.within), '--within', 2, 0.3, 20) } : {}),
    ...(given('flatter') ? { slopeDeg: number(String(values.flatter), '--flatter', 0, 0, 60) } : {}),
    ...(given('raft') ? { raft: oneOf('raft', RaftKindSchema.options, String(values.raft)) } : {}),
    ...(given('no-branches') ? { branches: false } : {}), ...(given('no-sticks') ? { sticks: false } : {}),
  }
}
/** Places as in 1,2,3;4,5,6. */
function placesIn(text: string): Vec3[] {
  return text.split(';').map(place => {
    const at = place.split(',').map(v => (v.trim() === '' ? NaN : Number(v)))
    if (at.length !== 3 || !at.every(Number.isFinite)) throw new UsageError(`--near takes places on the plate as X,Y,Z in mm, more than one with a semicolon between, not "${text}".`)
    return [at[0], at[1], at[2]]
  })
}
/** A point as in 1,2,3. */
function pointIn(text: string, option: string): Vec3 {
  const [x, y, z, ...rest] = text.split(',').map(v => (v.trim() === '' ? NaN : Number(v)))
  if (rest.length > 0 || ![x, y, z].every(Number.isFinite)) throw new UsageError(`${option} takes X,Y,Z: a point of the file, not "${text}".`)
  return [x, y, z]
}
/** A hole as in 1,2,3,4: near where, and its diameter. */
function holeIn(text: string): Options['holes'][number] {
  const [x, y, z, d, ...rest] = text.split(',').map(v => (v.trim() === '' ? NaN : Number(v)))
  if (rest.length > 0 || ![x, y, z, d].every(Number.isFinite) || d < 0.2 || d > 50) throw new UsageError(`--hole takes X,Y,Z,D: a point of the file near the skin and a diameter of 0.2 to 50 mm, not "${text}".`)
  return { near: [x, y, z], diameterMm: d }
}
/** A plane as in 0,0,1,12: its normal, and how far it lies along that. */
function planeIn(text: string): Plane {
  const [x, y, z, d, ...rest] = text.split(',').map(v => (v.trim() === '' ? NaN : Number(v))), long = Math.hypot(x, y, z)
  if (rest.length > 0 || ![x, y, z, d].every(Number.isFinite) || long < 1e-9) throw new UsageError(`--plane takes NX,NY,NZ,D: a direction, and how far along it the plane lies in mm, not "${text}".`)
  return { normal: [x / long, y / long, z / long], offsetMm: d }
}
/** Pegs as in keyed,3,5,0.1,2. */
function pegsIn(text: string): PegSizes & { readonly count: number } {
  const [shape, ...sizes] = text.split(',').map(v => v.trim()), [diameterMm, depthMm, clearanceMm, count = 1, ...rest] = sizes.map(v => (v === '' ? NaN : Number(v)))
  if ((shape !== 'round' && shape !== 'keyed') || rest.length > 0 || ![diameterMm, depthMm, clearanceMm, count].every(Number.isFinite) || diameterMm < 0.5 || diameterMm > 50 || depthMm < 0.5 || depthMm > 100 || clearanceMm < 0 || clearanceMm > 2 || !Number.isInteger(count) || count < 1 || count > 20) throw new UsageError(`--peg takes SHAPE,DIAMETER,DEPTH,CLEARANCE,COUNT, as keyed,3,5,0.1,2, not "${text}".`)
  return { shape, diameterMm, endDiameterMm: diameterMm, depthMm, clearanceMm, count }
}
/** Ranges as in 0-99,120. */
function rangesIn(text: string, option = '--triangles', what = 'triangles of the file'): [number, number][] {
  return text.split(',').map(range => {
    const [, first, last = first] = /^\s*(\d+)(?:-(\d+))?\s*$/.exec(range) ?? []
    if (first === undefined || Number(last) < Number(first)) throw new UsageError(`${option} takes ${what}, counted from 0, as 0-99,120, not "${text}".`)
    return [Number(first), Number(last)]
  })
}
function wrong(name: string, all: readonly string[]): never {
  throw new UsageError(`--${name} takes ${all.map(a => `"${a}"`).join(', ').replace(/, (?=[^,]*$)/, ' or ')}.`)
}

function isCommand(name: string | undefined): name is (typeof COMMANDS)[number] {
  return COMMANDS.includes(name as (typeof COMMANDS)[number])
}

/** Lets `--tilt-x -30` pass: the parser takes a value that begins with a dash only behind an equals sign. */
function joinNegatives(argv: readonly string[]): string[] {
  const out: string[] = []
  for (const a of argv) {
    const last = out[out.length - 1]
    if (/^-[\d.]/.test(a) && last !== undefined && /^--[a-z-]+$/.test(last)) out[out.length - 1] = `${last}=${a}`
    else out.push(a)
  }
  return out
}

function number(text: string | undefined, name: string, otherwise: number, low: number, high: number): number {
  if (text === undefined) return otherwise
  const value = Number(text.replace(',', '.'))
  if (text.trim() === '' || !Number.isFinite(value) || value < low || value > high) throw new UsageError(`${name} takes a number from ${low} to ${high}, not "${text}".`)
  return value
}
