export function median(values: readonly number[]): number {
  return [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]
}

/** What some work gives, and how long it took, ms. */
export function timed<T>(work: () => T): [T, number] {
  const start = performance.now()
  const value = work()
  return [value, performance.now() - start]
}
