/** Ranks of values from 0 on; equal ones share the mean of theirs. */
function ranksOf(values: readonly number[]): number[] {
  const order = values.map((v, i) => [v, i] as const).sort((a, b) => a[0] - b[0]), ranks = values.map(() => 0)
  for (let i = 0; i < order.length;) {
    let j = i
    while (j < order.length && order[j][0] === order[i][0]) j++
    for (let k = i; k < j; k++) ranks[order[k][1]] = (i + j - 1) / 2
    i = j
  }
  return ranks
}

/** Spearman's coefficient of rank correlation: how far two lists of figures agree in order, 1 where they do. */
export function spearman(a: readonly number[], b: readonly number[]): number {
  const x = ranksOf(a), y = ranksOf(b), mean = (a.length - 1) / 2
  let both = 0, one = 0, other = 0
  x.forEach((v, i) => {
    both += (v - mean) * (y[i] - mean)
    one += (v - mean) ** 2
    other += (y[i] - mean) ** 2
  })
  return both / Math.sqrt(one * other)
}
