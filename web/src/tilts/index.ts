/** The search for a tilt on the page: its sheet with the map, the cards and what counts. */
export { default as TiltSheet } from './tilt-sheet.vue'
