/** Counts pixels for pairs of small numbers; made for runs of the same pair. Cleared for every layer. */
export class PairCounter {
  upper = new Int32Array(256)
  lower = new Int32Array(256)
  count = new Int32Array(256)
  length = 0
  #slots = new Int32Array(1024).fill(-1)
  #mask = 1023
  #last = -1

  clear(): void {
    if (this.length > 0) this.#slots.fill(-1)
    this.length = 0
    this.#last = -1
  }

  add(upper: number, lower: number, pixels: number): void {
    const last = this.#last
    if (last >= 0 && this.upper[last] === upper && this.lower[last] === lower) {
      this.count[last] += pixels
      return
    }
    const slot = this.#slotOf(upper, lower)
    let at = this.#slots[slot]
    if (at < 0) {
      at = this.length++
      if (at === this.upper.length) this.#grow()
      this.upper[at] = upper
      this.lower[at] = lower
      this.count[at] = pixels
      // growing may have moved every slot
      this.#slots[this.#slotOf(upper, lower)] = at
    } else this.count[at] += pixels
    this.#last = at
  }

  /** The slot that holds the pair, or the free one where it belongs. */
  #slotOf(upper: number, lower: number): number {
    let h = Math.imul(upper, 0x9e3779b1) ^ Math.imul(lower, 0x85ebca77)
    h ^= h >>> 15
    let slot = h & this.#mask
    for (;;) {
      const at = this.#slots[slot]
      if (at < 0 || (this.upper[at] === upper && this.lower[at] === lower)) return slot
      slot = (slot + 1) & this.#mask
    }
  }

  #grow(): void {
    const size = this.upper.length * 2
    for (const name of ['upper', 'lower', 'count'] as const) {
      const grown = new Int32Array(size)
      grown.set(this[name])
      this[name] = grown
    }
    this.#slots = new Int32Array(size * 4).fill(-1)
    this.#mask = this.#slots.length - 1
    for (let i = 0; i < this.length - 1; i++) this.#slots[this.#slotOf(this.upper[i], this.lower[i])] = i
  }
}
