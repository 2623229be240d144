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

/** The room around a part as it stands and the ways through it. What was measured last is kept: one plan after the other is made for the same part. */
export function freeSpaceOf(surface: Surface, { widthMm, depthMm }: Pick<Plate, 'widthMm' | 'depthMm'>): FreeSpace {
  const key = [...surface.stand, widthMm, depthMm].join(' ')
  if (last?.surface === surface && last.key === key) return last
  const room = new Room(moveMesh(surface.faces, surface.stand)), ways = new Ways(room, WAY_CLEAR_MM, [widthMm / 2, depthMm / 2])
  last = { surface, key, room, ways }
  return last
}
