import type { Mesh } from '@oak-stilts/core/mesh'
import { DEFAULT_POSE, type Pose } from '@oak-stilts/core/pose'
import { bell } from './models/bell'
import { heron } from './models/heron'
import { kelp } from './models/kelp'
import { bracket } from './models/bracket'
import { lamp } from './models/lamp'
import { buoy } from './models/buoy'

export const DEMO_MODELS = ['heron', 'bell', 'kelp', 'lamp', 'bracket', 'buoy'] as const
export type DemoModel = (typeof DEMO_MODELS)[number]

export interface DemoJob {
  readonly model: DemoModel
  readonly name: string
  readonly pose: Pose
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
]

const SCULPTORS: Record<DemoModel, () => Promise<Mesh>> = { heron, bell, kelp, lamp, bracket, buoy }

/** Makes one of the models; takes some seconds. The same model comes out every time. */
export function sculpt(model: DemoModel): Promise<Mesh> {
  return SCULPTORS[model]()
}
