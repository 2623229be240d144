import { Room, Ways } from '../forest'
import { moveMesh } from '../pose'
import type { Plate, Surface } from '../stilts'

/** From the axis of a way of its own to the skin, mm. */
const WAY_CLEAR_MM = 0.85

/** The room around a part as it stands, and the ways through it down to the plate. */
export interface FreeSpace {
  readonly room: Room
  readonly ways: Ways
}

let last: (FreeSpace & { readonly surface: Surface; readonly key: string }) | null = null

/** The room around a part as it stands and the ways through it; yields between steps. What was measured last is kept: one plan after the other is made for the same part. */
export function* freeSpaceOf(surface: Surface, { widthMm, depthMm }: Pick<Plate, 'widthMm' | 'depthMm'>): Generator<string, FreeSpace, void> {
  const key = [...surface.stand, widthMm, depthMm].join(' ')
  if (last?.surface === surface && last.key === key) return last
  const room = yield* told(Room.inSteps(moveMesh(surface.faces, surface.stand))), ways = yield* told(Ways.inSteps(room, WAY_CLEAR_MM, [widthMm / 2, depthMm / 2]))
  last = { surface, key, room, ways }
  return last
}

function* told<T>(steps: Generator<void, T, void>): Generator<string, T, void> {
  for (let step = steps.next(); ; step = steps.next()) {
    if (step.done) return step.value
    yield 'Measuring the room around the part'
  }
}
