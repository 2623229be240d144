/** Bits that the longest code of a deflate alphabet may take; that of the alphabet of code lengths less. */
export const MOST_BITS = 15, MOST_LENGTH_BITS = 7

/**
 * Lengths of Huffman codes for symbols that occur so often, none longer than `most` bits. Where only one symbol occurs, it takes one bit.
 * Source: two queues of leaves and sums (van Leeuwen's way, from memory); codes that came out too long are shortened as the sum of
 * Kraft's inequality allows.
 */
export function codeLengths(counts: ArrayLike<number>, most: number): Uint8Array {
  const lengths = new Uint8Array(counts.length), leaves: number[] = []
  for (let s = 0; s < counts.length; s++) if (counts[s] > 0) leaves.push(s)
  if (leaves.length === 0) return lengths
  if (leaves.length === 1) {
    lengths[leaves[0]] = 1
    return lengths
  }
  leaves.sort((a, b) => counts[a] - counts[b] || a - b)
  const n = leaves.length, weight = new Float64Array(2 * n - 1), parent = new Int32Array(2 * n - 1)
  for (let i = 0; i < n; i++) weight[i] = counts[leaves[i]]
  let leaf = 0, sum = n
  for (let made = n; made < 2 * n - 1; made++) {
    const next = (): number => (leaf < n && (sum >= made || weight[leaf] <= weight[sum]) ? leaf++ : sum++)
    const a = next(), b = next()
    weight[made] = weight[a] + weight[b]
    parent[a] = parent[b] = made
  }
  const depth = new Int32Array(2 * n - 1), atDepth = new Int32Array(most + 1)
  for (let i = 2 * n - 3; i >= 0; i--) depth[i] = depth[parent[i]] + 1
  let over = 0
  for (let i = 0; i < n; i++) {
    const bits = Math.min(most, depth[i])
    atDepth[bits]++
    over += 2 ** (most - bits)
  }
  // too many short codes where long ones were cut: one of the longest that can goes a bit deeper, until all have their place
  for (over -= 2 ** most; over > 0;) {
    let bits = most - 1
    while (atDepth[bits] === 0) bits--
    atDepth[bits]--
    atDepth[bits + 1]++
    over -= 2 ** (most - bits - 1)
  }
  // and none may be left over
  for (; over < 0; over++) {
    atDepth[most]--
    atDepth[most - 1]++
  }
  // the rarest get the longest
  for (let bits = most, i = 0; bits > 0; bits--) for (let k = atDepth[bits]; k > 0; k--) lengths[leaves[i++]] = bits
  return lengths
}

/** The codes of a canonical Huffman code, bits turned round as deflate writes them (RFC 1951, 3.2.2). */
export function codesOf(lengths: Uint8Array): Uint16Array {
  const perLength = new Uint16Array(MOST_BITS + 2), next = new Uint16Array(MOST_BITS + 2), codes = new Uint16Array(lengths.length)
  for (const l of lengths) perLength[l]++
  perLength[0] = 0
  for (let bits = 1, code = 0; bits <= MOST_BITS; bits++) next[bits] = code = (code + perLength[bits - 1]) << 1
  for (let s = 0; s < lengths.length; s++) {
    let code = lengths[s] > 0 ? next[lengths[s]]++ : 0, turned = 0
    for (let b = 0; b < lengths[s]; b++, code >>= 1) turned = (turned << 1) | (code & 1)
    codes[s] = turned
  }
  return codes
}
