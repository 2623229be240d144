import { readFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { describe, expect, it } from 'vitest'

/** What a built file loads of the other built files, at once or later. */
function loadedBy(path: string, seen = new Set<string>()): Set<string> {
  if (seen.has(path)) return seen
  seen.add(path)
  for (const [, from] of readFileSync(path, 'utf8').matchAll(/(?:from\s*|import\s*\(?\s*)["'](\.\/[^"']+\.mjs)["']/g)) loadedBy(join(dirname(path), from), seen)
  return seen
}

describe('the built server', () => {
  it('has imports in processes that load nothing which starts a server', () => {
    const entry = process.env.IMPORT_ENTRY as string, loaded = [...loadedBy(entry)].map(p => p.slice(dirname(entry).length + 1))
    expect(loaded.length).toBeGreaterThan(2)
    expect(loaded).not.toContain('main.mjs')
  })
})
