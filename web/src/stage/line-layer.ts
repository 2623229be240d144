import { LineSegments2 } from 'three/addons/lines/LineSegments2.js'
import { LineSegmentsGeometry } from 'three/addons/lines/LineSegmentsGeometry.js'
import { LineMaterial } from 'three/addons/lines/LineMaterial.js'
import { PALETTE } from '../styles/palette'
import type { Stage } from './stage'

/** Widths of a line and of the paper around it, screen pixels. */
const LINE_PX = 1.8, CASING_PX = 4.2

/** Line segments over the model, in ink with a casing of paper so that they read on lit and on shaded skin. */
export class LineLayer {
  readonly #stage: Stage
  readonly #strokes: readonly LineSegments2[]

  constructor(stage: Stage, color: string, seeThrough: boolean) {
    this.#stage = stage
    const empty = new LineSegmentsGeometry()
    this.#strokes = [[PALETTE.paper, CASING_PX], [color, LINE_PX]].map(([ink, linewidth], i) => {
      // drawn a little nearer than they are: they run along the skin, half inside it
      const material = new LineMaterial({ color: ink, linewidth: linewidth as number, depthTest: !seeThrough, depthWrite: false, transparent: true, polygonOffset: true, polygonOffsetFactor: -6, polygonOffsetUnits: -6 })
      const stroke = new LineSegments2(empty, material)
      stroke.frustumCulled = false
      stroke.renderOrder = 2 + i / 2
      stroke.visible = false
      stage.addAside(stroke, stage.stand)
      return stroke
    })
  }

  /** Shows segments, x, y, z of both ends; null for none. */
  set(segments: Float32Array | null): void {
    const visible = segments !== null && segments.length > 0
    const geometry = new LineSegmentsGeometry()
    if (visible) geometry.setPositions(segments)
    this.#strokes[0].geometry.dispose()
    for (const stroke of this.#strokes) {
      stroke.geometry = geometry
      stroke.visible = visible
    }
    this.#stage.invalidate()
  }
}
