import { BufferAttribute, BufferGeometry, Color, LineBasicMaterial, LineSegments } from 'three'
import type { Stage } from './stage'

/** Line segments over the model, in ink with a casing of paper so that they read on lit and on shaded skin. */
export class LineLayer {
  readonly #stage: Stage
  readonly #lines: LineSegments<BufferGeometry, LineBasicMaterial>

  constructor(stage: Stage, color: string, seeThrough: boolean) {
    this.#stage = stage
    const material = new LineBasicMaterial({ color: new Color(color), depthTest: !seeThrough, transparent: true, opacity: seeThrough ? 0.95 : 1 })
    this.#lines = new LineSegments(new BufferGeometry(), material)
    this.#lines.frustumCulled = false
    this.#lines.renderOrder = 2
    this.#lines.visible = false
    stage.scene.add(this.#lines)
  }

  /** Shows segments, x, y, z of both ends; null for none. */
  set(segments: Float32Array | null): void {
    this.#lines.geometry.dispose()
    this.#lines.geometry = new BufferGeometry()
    this.#lines.visible = segments !== null && segments.length > 0
    if (segments) this.#lines.geometry.setAttribute('position', new BufferAttribute(segments, 3))
    this.#stage.invalidate()
  }
}
