import { WORTHS, type Island, type PlanOptions } from '../contract'
import { PLAIN } from '../marks'
import { NO_SOURCE, type Vec3 } from '../mesh'
import type { ModelScan, ScanResult } from '../scan'
import type { Surface } from '../stilts'
import type { Asked, LedgePlace } from './targets'

/** First contacts are what hangs within this above where the part begins, or above where its body does, mm. Our own choice. */
const FIRST_MM = 3
/** First contacts stand so much closer. */
const FIRST_CLOSER = 0.75
/** Around a place within the part it is looked into so many directions, spread evenly, and up to so far, mm; from so far below its skin. */
const DIRECTIONS = 32, INSIDE_FAR_MM = 200, BELOW_MM = 0.25
/** Through this many of them the way may lead out of a hollow, by its holes. */
const MOST_OUT = 1
const GOLDEN_ANGLE = Math.PI * (3 - Math.sqrt(5))
/** In a hollow that came with the file a ball of this diameter has room below its skin, mm: less is a gap. Our own choice. */
const ROOM_MM = 1
/** What lies on the skin is found within this, mm. */
const SKIN_MM = 0.6
/** Skin that rises less than asked for gets tips once it juts out this far, mm. */
const FLAT_FLAP_MM = 0.4
/** What was answered of a place counts for all within cubes of this side, mm. */
const CELL_MM = 0.25

/** What a plan is for where a person picked it: some findings, or faces of the part's mesh. */
export interface PlanAim {
  readonly islands?: readonly Pick<Island, 'id'>[]
  readonly ledges?: readonly LedgePlace[]
  readonly faces?: ArrayLike<number>
}

/**
 * What is to be held by what a plan is asked for.
 * @param result of the part as it stands before
 * @param aim only what lies in it, whatever else is asked for
 */
export function askedFor({ what: wanted, worths, holdMm, slopeDeg }: PlanOptions, scan: ModelScan, result: ScanResult, surface: Surface, aim?: PlanAim): Asked {
  const what = aim ? 'everything' : wanted
  const { tipHoldMm, flapMm } = scan.settings, { layerMm, pixelMm } = scan.raster, rises = Math.cos((slopeDeg * Math.PI) / 180)
  const asked: Asked = {
    ledges: what !== 'islands', holdMm: Math.min(tipHoldMm, holdMm ?? tipHoldMm) * (what === 'first' ? FIRST_CLOSER : 1), strong: what === 'first',
    ...(slopeDeg > 0 ? { flat: { flapMm: Math.min(flapMm, FLAT_FLAP_MM), isFlat: known((at: Vec3) => -(surface.nearest(at, SKIN_MM)?.normal[2] ?? 0) > rises) } } : {}),
  }
  if (aim?.faces) {
    const picked = new Set(Array.from(aim.faces))
    return { ...asked, within: known(at => picked.has(faceBelow(surface, at) ?? -1)) }
  }
  if (aim) return { ...asked, flat: undefined, chosen: { islands: new Set((aim.islands ?? []).map(i => i.id)), ledges: aim.ledges ?? [] } }
  if (what === 'first') {
    const lowest = result.areaMm2.findIndex(a => a > pixelMm * pixelMm * 0.5) * layerMm, bodies = result.islands.flatMap(i => (i.class === 'body' ? [i.layer * layerMm] : []))
    return { ...asked, within: ([, , z]) => [lowest, ...bodies].some(from => z >= from - layerMm && z <= from + FIRST_MM) }
  }
  if (what === 'inside') {
    const made = surface.faces.from?.includes(NO_SOURCE) ?? false
    return { ...asked, within: known(at => isEnclosed(surface, at, made)) }
  }
  if (what === 'faces') {
    const wanted = new Set<number>(worths.map(w => WORTHS.indexOf(w)))
    return { ...asked, within: known(at => wanted.has(worthBelow(surface, at))) }
  }
  return asked
}

function worthBelow(surface: Surface, at: Vec3): number {
  const face = faceBelow(surface, at)
  return face === undefined ? PLAIN : surface.worthOf(face)
}

function faceBelow(surface: Surface, at: Vec3): number | undefined {
  return (surface.cast(at, [0, 0, -1], SKIN_MM) ?? surface.nearest(at, SKIN_MM))?.face
}

/**
 * Whether the skin below a place has the part all around it, as the inside of a hollow has, but for a hole.
 * @param made only skin that no file brought: where a part was hollowed here, its inside is that
 */
export function isEnclosed(surface: Surface, at: Vec3, made: boolean): boolean {
  const skin = surface.nearest(at, SKIN_MM)
  if (!skin) return false
  const { point: [x, y, z], normal: n } = skin, from: Vec3 = [x + n[0] * BELOW_MM, y + n[1] * BELOW_MM, z + n[2] * BELOW_MM]
  if (made ? surface.faces.from?.[skin.face] !== NO_SOURCE : surface.distance([x + n[0] * ROOM_MM, y + n[1] * ROOM_MM, z + n[2] * ROOM_MM]) < ROOM_MM / 2) return false
  let out = 0
  for (let i = 0; i < DIRECTIONS && out <= MOST_OUT; i++) {
    const up = (2 * i + 1) / DIRECTIONS - 1, across = Math.sqrt(1 - up * up), a = GOLDEN_ANGLE * i
    if (!surface.cast(from, [across * Math.cos(a), across * Math.sin(a), up], INSIDE_FAR_MM)) out++
  }
  return out <= MOST_OUT
}

/** Answers a question of places once for all that are near to each other. */
function known(answer: (at: Vec3) => boolean): (at: Vec3) => boolean {
  const answers = new Map<string, boolean>()
  return at => {
    const key = at.map(v => Math.floor(v / CELL_MM)).join(' ')
    let found = answers.get(key)
    if (found === undefined) answers.set(key, (found = answer(at)))
    return found
  }
}
