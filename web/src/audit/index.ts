/** The audit of tips, and selecting stilts by a rule, on the page. */
export { default as ArrivedTips } from './arrived-tips.vue'
export { default as TipAudit } from './tip-audit.vue'
