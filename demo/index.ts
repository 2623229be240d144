/** The tide theatre: procedural models of the harbour workshop, and the jobs that a first start is seeded with. */
export { DEMO_JOBS, sculpt, type DemoJob, type DemoModel } from './jobs'
