/** Gauges and stilts on the dimensioned side elevation: shown, edited, asked about. */
export { default as GaugeDrawing } from './gauge-drawing.vue'
export { default as KitGauge } from './kit-gauge.vue'
export { default as GaugeSheet } from './gauge-sheet.vue'
export { default as StiltElevation } from './stilt-elevation.vue'
export { FINE_SKIN_MM, tipWarnings } from './sizes'
