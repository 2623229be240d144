/** The proof on the page: its verdict and checks, and what each tip bears. */
export { default as ProofPanel } from './proof-panel.vue'
export { default as ProofSheet } from './proof-sheet.vue'
