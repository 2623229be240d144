import { Int32List } from '../raster/growable'
import { EMPTY, HOLDS, NX, NY, UNIT, UNSET, type ReachGrid } from './reach-grid'

const DIAGONAL = Math.round(Math.SQRT2 * UNIT)
/** An old pixel is reached again only where that brings half a pixel: less is the noise of the raster. */
const SLACK = UNIT / 2

/**
 * Gives the new pixels of a layer their distances: waves run out from the old pixels beside them and carry the point that they
 * started from, which makes distances exact where the way is straight.
 */
export class ReachWaves {
  readonly #grid: ReachGrid
  readonly #heads = new Int32Array(1 << 14).fill(-1)
  readonly #nodePixel = new Int32List(1 << 14)
  readonly #nodeValue = new Int32List(1 << 14)
  readonly #nodeNext = new Int32List(1 << 14)

  readonly #unheld: number

  /** @param unheld how far what begins on nothing counts from what holds it, units */
  constructor(grid: ReachGrid, unheld = 0) {
    this.#grid = grid
    this.#unheld = unheld
  }

  run(): void {
    // the first layer lies on the plate
    if (this.#grid.layer > 0) {
      this.#seed()
      this.#spread()
    }
    this.#begin()
  }

  /** Holds solid pixels of this layer as a tip does, and lets waves run out from them. */
  hold(pixels: Int32List): void {
    const { value, touched, source, tip, drift, layer, tipBonus } = this.#grid
    this.#grid.supported = true
    for (let i = 0; i < pixels.length; i++) {
      const p = pixels.data[i]
      value[p] = drift - tipBonus
      touched[p] = tip[p] = layer
      source[p] = p
      this.#push(p, -tipBonus)
    }
    this.#spread()
  }

  /** Gives every new pixel beside an old one its distance from there, and sends waves out from those that may have something to pass on. */
  #seed(): void {
    const { value, touched, support, tip, source, cols, steps, layer, drift, tipBonus, supported } = this.#grid
    const fresh = this.#grid.fresh.data, count = this.#grid.fresh.length
    for (let f = 0; f < count; f++) {
      const p = fresh[f]
      if (support[p] === HOLDS) {
        value[p] = drift - tipBonus
        touched[p] = layer
        tip[p] = layer
        source[p] = p
        continue
      }
      let best = UNSET, from = -1
      for (let n = 0; n < 8; n++) {
        const q = p + steps[n], v = value[q]
        if (v >= UNSET || (touched[q] === layer && support[q] !== HOLDS)) continue
        if (n > 3 && value[p + NX[n]] === EMPTY && value[p + NY[n] * cols] === EMPTY) continue
        const d = (supported ? this.#grid.now(q) : Math.max(0, v - drift)) + (n > 3 ? DIAGONAL : UNIT)
        if (d >= best) continue
        best = d
        from = q
        // beside held material: nothing but a support is nearer
        if (d === UNIT && !supported) break
      }
      if (from < 0) continue
      if (supported) tip[p] = this.#grid.originOf(from)
      value[p] = best + drift
      touched[p] = layer
      source[p] = from
    }
    for (let f = 0; f < count; f++) {
      const p = fresh[f], own = value[p]
      if (own === UNSET) continue
      for (let n = 0; n < 8; n++) {
        const v = value[p + steps[n]]
        // beside a wave that starts as far out, half a pixel is the noise of the raster
        if (v === UNSET || (v !== EMPTY && v - SLACK > own && v > drift)) {
          this.#push(p, own - drift)
          break
        }
      }
    }
  }

