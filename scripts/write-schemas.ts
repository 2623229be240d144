import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { publishedFiles } from './published'

/** Writes the published schemas to docs/schemas. */
const folder = join(import.meta.dirname, '..', 'docs', 'schemas')
mkdirSync(folder, { recursive: true })
for (const [name, text] of publishedFiles()) writeFileSync(join(folder, name), text)
