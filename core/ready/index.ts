/** From a part as it stands to one that is proved, in one go. */
export { makeReady, type Ready, type ToReady } from './make-ready'
export { measuresOf } from './measures'
export { planned, type ToPlan } from './planned'
export { optimised, type Optimised, type OptimiseMemory, type OptimiseStep } from './optimised'
export { areasAlone, proved } from './proved'