  #push(p: number, distance: number): void {
    // rounding may make a way a hair shorter than the one it goes on from: never behind what is worked on
    const bucket = Math.min(this.#heads.length - 1, Math.max(this.#current, (distance + this.#grid.tipBonus) >> 8))
    const node = this.#nodePixel.length
    this.#nodePixel.push(p)
    this.#nodeValue.push(distance)
    this.#nodeNext.push(this.#heads[bucket])
    this.#heads[bucket] = node
    if (bucket > this.#highest) this.#highest = bucket
  }
  #highest = -1
  #current = 0

  /** Nearest first, each pixel passes on the point that its distance is measured from. */
  #spread(): void {
    const { value, cols, steps, drift, touched, layer, source, tip, supported } = this.#grid
    const heads = this.#heads
    for (let bucket = 0; bucket <= this.#highest; bucket++) {
      this.#current = bucket
      while (heads[bucket] >= 0) {
        const node = heads[bucket]
        heads[bucket] = this.#nodeNext.data[node]
        const p = this.#nodePixel.data[node], d = this.#nodeValue.data[node]
        if (value[p] - drift !== d) continue
        // places are worked out only where there is something to pass on
        let s = -1, sx = 0, sy = 0, px = 0, py = 0, start = 0
        for (let n = 0; n < 8; n++) {
          const q = p + steps[n], v = value[q]
          if (v === EMPTY) continue
          let most = UNSET
          if (v !== UNSET) {
            // no way is shorter than the one to here, and what is held needs none
            const known = v - drift
            if (known <= d || (known <= 0 && touched[q] !== layer)) continue
            most = touched[q] === layer ? known : known - SLACK
            if (most <= d) continue
          }
          if (s < 0) {
            s = source[p]
            py = (p / cols) | 0
            px = p - py * cols
            sy = (s / cols) | 0
            sx = s - sy * cols
            start = this.#grid.now(s)
          }
          const x = px + NX[n], y = py + NY[n]
          let from = s, distance = start + lengthOf(x - sx, y - sy)
          if (distance >= most) continue
          if (n > 3 && value[p + NX[n]] === EMPTY && value[p + NY[n] * cols] === EMPTY) continue
          if (!this.#sees(x, y, s, sx, sy)) {
            from = p
            distance = d + (n > 3 ? DIAGONAL : UNIT)
            if (distance >= most) continue
          }
          if (supported) tip[q] = this.#grid.originOf(from)
          touched[q] = layer
          value[q] = distance + drift
          source[q] = from
          this.#push(q, distance)
        }
      }
    }
    this.#highest = -1
    this.#current = 0
    this.#nodePixel.length = this.#nodeValue.length = this.#nodeNext.length = 0
  }

  /** What no old pixel reaches begins here: it lies on the plate, or is an island or a support, and is judged as if it were held, unless told otherwise. */
  #begin(): void {
    const far = this.#grid.layer > 0 ? this.#unheld : 0, fresh = this.#grid.fresh.data
    for (let f = 0; f < this.#grid.fresh.length; f++) {
      const p = fresh[f]
      if (this.#grid.value[p] !== UNSET) continue
      this.#grid.value[p] = this.#grid.drift + far
      this.#grid.touched[p] = this.#grid.layer
      this.#grid.source[p] = p
      this.#grid.tip[p] = -1
    }
  }

  /** Whether the straight way from a pixel to s is solid: it is where the next pixel on it already has s; else all of it is walked. */
  #sees(x: number, y: number, s: number, sx: number, sy: number): boolean {
    const { value, cols, touched, layer, source } = this.#grid
    const steps = Math.max(Math.abs(sx - x), Math.abs(sy - y))
    if (steps <= 1) return true
    const dx = (sx - x) / steps, dy = (sy - y) / steps
    let fx = x, fy = y
    for (let i = 1; i < steps; i++) {
      fx += dx
      fy += dy
      const p = ((fy + 0.5) | 0) * cols + ((fx + 0.5) | 0)
      if (value[p] === EMPTY) return false
      if (i === 1 && touched[p] === layer && source[p] === s) return true
    }
    return true
  }
}

/** Length of a way of whole pixels, in units. */
function lengthOf(dx: number, dy: number): number {
  return (Math.sqrt(dx * dx + dy * dy) * UNIT + 0.5) | 0
}
