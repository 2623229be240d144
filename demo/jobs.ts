import { findSupports, liftOut, type LiftedOut } from '@oak-stilts/core/built-in'
import { BUILT_IN_GAUGES, DEFAULT_PRINTER, pixelMmOf } from '@oak-stilts/core/contract'
import { prepareSolid, type Mesh } from '@oak-stilts/core/mesh'
import { DEFAULT_POSE, type Pose } from '@oak-stilts/core/pose'
import { bell } from './models/bell'
import { heron } from './models/heron'
import { kelp } from './models/kelp'
import { bracket } from './models/bracket'
import { lamp } from './models/lamp'
import { buoy } from './models/buoy'

export const DEMO_MODELS = ['heron', 'bell', 'kelp', 'lamp', 'bracket', 'buoy', 'bell-held', 'buoy-lifted'] as const
export type DemoModel = (typeof DEMO_MODELS)[number]

export interface DemoJob {
  readonly model: DemoModel
  readonly name: string
  readonly pose: Pose
  /** Of a model that another job shows already. */
  readonly again?: true
}

/** Seeded at the first start; the first one opens first. */
export const DEMO_JOBS: readonly DemoJob[] = [
  { model: 'heron', name: 'Wading heron', pose: DEFAULT_POSE },
  // printed mouth up, tipped over so that the last of the cup drains: its lip stays free of tips
  { model: 'bell', name: "Diver's bell", pose: { ...DEFAULT_POSE, tiltXDeg: 155 } },
  { model: 'kelp', name: 'Kelp branch', pose: DEFAULT_POSE },
  { model: 'lamp', name: 'Lamp lattice', pose: DEFAULT_POSE },
  { model: 'bracket', name: 'Crank bracket', pose: DEFAULT_POSE },
  // as somebody else made it ready: with its supports, on its raft
  { model: 'buoy', name: 'Signal buoy', pose: { ...DEFAULT_POSE, liftMm: 0 } },
  // printed mouth down, on stilts that hold it
  { model: 'bell-held', name: "Diver's bell on stilts", pose: DEFAULT_POSE, again: true },
  // with its own supports as stilts, which are too thin
  { model: 'buoy-lifted', name: 'Signal buoy, lifted out', pose: DEFAULT_POSE, again: true },
]

const SCULPTORS: Record<DemoModel, () => Promise<Mesh>> = { heron, bell, kelp, lamp, bracket, buoy, 'bell-held': bell, 'buoy-lifted': async () => (await liftedBuoy()).model }

/** The buoy without the supports that it brings, and these as stilts. */
export async function liftedBuoy(): Promise<LiftedOut> {
  const { mesh, found } = findSupports(prepareSolid(await buoy()).mesh)
  return liftOut(mesh, found, BUILT_IN_GAUGES, pixelMmOf(DEFAULT_PRINTER), 'part')
}

/** Makes one of the models; takes some seconds. The same model comes out every time. */
export function sculpt(model: DemoModel): Promise<Mesh> {
  return SCULPTORS[model]()
}
