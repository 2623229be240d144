import { addTimes, addTransposed, addTransposedTimes, BLOCK, invert, multiply, SIZE, transpose } from './block'
import { ALL, type Frame } from './frame'

/** A node that was taken out, with what bound it to those that were still there. */
interface Step {
  readonly node: number
  readonly neighbours: readonly number[]
  /** Inverse of its own block, then its blocks with the neighbours, its rows. */
  readonly blocks: Float64Array
}

/**
 * A frame solved for: nodes are taken out one by one, the one with the fewest neighbours first (Cholesky's factors by blocks of six, in order
 * of least degree), so that trees stay trees. Nodes that are kept are taken out last or not at all: what is left is how the frame resists
 * their motion alone.
 */
export class FrameFactor {
  readonly frame: Frame
  readonly kept: readonly number[]
  readonly #steps: Step[] = []
  readonly #own: Float64Array
  readonly #between: Map<number, Float64Array>[]
  /** Places of kept nodes among them, −1 of others; and what is between each pair of them when the others have been taken out, the lower node's rows. */
  readonly #keptAt: Int32Array
  readonly #filled: Float64Array
  /** Whether every direction of every node is held by something. */
  readonly sound: boolean

  constructor(frame: Frame, kept: readonly number[] = []) {
    this.frame = frame
    this.kept = kept
    const count = frame.points.length, own = (this.#own = new Float64Array(BLOCK * count))
    const between = (this.#between = Array.from({ length: count }, () => new Map<number, Float64Array>()))
    this.#keptAt = new Int32Array(count).fill(-1)
    kept.forEach((n, i) => void (this.#keptAt[n] = i))
    this.#filled = new Float64Array(BLOCK * kept.length * kept.length)
    const ab = new Float64Array(BLOCK)
    frame.beams.forEach(({ a, b }, i) => {
      // what begins and ends in one body resists nothing
      if (a === b) return
      frame.addTo(i, own, BLOCK * a, ab.fill(0), 0, own, BLOCK * b)
      if (frame.isHeld(a) || frame.isHeld(b)) return
      const pair = blockOf(between, Math.min(a, b), Math.max(a, b))
      for (let r = 0; r < SIZE; r++) for (let c = 0; c < SIZE; c++) pair[SIZE * r + c] += a < b ? ab[SIZE * r + c] : ab[SIZE * c + r]
    })
    for (const [n, directions] of frame.held) this.#hold(n, directions)
    const stays = new Set(kept), queue = new LeastFirst(count)
    for (let n = 0; n < count; n++) if (!frame.isHeld(n) && !stays.has(n)) queue.put(n, between[n].size)
    let sound = true
    for (let n = queue.take(); n >= 0; n = queue.take()) {
      if (!this.#takeOut(n)) sound = false
      for (const m of between[n].keys()) if (!stays.has(m)) queue.put(m, between[m].size)
      between[n].clear()
    }
    this.sound = sound
  }

  /** Takes held directions of a node out of what resists. */
  #hold(node: number, directions: number): void {
    if (directions === ALL) return
    const between = this.#between[node]
    for (let d = 0; d < SIZE; d++) {
      if (!(directions & (1 << d))) continue
      for (let i = 0; i < SIZE; i++) {
        this.#own[BLOCK * node + SIZE * d + i] = 0
        this.#own[BLOCK * node + SIZE * i + d] = 0
        for (const [m, block] of between) block[node < m ? SIZE * d + i : SIZE * i + d] = 0
      }
      this.#own[BLOCK * node + (SIZE + 1) * d] = 1
    }
  }

  #takeOut(node: number): boolean {
    const between = this.#between, keptAt = this.#keptAt, filled = this.#filled, neighbours = [...between[node].keys()], blocks = new Float64Array(BLOCK * (1 + neighbours.length)), half = new Float64Array(BLOCK * neighbours.length)
    const sound = invert(this.#own, BLOCK * node, blocks, 0)
    neighbours.forEach((m, i) => {
      const stored = between[node].get(m) as Float64Array, at = BLOCK * (1 + i)
      if (node < m) blocks.set(stored, at)
      else transpose(stored, 0, blocks, at)
      multiply(blocks, 0, blocks, at, half, BLOCK * i)
      between[m].delete(node)
    })
    for (let i = 0; i < neighbours.length; i++) {
      addTransposed(-1, blocks, BLOCK * (1 + i), half, BLOCK * i, this.#own, BLOCK * neighbours[i])
      for (let j = i + 1; j < neighbours.length; j++) {
        const low = neighbours[i] < neighbours[j] ? i : j, high = i + j - low, a = keptAt[neighbours[low]], b = keptAt[neighbours[high]]
        if (a >= 0 && b >= 0) addTransposed(-1, blocks, BLOCK * (1 + low), half, BLOCK * high, filled, BLOCK * (a * this.kept.length + b))
        else addTransposed(-1, blocks, BLOCK * (1 + low), half, BLOCK * high, blockOf(between, neighbours[low], neighbours[high]), 0)
      }
    }
    this.#steps.push({ node, neighbours, blocks })
    return sound
  }

  /** How the frame resists the motion of the kept nodes, in their order, all others being free: a block for every pair, row by row. */
  reduced(): Float64Array {
    const { kept } = this, n = kept.length, out = new Float64Array(BLOCK * n * n), own = this.#own
    kept.forEach((p, i) => {
      out.set(own.subarray(BLOCK * p, BLOCK * (p + 1)), BLOCK * (n * i + i))
      for (let j = i + 1; j < n; j++) {
        const q = kept[j], block = this.#between[Math.min(p, q)].get(Math.max(p, q)), [low, high] = p < q ? [i, j] : [j, i]
        for (let e = 0, at = BLOCK * (n * low + high); e < BLOCK; e++) out[at + e] = this.#filled[at + e] + (block ? block[e] : 0)
        transpose(out, BLOCK * (n * low + high), out, BLOCK * (n * high + low))
      }
    })
    return out
  }

  /**
   * Displacements and turns of all nodes under loads of six numbers a node, N and N·mm, where no node is kept or the kept ones do not move.
   * @param cases how many loads there are, one after the other
   */
  solve(load: Float64Array, cases = 1): Float64Array {
    const f = this.frame.freeOf(load, cases), n = f.length / cases, motion = new Float64Array(f.length)
    for (const { node, neighbours, blocks } of this.#steps) {
      for (let c = 0; c < cases; c++) {
        const at = c * n
        half.fill(0)
        addTimes(1, blocks, 0, f, at + SIZE * node, half, 0)
        for (let i = 0; i < neighbours.length; i++) addTransposedTimes(-1, blocks, BLOCK * (1 + i), half, 0, f, at + SIZE * neighbours[i])
      }
    }
    for (let c = 0; c < cases; c++) this.#backward(f, motion, c * n)
    return motion
  }

  /** Motion of all nodes where the kept ones move as given and nothing else is loaded. @param motion six numbers a node; those of the kept ones are taken */
  follow(motion: Float64Array): Float64Array {
    const out = new Float64Array(motion.length)
    for (const p of this.kept) out.set(motion.subarray(SIZE * p, SIZE * (p + 1)), SIZE * p)
    this.#backward(new Float64Array(motion.length), out)
    return out
  }

  #backward(f: Float64Array, motion: Float64Array, at = 0): void {
    for (let s = this.#steps.length - 1; s >= 0; s--) {
      const { node, neighbours, blocks } = this.#steps[s]
      for (let i = 0; i < neighbours.length; i++) addTimes(-1, blocks, BLOCK * (1 + i), motion, at + SIZE * neighbours[i], f, at + SIZE * node)
      addTimes(1, blocks, 0, f, at + SIZE * node, motion, at + SIZE * node)
    }
  }
}
const half = new Float64Array(SIZE)

function blockOf(between: Map<number, Float64Array>[], low: number, high: number): Float64Array {
  let block = between[low].get(high)
  if (!block) {
    block = new Float64Array(BLOCK)
    between[low].set(high, block)
    between[high].set(low, block)
  }
  return block
}

/** Gives the one with the least degree first, of equals the one with the lowest number; a degree that changes is put in again. */
class LeastFirst {
  readonly #heap: number[] = []
  readonly #degree: Int32Array
  readonly #count: number
  constructor(count: number) {
    this.#count = count
    this.#degree = new Int32Array(count).fill(-1)
  }

  put(node: number, degree: number): void {
    if (this.#degree[node] === degree) return
    this.#degree[node] = degree
    const heap = this.#heap, key = degree * this.#count + node
    let i = heap.push(key) - 1
    for (; i > 0; ) {
      const up = (i - 1) >> 1
      if (heap[up] <= key) break
      heap[i] = heap[up]
      i = up
    }
    heap[i] = key
  }

  /** The next one, once; −1 where there is none. */
  take(): number {
    for (;;) {
      const first = this.#pop()
      if (first === undefined) return -1
      const node = first % this.#count
      if (this.#degree[node] !== Math.floor(first / this.#count)) continue
      this.#degree[node] = -2
      return node
    }
  }

  #pop(): number | undefined {
    const heap = this.#heap, first = heap[0], last = heap.pop()
    if (last === undefined || heap.length === 0) return first
    let i = 0
    for (;;) {
      let down = 2 * i + 1
      if (down >= heap.length) break
      if (down + 1 < heap.length && heap[down + 1] < heap[down]) down++
      if (heap[down] >= last) break
      heap[i] = heap[down]
      i = down
    }
    heap[i] = last
    return first
  }
}
