/** What ties stilts to each other, beside what is selected. */
export { default as TiePanel } from './tie-panel.vue'
