/** Many stilts at once, on the page: the sheets of spreading and of peg beds. */
export { default as SpreadSheet } from './spread-sheet.vue'
export { default as KitBed } from './kit-bed.vue'
export { default as BedSheet } from './bed-sheet.vue'
