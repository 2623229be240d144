/** An Int32Array that grows; `data` may be replaced by any push. */
export class Int32List {
  data: Int32Array
  length = 0

  constructor(capacity = 1024) {
    this.data = new Int32Array(capacity)
  }

  push(value: number): void {
    if (this.length === this.data.length) this.reserve(this.length + 1)
    this.data[this.length++] = value
  }

  /** Makes room for `capacity` values in all. */
  reserve(capacity: number): void {
    if (capacity <= this.data.length) return
    const grown = new Int32Array(Math.max(capacity, this.data.length * 2))
    grown.set(this.data.subarray(0, this.length))
    this.data = grown
  }

  /** A copy with exactly the values. */
  toArray(): Int32Array {
    return this.data.slice(0, this.length)
  }
}

/** A Float64Array that grows. */
export class Float64List {
  data: Float64Array
  length = 0

  constructor(capacity = 1024) {
    this.data = new Float64Array(capacity)
  }

  push(value: number): void {
    if (this.length === this.data.length) {
      const grown = new Float64Array(this.data.length * 2)
      grown.set(this.data)
      this.data = grown
    }
    this.data[this.length++] = value
  }

  toArray(): Float64Array {
    return this.data.slice(0, this.length)
  }
}
