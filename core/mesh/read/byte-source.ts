/** Bytes that can be read from anywhere in them, a piece at a time: a file on disk, or what lies in memory. */
export interface ByteSource {
  readonly size: number
  /** Up to `length` bytes from `at` on: fewer at the end, none after it. What is given may be used again by the next call. */
  read(at: number, length: number): Uint8Array
}

export function sourceOfBytes(bytes: Uint8Array): ByteSource {
  return { size: bytes.length, read: (at, length) => bytes.subarray(at, at + length) }
}

/** A file that is open elsewhere. @param readInto fills as much of the buffer as there is from a byte of the file on, and gives how much that was */
export function sourceOfFile(size: number, readInto: (buffer: Uint8Array, at: number) => number): ByteSource {
  let buffer = new Uint8Array(BLOCK_BYTES)
  return {
    size,
    read(at, length) {
      if (length > buffer.length) buffer = new Uint8Array(length)
      const wanted = buffer.subarray(0, Math.max(0, Math.min(length, size - at)))
      let filled = 0
      while (filled < wanted.length) {
        const more = readInto(wanted.subarray(filled), at + filled)
        if (more === 0) break
        filled += more
      }
      return wanted.subarray(0, filled)
    },
  }
}

/** Bytes that are looked at together. */
export const BLOCK_BYTES = 1 << 20

/** The same bytes, telling how far reading has come as a share of all of them. */
export function watched(source: ByteSource, progress: (share: number) => void): ByteSource {
  let told = 0
  return {
    size: source.size,
    read(at, length) {
      const share = Math.min(1, at / source.size)
      if (share > told + 0.01) progress(told = share)
      return source.read(at, length)
    },
  }
}
