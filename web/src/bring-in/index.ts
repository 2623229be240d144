/** Bringing model files in: what is sent and how far it is, what was refused, and the rows that parts come to. */
export { addToJob, rowsOfBrought, sizeOfBrought } from './brought-rows'
export { firstView, notesOf } from './notes'
export { ACCEPTED, createBringIn, progressText, type BringIn, type Refused } from './bring-in'
export { default as BringInStatus } from './bring-in-status.vue'
export { default as DropAnywhere } from './drop-anywhere.vue'
