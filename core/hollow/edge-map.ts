/** Numbers by pairs of numbers, in flat arrays. */
export class EdgeMap {
  readonly #keys: Int32Array
  readonly #values: Int32Array
  readonly #mask: number

  /** @param most pairs at the most */
  constructor(most: number) {
    let size = 16
    while (size < 2 * most) size *= 2
    this.#mask = size - 1
    this.#keys = new Int32Array(2 * size).fill(-1)
    this.#values = new Int32Array(size)
  }

  set(a: number, b: number, value: number): void {
    const at = this.#find(a, b)
    this.#keys[2 * at] = a
    this.#keys[2 * at + 1] = b
    this.#values[at] = value
  }
  /** −1 where the pair is not known. */
  get(a: number, b: number): number {
    const at = this.#find(a, b)
    return this.#keys[2 * at] < 0 ? -1 : this.#values[at]
  }

  /** Where a pair is, or has room. */
  #find(a: number, b: number): number {
    const keys = this.#keys
    let at = (Math.imul(a, 0x9e3779b1) ^ Math.imul(b, 0x85ebca6b)) >>> 0
    for (at = (at ^ at >>> 15) & this.#mask; keys[2 * at] >= 0 && (keys[2 * at] !== a || keys[2 * at + 1] !== b); at = (at + 1) & this.#mask) continue
    return at
  }
}
