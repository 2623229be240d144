/** What every page, worker and Node have of the Streams standard, as far as it is used here. */
declare class ReadableStream<T> {
  constructor(source: { pull(controller: { enqueue(chunk: T): void; close(): void }): void })
}
