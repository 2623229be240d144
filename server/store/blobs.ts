import { createHash, randomUUID } from 'node:crypto'
import { closeSync, existsSync, fsyncSync, mkdirSync, openSync, renameSync, writeSync } from 'node:fs'
import { join } from 'node:path'

/** Large binary data by content hash: written under a temporary name, synced and renamed, so that a file is whole or absent. */
export class BlobStore {
  readonly #folder: string

  constructor(folder: string) {
    this.#folder = folder
    mkdirSync(folder, { recursive: true })
  }

  static hashOf(bytes: Uint8Array): string {
    return createHash('sha256').update(bytes).digest('hex')
  }

  pathOf(hash: string, kind: string): string {
    return join(this.#folder, `${hash}.${kind}`)
  }

  has(hash: string, kind: string): boolean {
    return existsSync(this.pathOf(hash, kind))
  }

  put(hash: string, kind: string, bytes: Uint8Array): void {
    if (this.has(hash, kind)) return
    const temporary = join(this.#folder, `${randomUUID()}.part`)
    const file = openSync(temporary, 'w')
    try {
      for (let at = 0; at < bytes.length;) at += writeSync(file, bytes, at, Math.min(bytes.length - at, 1 << 24))
      fsyncSync(file)
    } finally {
      closeSync(file)
    }
    renameSync(temporary, this.pathOf(hash, kind))
    const folder = openSync(this.#folder, 'r')
    try {
      fsyncSync(folder)
    } finally {
      closeSync(folder)
    }
  }
}
