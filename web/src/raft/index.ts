/** The raft on the page: what stilts stand on. */
export { default as RaftSheet } from './raft-sheet.vue'
