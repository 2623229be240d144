import { closeSync, fsyncSync, openSync, writeSync } from 'node:fs'

/** Writes a file in pieces and returns when it is on the disk. Throws what the file system throws. */
export function writeSynced(path: string, bytes: Uint8Array): void {
  const file = openSync(path, 'w')
  try {
    for (let at = 0; at < bytes.length;) at += writeSync(file, bytes, at, Math.min(bytes.length - at, 1 << 24))
    fsyncSync(file)
  } finally {
    closeSync(file)
  }
}
