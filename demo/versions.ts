import { newId, type Copy, type CutStep, type HoleStep, type Part, type SourcePoint } from '@oak-stilts/core/contract'
import type { DemoModel } from './jobs'

/** Another state of a demo job, kept as a version of it. */
export interface DemoVersion {
  readonly model: DemoModel
  readonly name: string
  /** The parts and copies that it has in the place of the one that the job begins with. */
  made(part: Part, copy: Copy): { readonly parts: readonly Part[]; readonly copies: readonly Copy[] }
}

const at = (x: number, y: number, z: number): SourcePoint => [x, y, z] as SourcePoint
const hole = (from: SourcePoint, into: readonly [number, number, number], depthMm: number): HoleStep => ({ id: newId(), on: true, at: from, into: [...into], diameterMm: 2.5, endDiameterMm: 2.5, depthMm })
/** Beside what stands in the middle, in pixels of 0.05 mm. */
const BESIDE_PIXELS = -1200

/** Kept with their jobs at the first start. */
export const DEMO_VERSIONS: readonly DemoVersion[] = [
  {
    // a vent near the hooks, where it is lowest as it prints, and a drain in the lip, where it is lowest as it hangs
    model: 'bell', name: 'Hollowed and vented',
    made: (part, copy) => ({
      parts: [{ ...part, recipe: { ...part.recipe, hollow: { on: true, wallMm: 0.8, cellMm: 0.4, carries: null }, holes: [hole(at(1.388, -4.298, 45.43), [0, 0.9962, -0.0872], 2.1), hole(at(0.578, 21.726, 1.064), [0, -0.9962, 0.0872], 2.1)] } }],
      copies: [copy],
    }),
  },
  {
    // above the knees, so that the bird prints without its post; keyed pegs, so that it looks the same way afterwards
    model: 'heron', name: 'Cut at the legs, pegged',
    made: (part, copy) => {
      const id = newId(), cut = (keeps: CutStep['keeps']): CutStep => ({
        id, keeps, at: at(0, 0, 28), normal: [0, 0, 1], whole: [],
        pegs: { shape: 'keyed', diameterMm: 1, endDiameterMm: 0.9, depthMm: 2, clearanceMm: 0.1, wallMm: 0.5, at: [at(2.143, 1.89, 28), at(-2.367, 0.729, 28)] },
      })
      const post: Part = { ...part, id: newId(), name: `${part.name}, cut off`, recipe: { ...part.recipe, cuts: [cut('below')] } }
      return { parts: [{ ...part, recipe: { ...part.recipe, cuts: [cut('above')] } }, post], copies: [copy, { ...copy, id: newId(), part: post.id, xPixels: BESIDE_PIXELS }] }
    },
  },
]
