/** A list of 32-bit numbers that grows as they are read. */
export class Growing<A extends Float32Array | Uint32Array> {
  data: A
  length = 0
  readonly #make: new (length: number) => A

  constructor(make: new (length: number) => A, capacity = 1 << 16) {
    this.#make = make
    this.data = new make(capacity)
  }

  push(value: number): void {
    if (this.length === this.data.length) this.reserve(this.length + 1)
    this.data[this.length++] = value
  }

  /** Makes room for `capacity` values in all. */
  reserve(capacity: number): void {
    if (capacity <= this.data.length) return
    const grown = new this.#make(Math.max(capacity, 2 * this.data.length))
    grown.set(this.data)
    this.data = grown
  }

  /** The values alone. */
  taken(): A {
    return this.data.slice(0, this.length) as A
  }
}
