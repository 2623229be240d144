/** Rows that go to the database in one statement; between two of them other requests are answered. */
const ROWS_AT_ONCE = 1000

/** Items in lists that one statement takes; between two of them whatever else waits has its turn. */
export async function* chunks<T>(items: readonly T[]): AsyncGenerator<readonly T[]> {
  for (let i = 0; i < items.length; i += ROWS_AT_ONCE) {
    if (i > 0) await new Promise(resolve => setImmediate(resolve))
    yield items.slice(i, i + ROWS_AT_ONCE)
  }
}
