/** The Print view: copies on the plate, how layers are printed, what they come to, and the package of layers. */
export { default as PlatePanel } from './plate-panel.vue'
export { default as PrintedLayer } from './printed-layer.vue'
export { default as TracedPrint } from './traced-print.vue'
export { default as PrintSheet } from './print-sheet.vue'
export { SYMPTOMS } from './outcomes'
