/** Printing: how long layers take. */
export { secondsOfLayers } from './time'
