import { createHash, randomUUID } from 'node:crypto'
import { closeSync, existsSync, fsyncSync, mkdirSync, openSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { writeSynced } from './write-synced'

/** Large binary data by hash: written under a temporary name, synced and renamed, so that a file is whole or absent. */
export class BlobStore {
  readonly #folder: string

  constructor(folder: string) {
    this.#folder = folder
    mkdirSync(folder, { recursive: true })
    for (const name of readdirSync(folder)) if (name.endsWith('.part')) rmSync(join(folder, name), { force: true })
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

  /** Whether a blob is there with this length, bytes. */
  isWhole(hash: string, kind: string, length: number): boolean {
    return statSync(this.pathOf(hash, kind), { throwIfNoEntry: false })?.size === length
  }

  put(hash: string, kind: string, bytes: Uint8Array): void {
    if (this.isWhole(hash, kind, bytes.length)) return
    const temporary = join(this.#folder, `${randomUUID()}.part`)
    try {
      writeSynced(temporary, bytes)
      renameSync(temporary, this.pathOf(hash, kind))
    } catch (error) {
      rmSync(temporary, { force: true })
      throw error
    }
    this.#syncFolder()
  }

  /** Takes over a file that lies on the same disk and is synced. What was stored under the same hash is replaced, damaged or not. */
  adopt(hash: string, kind: string, path: string): void {
    renameSync(path, this.pathOf(hash, kind))
    this.#syncFolder()
  }

  /** Removes what is not in use any more; gives how many files that were. @param used names as `hash.kind` */
  collect(used: ReadonlySet<string>): number {
    let removed = 0
    for (const name of readdirSync(this.#folder)) {
      if (used.has(name) || !/^[0-9a-f]{64}\.(mesh|png|file|stl|faults|photo)$/.test(name)) continue
      rmSync(join(this.#folder, name), { force: true })
      removed++
    }
    return removed
  }

  #syncFolder(): void {
    const folder = openSync(this.#folder, 'r')
    try {
      fsyncSync(folder)
    } finally {
      closeSync(folder)
    }
  }
}
