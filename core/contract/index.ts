/** The contract: Zod schemas and inferred types that page, server and command line share. */
export * from './plan'
export * from './job'
export * from './report'
export * from './scan-settings'
