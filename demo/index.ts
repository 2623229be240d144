/** The tide theatre: procedural models of the harbour workshop, and the jobs that a first start is seeded with. */
export { marksOf } from './marks'
export { planOf, type DemoPlan } from './plans'
export { DEMO_PRINTS, type DemoPrint } from './prints'
export { DEMO_VERSIONS, type DemoVersion } from './versions'
export { DEMO_JOBS, DEMO_MODELS, sculpt, type DemoJob, type DemoModel } from './jobs'
