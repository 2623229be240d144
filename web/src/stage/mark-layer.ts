import { BufferAttribute, type BufferGeometry, BufferGeometry as Geometry, Color, LineBasicMaterial, LineSegments, Mesh, MeshBasicMaterial, type Object3D } from 'three'
import { OFF_LIMITS, PRIZED, SPARE } from '@oak-stilts/core/marks'
import { PICKED } from '../bench/aiming'
import { PALETTE } from '../styles/palette'
import type { Stage } from './stage'

/** Strokes of ink beside strokes of paper, in cells of 1 × 1: how far inside ink and paper a place is. */
const STROKES: ReadonlyMap<number, string> = new Map([
  // rings
  [PRIZED, 'float r = length(fract(at) - 0.5); float ink = abs(r - 0.32) - 0.04; float paper = abs(r - 0.32) - 0.1;'],
  // dots
  [SPARE, 'float r = length(fract(at) - 0.5); float ink = r - 0.14; float paper = r - 0.23;'],
  // cross-hatch
  [OFF_LIMITS, 'vec2 d = abs(fract(vec2(at.x + at.y, at.x - at.y)) - 0.5); float r = min(d.x, d.y); float ink = r - 0.07; float paper = r - 0.16;'],
  // lines
  [PICKED, 'float r = abs(fract(at.x + at.y) - 0.5); float ink = r - 0.09; float paper = r - 0.2;'],
])

/** Patterns on the faces that are marked, one mesh for each worth over the part's own vertices; they are anchored to the part. */
export class MarkLayer {
  readonly #stage: Stage
  readonly #meshes = new Map<number, Mesh<BufferGeometry, MeshBasicMaterial>>()
  readonly #triangles: Uint32Array
  readonly #borders: LineSegments<BufferGeometry, LineBasicMaterial>
  readonly #cellMm = { value: 1 }

  /** @param parent what the part is drawn by; the patterns move with it */
  constructor(stage: Stage, parent: Object3D, geometry: BufferGeometry) {
    this.#stage = stage
    this.#triangles = geometry.index?.array as Uint32Array
    this.#borders = new LineSegments(new Geometry(), new LineBasicMaterial({ color: PALETTE.ink, clippingPlanes: [stage.section, stage.floor] }))
    this.#borders.visible = false
    this.#borders.frustumCulled = false
    this.#borders.renderOrder = 1.5
    parent.add(this.#borders)
    for (const [worth, strokes] of STROKES) {
      const own = new Geometry()
      own.setAttribute('position', geometry.attributes.position)
      const mesh = new Mesh(own, materialOf(stage, strokes, this.#cellMm))
      mesh.visible = false
      mesh.frustumCulled = false
      mesh.renderOrder = 1
      parent.add(mesh)
      this.#meshes.set(worth, mesh)
    }
  }

  /** 6 to 12 screen pixels a cell, in steps, so that it does not swim while the view zooms. */
  setScale(mmPerPixel: number): void {
    this.#cellMm.value = 2 ** Math.round(Math.log2(11 * mmPerPixel))
  }

  /** @param worths of each face; null for none */
  set(worths: Uint8Array | null): void {
    for (const [worth, mesh] of this.#meshes) {
      let count = 0
      if (worths) for (const w of worths) if (w === worth) count++
      mesh.visible = count > 0
      const index = new Uint32Array(3 * count)
      if (worths && count > 0) {
        let at = 0
        for (let f = 0; f < worths.length; f++) {
          if (worths[f] !== worth) continue
          index[at++] = this.#triangles[3 * f]
          index[at++] = this.#triangles[3 * f + 1]
          index[at++] = this.#triangles[3 * f + 2]
        }
      }
      // the buffer of before goes with its geometry
      const own = new Geometry()
      own.setAttribute('position', mesh.geometry.attributes.position)
      own.setIndex(new BufferAttribute(index, 1))
      mesh.geometry.dispose()
      mesh.geometry = own
    }
    this.#stage.invalidate()
  }

  /** Shows all of it, or nothing. */
  setVisible(visible: boolean): void {
    for (const mesh of this.#meshes.values()) mesh.visible = visible && (mesh.geometry.index?.count ?? 0) > 0
    this.#borders.visible = visible && (this.#borders.geometry.attributes.position?.count ?? 0) > 0
    this.#stage.invalidate()
  }

  /** @param segments where skin of different worth meets, x, y, z of both ends in the part; null for none */
  setBorders(segments: Float32Array | null): void {
    const own = new Geometry()
    if (segments) own.setAttribute('position', new BufferAttribute(segments, 3))
    this.#borders.geometry.dispose()
    this.#borders.geometry = own
    this.#borders.visible = segments !== null && segments.length > 0
    this.#stage.invalidate()
  }

  dispose(): void {
    this.#borders.geometry.dispose()
    this.#borders.material.dispose()
    for (const mesh of this.#meshes.values()) {
      mesh.geometry.dispose()
      mesh.material.dispose()
    }
  }
}

function materialOf(stage: Stage, strokes: string, cellMm: { readonly value: number }): MeshBasicMaterial {
  // a little nearer than it is: it lies in the skin; not by its slope, or what is seen edge on would show through
  const material = new MeshBasicMaterial({ color: PALETTE.ink, clippingPlanes: [stage.section, stage.floor], polygonOffset: true, polygonOffsetFactor: 0, polygonOffsetUnits: -6 })
  // else all of them would be drawn by the program that was made first
  material.customProgramCacheKey = () => strokes
  material.onBeforeCompile = shader => {
    shader.uniforms.cellMm = cellMm
    shader.uniforms.paperColor = { value: new Color(PALETTE.paper) }
    shader.vertexShader = shader.vertexShader.replace('void main() {', 'varying vec3 vSource;\nvoid main() {\n  vSource = position;')
    shader.fragmentShader = shader.fragmentShader
      .replace('void main() {', 'uniform float cellMm;\nuniform vec3 paperColor;\nvarying vec3 vSource;\nvoid main() {')
      .replace('#include <opaque_fragment>', `vec3 n = abs(cross(dFdx(vSource), dFdy(vSource)));
        // drawn in the plane that the face lies in most
        vec2 at = (n.x > n.y && n.x > n.z ? vSource.yz : n.y > n.z ? vSource.xz : vSource.xy) / cellMm;
        ${strokes}
        if (paper > 0.0) discard;
        if (ink > 0.0) outgoingLight = paperColor;
        #include <opaque_fragment>`)
  }
  return material
}
