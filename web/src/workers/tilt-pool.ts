import type { TiltAngles } from '@oak-stilts/core/pose'
import type { Symmetry, TiltMeasures, TiltMeter } from '@oak-stilts/core/tilts'
import { supervise, type Supervised } from './supervised'
import type { TiltTerms, TiltWorker } from './tilt.worker'

/** Workers at the most; and of the real scan of a large part, which takes much memory each. */
const MOST_WORKERS = 6, MOST_LARGE = 2
const LARGE_BYTES = 10_000_000
/** Tilts that go to a worker in one message. */
const BATCH = 4

/** Workers that measure tilts of one part. Whatever fails in one of them, or `end`, makes what is asked of them fail. */
export class TiltPool implements TiltMeter {
  readonly #workers: Supervised<TiltWorker>[]
  readonly #large: boolean
  /** What was found of the part; null before `load` has ended. */
  found: { readonly symmetry: Symmetry; readonly cellMm: number; readonly light: ArrayBuffer } | null = null

  constructor(buffer: ArrayBuffer) {
    this.#large = buffer.byteLength > LARGE_BYTES
    this.#workers = Array.from({ length: Math.max(1, Math.min(MOST_WORKERS, navigator.hardwareConcurrency || 2)) }, () => {
      const name = `tilts-${crypto.randomUUID()}`
      return supervise<TiltWorker>(new Worker(new URL('./tilt.worker.ts', import.meta.url), { type: 'module', name }), name)
    })
  }

  /** Hands the part to all workers. @returns its axis of symmetry, the cell to look at it on, and a lighter mesh of it */
  async load(buffer: ArrayBuffer, worths: Uint8Array | null, terms: TiltTerms): Promise<{ symmetry: Symmetry; cellMm: number; light: ArrayBuffer }> {
    const [first, ...others] = this.#workers
    const loaded = Promise.all(others.map(w => w.remote.load(buffer, worths, terms)))
    // where the first one is ended meanwhile, nobody waits for the others any more
    loaded.catch(() => undefined)
    await first.remote.load(buffer, worths, terms)
    const { buffer: light, symmetry, cellMm } = await first.remote.lighten(worths !== null)
    await loaded
    await Promise.all(others.map(w => w.remote.takeLight(light)))
    return (this.found = { symmetry, cellMm, light })
  }

  async coarse(tilts: readonly TiltAngles[], cellMm: number, take: (index: number, measures: TiltMeasures) => void): Promise<void> {
    let next = 0
    await Promise.all(this.#workers.map(async w => {
      while (next < tilts.length) {
        const from = next, some = tilts.slice(from, (next += BATCH))
        const answers = await w.remote.coarse(some, cellMm)
        answers.forEach((m, i) => take(from + i, m))
      }
    }))
  }

  async full(tilts: readonly TiltAngles[], take: (index: number, measures: TiltMeasures) => void): Promise<void> {
    let next = 0
    await Promise.all(this.#workers.slice(0, this.#large ? MOST_LARGE : MOST_WORKERS).map(async w => {
      while (next < tilts.length) {
        const i = next++
        take(i, await w.remote.full(tilts[i]))
      }
    }))
  }

  picture(tilt: TiltAngles, turnDeg: number, width: number, height: number): Promise<Uint8Array> {
    return this.#workers[this.#workers.length - 1].remote.picture(tilt, turnDeg, width, height) as Promise<Uint8Array>
  }

  end(): void {
    for (const w of this.#workers) w.end()
  }
}
