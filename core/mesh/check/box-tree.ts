import type { Mesh } from '../triangle-mesh'

/** Boxes under one node. */
const WIDTH = 8
/** Numbers of a box: least and greatest x, y, z. */
const BOX = 6

/**
 * The boxes of triangles in a packed tree: sorted along a space-filling curve, eight to a node, all of it in one array a level. Made to
 * be looked at against itself.
 * Source: the packing of flatbush (V. Agafonkin) with Morton order in three dimensions.
 */
export class BoxTree {
  /** Triangles in the order of the curve. */
  readonly order: Uint32Array
  /** Boxes by level, those of triangles first. */
  readonly #levels: Float32Array[]

  constructor({ positions: p, triangles: t }: Mesh) {
    const count = t.length / 3, own = new Float32Array(BOX * count)
    const min = [Infinity, Infinity, Infinity], max = [-Infinity, -Infinity, -Infinity]
    for (let i = 0; i < count; i++) {
      for (let c = 0; c < 3; c++) {
        const x = p[3 * t[3 * i] + c], y = p[3 * t[3 * i + 1] + c], z = p[3 * t[3 * i + 2] + c]
        const low = Math.min(x, y, z), high = Math.max(x, y, z)
        own[BOX * i + c] = low
        own[BOX * i + 3 + c] = high
        if (low < min[c]) min[c] = low
        if (high > max[c]) max[c] = high
      }
    }
    // ten bits an axis: as fine as a tree of a million needs
    const codes = new Uint32Array(count), per = min.map((v, c) => 1023 / (max[c] - v || 1))
    for (let i = 0; i < count; i++) {
      const at = (c: number): number => spread(((own[BOX * i + c] + own[BOX * i + 3 + c]) / 2 - min[c]) * per[c])
      codes[i] = at(0) | (at(1) << 1) | (at(2) << 2)
    }
    this.order = sortedBy(codes)
    const leaves = new Float32Array(BOX * count)
    this.order.forEach((i, n) => leaves.set(own.subarray(BOX * i, BOX * i + BOX), BOX * n))
    this.#levels = [leaves]
    while (this.#levels[this.#levels.length - 1].length > BOX) this.#levels.push(above(this.#levels[this.#levels.length - 1]))
  }

  /** Tells of every two triangles whose boxes meet, once; ends where told to. */
  pairs(take: (a: number, b: number) => boolean): void {
    const levels = this.#levels, { order } = this
    const meet = (level: Float32Array, a: number, b: number): boolean => {
      const i = BOX * a, j = BOX * b
      return level[i] <= level[j + 3] && level[j] <= level[i + 3] && level[i + 1] <= level[j + 4] && level[j + 1] <= level[i + 4] && level[i + 2] <= level[j + 5] && level[j + 2] <= level[i + 5]
    }
    // two nodes of one level at a time; a node with itself comes first
    const stack: number[] = [levels.length - 1, 0, 0]
    while (stack.length > 0) {
      const b = stack.pop() as number, a = stack.pop() as number, depth = stack.pop() as number
      const level = levels[depth]
      if (depth === 0) {
        if (a !== b && take(order[a], order[b])) return
        continue
      }
      const below = levels[depth - 1], end = below.length / BOX
      const lastA = Math.min(end, WIDTH * (a + 1)), lastB = Math.min(end, WIDTH * (b + 1))
      for (let i = WIDTH * a; i < lastA; i++) {
        if (a !== b && !touches(below, i, level, b)) continue
        for (let j = a === b ? i : WIDTH * b; j < lastB; j++) if (i === j ? depth > 1 : meet(below, i, j)) stack.push(depth - 1, i, j)
      }
    }
  }
}

function touches(one: Float32Array, a: number, other: Float32Array, b: number): boolean {
  const i = BOX * a, j = BOX * b
  return one[i] <= other[j + 3] && other[j] <= one[i + 3] && one[i + 1] <= other[j + 4] && other[j + 1] <= one[i + 4] && one[i + 2] <= other[j + 5] && other[j + 2] <= one[i + 5]
}

function above(level: Float32Array): Float32Array {
  const count = level.length / BOX, out = new Float32Array(BOX * Math.ceil(count / WIDTH))
  for (let n = 0; n < out.length / BOX; n++) {
    for (let c = 0; c < 3; c++) {
      let low = Infinity, high = -Infinity
      for (let i = WIDTH * n; i < Math.min(count, WIDTH * (n + 1)); i++) {
        low = Math.min(low, level[BOX * i + c])
        high = Math.max(high, level[BOX * i + 3 + c])
      }
      out[BOX * n + c] = low
      out[BOX * n + 3 + c] = high
    }
  }
  return out
}

/** Ten bits with two empty ones before each. */
function spread(value: number): number {
  let v = Math.max(0, Math.min(1023, Math.floor(value)))
  v = (v | (v << 16)) & 0x030000ff
  v = (v | (v << 8)) & 0x0300f00f
  v = (v | (v << 4)) & 0x030c30c3
  return (v | (v << 2)) & 0x09249249
}

/** Numbers of the codes by their size: by digits of eleven bits, the least first. */
function sortedBy(codes: Uint32Array): Uint32Array {
  let from = Uint32Array.from(codes, (_, i) => i), to = new Uint32Array(codes.length)
  for (const shift of [0, 11, 22]) {
    const starts = new Uint32Array(2049)
    for (const c of codes) starts[((c >>> shift) & 2047) + 1]++
    for (let i = 0; i < 2048; i++) starts[i + 1] += starts[i]
    for (const i of from) to[starts[(codes[i] >>> shift) & 2047]++] = i
    ;[from, to] = [to, from]
  }
  return from
}
