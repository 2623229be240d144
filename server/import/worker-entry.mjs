// The import's process does not inherit the TypeScript loader of its parent, so it registers its own. What is built in its place needs none.
import { register } from 'tsx/esm/api'

register()
await import('./import-worker.ts')
