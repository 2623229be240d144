/** Spreading many stilts at once, on the page: its sheet. */
export { default as SpreadSheet } from './spread-sheet.vue'
