import type { Room } from '../forest'
import type { PlanDraft, Surface } from '../stilts'
import type { ForestOptions } from './forest'
import type { HoldStep } from './hold'
import { legUnder } from './legs'
import { StrutMaker, strutted } from './struts'
import { placesAlong } from './swaying'

/** So often it is asked what still sways. */
const MOST_ROUNDS = 12
/** A round helps where it leaves no more than this share of what is too much. So many may not before it is given up. */
const HELPS = 0.93, MOST_STALLED = 2

/**
 * Keeps a plan from swaying before anything is made thicker for it: struts go where lines between what stands move apart most, and once these
 * are no more help, what still sways much too far gets legs. A strut costs a few mm³, a thicker trunk a hundred times that.
 * @param kept nodes of what stood before, which nothing is put into
 */
export function* stiffened(surface: Surface, room: Room, draft: PlanDraft, part: string, kept: ReadonlySet<string>, options: ForestOptions): Generator<HoldStep, number, void> {
  const refused = new Set<string>()
  let made = 0, before = Infinity, stalled = 0
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const swaying = yield* options.sways(draft)
    if (swaying.length === 0) break
    yield 'Strutting what sways'
    const over = swaying.reduce((sum, s) => sum + s.times - 1, 0), helps = over < HELPS * before, places = (): ReturnType<typeof placesAlong> => placesAlong(draft.index, draft.index.stiltsOf(part), swaying, s => !kept.has(s.id))
    before = Math.min(before, over)
    const leg = !helps && legUnder(surface, room, draft, part, places(), swaying, options), struts = strutted(new StrutMaker(surface, draft, part, options.webMm), places(), swaying, options.modulusNMm2, refused)
    if (!leg && struts === 0) break
    made += Number(leg) + struts
    stalled = helps || leg ? 0 : stalled + 1
    if (stalled > MOST_STALLED) break
  }
  return made
}
