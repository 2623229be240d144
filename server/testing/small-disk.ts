import { spawnSync } from 'node:child_process'
import { closeSync, mkdtempSync, openSync, rmSync, statSync, truncateSync, writeSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

/** A folder on a disk of its own that is soon full. */
export interface SmallDisk {
  readonly folder: string
  /** Takes all room but for some bytes. */
  fill(leaving?: number): void
  /** Gives the room back. */
  free(): void
  remove(): void
}

/** Makes a disk of some megabytes in memory; null where this user may not mount one. */
export function smallDisk(megabytes: number): SmallDisk | null {
  const folder = mkdtempSync(join(tmpdir(), 'oak-stilts-disk-'))
  if (process.getuid?.() !== 0 || spawnSync('mount', ['-t', 'tmpfs', '-o', `size=${megabytes}m`, 'tmpfs', folder]).status !== 0) {
    rmSync(folder, { recursive: true })
    return null
  }
  const filler = join(folder, 'filler'), chunk = Buffer.alloc(1 << 14)
  return {
    folder,
    fill: (leaving = 0) => {
      const file = openSync(filler, 'a')
      try {
        for (;;) writeSync(file, chunk)
      } catch {
        // no more room
      }
      closeSync(file)
      if (leaving > 0) truncateSync(filler, Math.max(0, Math.floor(statSync(filler).size - leaving)))
    },
    free: () => rmSync(filler, { force: true }),
    remove: () => {
      spawnSync('umount', ['-l', folder])
      rmSync(folder, { recursive: true, force: true })
    },
  }
}
