import type { Mesh } from './triangle-mesh'

/** Triangles of a leaf at the most. */
const LEAF = 4

/** A tree of boxes over triangles, in flat arrays; node 0 holds all. */
export interface TriangleTree {
  /** Corners by triangle, in the order of the tree: nine numbers. */
  readonly corners: Float32Array
  /** Six numbers a node: the least x, y, z, then the greatest. Both children of a node lie beside each other, behind it. */
  readonly boxes: Float32Array
  /** First triangle of a leaf, or the first child of a node. */
  readonly next: Uint32Array
  /** Triangles of a leaf; 0 in a node with children. */
  readonly counts: Uint8Array
}

/** Builds a tree over the triangles of a mesh, parted in halves along the longest axis down to some. @param half only what is below the first or the second child of the first node; see `joinTrees` */
export function buildTree(mesh: Mesh, half?: 0 | 1): TriangleTree {
  const { positions: p, triangles: t } = mesh, order = orderOf(mesh), { numbers } = order
  let begin = 0, end = numbers.length
  if (half !== undefined) {
    const middle = parted(order, 0, end)
    if (half === 0) end = middle
    else begin = middle
  }
  const count = end - begin, most = Math.max(1, 4 * Math.ceil(count / LEAF)), next = new Uint32Array(most), counts = new Uint8Array(most)
  let nodes = 1
  const build = (node: number, from: number, to: number): void => {
    if (to - from <= LEAF) {
      next[node] = from - begin
      counts[node] = to - from
      return
    }
    const middle = parted(order, from, to), first = nodes
    nodes += 2
    next[node] = first
    build(first, from, middle)
    build(first + 1, middle, to)
  }
  if (count > 0) build(0, begin, end)
  const corners = new Float32Array(9 * count)
  for (let i = 0; i < count; i++) {
    for (let c = 0; c < 3; c++) {
      const from = 3 * t[3 * numbers[begin + i] + c], to = 9 * i + 3 * c
      corners[to] = p[from]
      corners[to + 1] = p[from + 1]
      corners[to + 2] = p[from + 2]
    }
  }
  const boxes = new Float32Array(6 * nodes)
  fit(boxes, corners, next, counts)
  return { corners, boxes, next: next.slice(0, nodes), counts: counts.slice(0, nodes) }
}

/** The tree of which two halves were built by themselves: the same as if it had been built at once, but for where its nodes lie. */
export function joinTrees(one: TriangleTree, other: TriangleTree): TriangleTree {
  const [a, b] = [one.counts.length, other.counts.length], nodes = 1 + a + b
  const corners = new Float32Array(one.corners.length + other.corners.length), boxes = new Float32Array(6 * nodes), next = new Uint32Array(nodes), counts = new Uint8Array(nodes)
  corners.set(one.corners)
  corners.set(other.corners, one.corners.length)
  // both first nodes come behind the new one, then what is below the one, then what is below the other
  next[0] = 1
  const put = ({ boxes: theirs, next: to, counts: held }: TriangleTree, at: number, rest: number, triangles: number): void => {
    const place = (node: number): number => (node === 0 ? at : rest + node - 1)
    for (let node = 0; node < held.length; node++) {
      const n = place(node)
      for (let k = 0; k < 6; k++) boxes[6 * n + k] = theirs[6 * node + k]
      counts[n] = held[node]
      next[n] = held[node] > 0 ? to[node] + triangles : place(to[node])
    }
  }
  put(one, 1, 3, 0)
  put(other, 2, 2 + a, one.corners.length / 9)
  for (let k = 0; k < 3; k++) {
    boxes[k] = Math.min(boxes[6 + k], boxes[12 + k])
    boxes[3 + k] = Math.max(boxes[9 + k], boxes[15 + k])
  }
  return { corners, boxes, next, counts }
}

/** Boxes from the leaves upward: children come after their parents. */
function fit(boxes: Float32Array, corners: Float32Array, next: Uint32Array, counts: Uint8Array): void {
  for (let node = boxes.length / 6 - 1; node >= 0; node--) {
    const b = 6 * node, count = counts[node]
    for (let k = 0; k < 3; k++) {
      let least = Infinity, greatest = -Infinity
      if (count > 0) {
        for (let i = 9 * next[node] + k, to = i + 9 * count; i < to; i += 3) {
          if (corners[i] < least) least = corners[i]
          if (corners[i] > greatest) greatest = corners[i]
        }
      } else {
        const l = 6 * next[node] + k
        least = Math.min(boxes[l], boxes[l + 6])
        greatest = Math.max(boxes[l + 3], boxes[l + 9])
      }
      boxes[b + k] = least
      boxes[b + k + 3] = greatest
    }
  }
}

/** Parts triangles in halves along the axis along which they reach farthest. Gives where the second half begins. */
function parted(order: Order, from: number, to: number): number {
  const half = (from + to) >> 1
  select(order, longestAxis(order, from, to), from, to - 1, half)
  return half
}

/** Triangles in the order in which they come to lie in the tree: thrice their middles along each axis, and their numbers. */
interface Order {
  readonly middles: readonly [Float32Array, Float32Array, Float32Array]
  readonly numbers: Uint32Array
}

function orderOf({ positions: p, triangles: t }: Mesh): Order {
  const count = t.length / 3, xs = new Float32Array(count), ys = new Float32Array(count), zs = new Float32Array(count), numbers = new Uint32Array(count)
  for (let i = 0; i < count; i++) {
    const a = 3 * t[3 * i], b = 3 * t[3 * i + 1], c = 3 * t[3 * i + 2]
    numbers[i] = i
    xs[i] = p[a] + p[b] + p[c]
    ys[i] = p[a + 1] + p[b + 1] + p[c + 1]
    zs[i] = p[a + 2] + p[b + 2] + p[c + 2]
  }
  return { middles: [xs, ys, zs], numbers }
}

function longestAxis({ middles }: Order, from: number, to: number): number {
  let best = 0, longest = -1
  for (let k = 0; k < 3; k++) {
    const at = middles[k]
    let least = Infinity, greatest = -Infinity
    for (let i = from; i < to; i++) {
      const v = at[i]
      if (v < least) least = v
      if (v > greatest) greatest = v
    }
    if (greatest - least > longest) {
      longest = greatest - least
      best = k
    }
  }
  return best
}

/** Reorders so that the one at `k` is where sorting along an axis would put it, the smaller before it. Source: Hoare's selection. */
function select({ middles, numbers }: Order, axis: number, from: number, to: number, k: number): void {
  const at = middles[axis], second = middles[(axis + 1) % 3], third = middles[(axis + 2) % 3]
  while (from < to) {
    const pivot = at[(from + to) >> 1]
    let i = from, j = to
    while (i <= j) {
      while (at[i] < pivot) i++
      while (at[j] > pivot) j--
      if (i <= j) {
        const a = at[i], b = second[i], c = third[i], n = numbers[i]
        at[i] = at[j]
        second[i] = second[j]
        third[i] = third[j]
        numbers[i++] = numbers[j]
        at[j] = a
        second[j] = b
        third[j] = c
        numbers[j--] = n
      }
    }
    if (k <= j) to = j
    else if (k >= i) from = i
    else return
  }
}
