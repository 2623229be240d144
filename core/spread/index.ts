/** Many stilts at once: along a line or an edge, over faces, by strokes; each spread can be taken up again and placed anew. */
export { alongEdge, alongLine, stepsIn, type Spot, type WayPoint } from './along'
export { bordersOf, distanceToRun, edgesOf, type BorderRun } from './borders'
export { overFaces, type Pattern } from './over-faces'
export { byStrokes, spacingShare, type StrokePoint } from './by-strokes'
export { anchorOf, awayFrom, facesOfRuns, placeSpread, spotsOf, type SpotWay, type SpreadOut, type SpreadSetting } from './spread'
