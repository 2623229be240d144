import { BufferAttribute, BufferGeometry, Color, Points, ShaderMaterial } from 'three'
import { PALETTE } from '../styles/palette'
import type { Stage } from './stage'

/** Width of a dot, screen pixels. */
const DOT_PX = 10

/** Dots on the skin where tips would stand: full where something can, hollow where nothing can. */
export class DotLayer {
  readonly #stage: Stage
  readonly #points: Points<BufferGeometry, ShaderMaterial>

  constructor(stage: Stage) {
    this.#stage = stage
    const material = new ShaderMaterial({
      uniforms: { size: { value: DOT_PX * (globalThis.devicePixelRatio || 1) }, ink: { value: new Color(PALETTE.stilt) }, paper: { value: new Color(PALETTE.paper) } },
      vertexShader: 'uniform float size; attribute float stands; varying float full; void main() { full = stands; gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); gl_Position.z -= 0.002 * gl_Position.w; gl_PointSize = size; }',
      // a disc of ink in a ring of paper; a ring of ink where nothing can stand
      fragmentShader: 'uniform vec3 ink; uniform vec3 paper; varying float full; void main() { float r = 2.0 * length(gl_PointCoord - 0.5); if (r > 1.0) discard; bool inside = full > 0.5 ? r < 0.7 : r > 0.4 && r < 0.7; gl_FragColor = vec4(inside ? ink : paper, 1.0);\n#include <colorspace_fragment>\n}',
      depthWrite: false, transparent: true,
    })
    this.#points = new Points(new BufferGeometry(), material)
    this.#points.frustumCulled = false
    this.#points.renderOrder = 4
    this.#points.visible = false
    stage.addAside(this.#points, stage.stand)
  }

  /** Shows dots at x, y, z of each; null for none. @param stands 1 where something can stand */
  set(points: Float32Array | null, stands: Uint8Array = new Uint8Array(0)): void {
    const geometry = new BufferGeometry()
    this.#points.visible = points !== null && points.length > 0
    if (points) {
      geometry.setAttribute('position', new BufferAttribute(points, 3))
      geometry.setAttribute('stands', new BufferAttribute(Float32Array.from(stands), 1))
    }
    this.#points.geometry.dispose()
    this.#points.geometry = geometry
    this.#stage.invalidate()
  }
}
