import { distance, type Vec3 } from '../mesh'

/** A tip, where it stands and how thick it is, mm. */
interface StandingTip {
  readonly at: Vec3
  readonly diameterMm: number
}

/** How a tip would stand to others. */
export type Standing = 'apart' | 'near' | 'taken' | 'refused'

/** What is nearer than this share of the distance at which two tips touch stands where the other does. */
const SAME_SHARE = 0.5
/** Nearer than that to where a tip found no way none is tried again, mm. */
const REFUSED_MM = 0.2

/** Tips of a part, to keep others apart from: what is nearer to each other than the resin keeps open is one mark, and holds no more than one does. */
export class TipsApart {
  readonly #tips: StandingTip[]
  readonly #webMm: number
  readonly #refused: readonly Vec3[]

  /** @param refused where a tip found no way before */
  constructor(webMm: number, tips: readonly StandingTip[] = [], refused: readonly Vec3[] = []) {
    this.#webMm = webMm
    this.#tips = [...tips]
    this.#refused = refused
  }

  add(at: Vec3, diameterMm: number): void {
    this.#tips.push({ at, diameterMm })
  }

  /** How a tip would stand to all the others: apart from them, near enough for the resin to web, where one stands already, or where one found no way. */
  look(at: Vec3, diameterMm: number): Standing {
    if (this.#refused.some(r => distance(r, at) < REFUSED_MM)) return 'refused'
    let isApart = true
    for (const t of this.#tips) {
      const mm = distance(t.at, at), touchMm = (t.diameterMm + diameterMm) / 2
      if (mm < SAME_SHARE * touchMm) return 'taken'
      isApart &&= mm >= touchMm + this.#webMm
    }
    return isApart ? 'apart' : 'near'
  }
}
