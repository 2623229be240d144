import { register } from 'tsx/esm/api'

// a thread begins without what loads TypeScript
register()
await import('./wall-thread.ts')
