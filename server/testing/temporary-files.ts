import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

/** Lets all that the tests keep for a while lie in one folder, which goes away after the last of them. */
export default function setup(): () => void {
  const before = process.env.TMPDIR, folder = mkdtempSync(join(tmpdir(), 'oak-stilts-tests-'))
  process.env.TMPDIR = folder
  return () => {
    if (before === undefined) delete process.env.TMPDIR
    else process.env.TMPDIR = before
    rmSync(folder, { recursive: true, force: true, maxRetries: 5 })
  }
}
