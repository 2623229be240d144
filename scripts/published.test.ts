import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { publishedFiles } from './published'

describe('docs/schemas', () => {
  it.each(publishedFiles())('%s is what the definitions say; `npm run schemas` writes it anew', (name, text) => {
    expect(readFileSync(join(import.meta.dirname, '..', 'docs', 'schemas', name), 'utf8')).toBe(text)
  })
})
