import type { Box3} from 'three';
import { BufferAttribute, BufferGeometry, CanvasTexture, Color, DoubleSide, Group, LineBasicMaterial, LineLoop, Mesh, MeshBasicMaterial, MeshLambertMaterial, NearestFilter, PlaneGeometry, SRGBColorSpace } from 'three'
import { radians, type Mesh as TriangleMesh } from '@oak-stilts/core/mesh'
import type { Stand } from '@oak-stilts/core/pose'
import type { LayerPicture } from '@oak-stilts/core/scan'
import type { Look } from '../stores/bench'
import { PALETTE } from '../styles/palette'
import { fillOf, REGION_LOOKS } from './layer-patterns'
import { matrixOf, UNCUT_MM, type Stage } from './stage'
import { MarkLayer } from './mark-layer'

/** Fewer triangles than this are drawn with flat facets. */
const COARSE_TRIANGLES = 40000

/** The model on the stage, its section plane and the cut through the layer under the playhead. */
export class ModelLayer {
  readonly group = new Group()
  readonly #stage: Stage
  readonly #mesh: Mesh
  readonly #material: MeshLambertMaterial
  readonly #frame: LineLoop
  readonly #cut: Mesh<PlaneGeometry, MeshBasicMaterial>
  readonly #sourceBox: Box3
  #canvas = document.createElement('canvas')
  readonly marks: MarkLayer
  #ghost: Mesh<BufferGeometry, MeshLambertMaterial> | null = null
  readonly #steep = { steepCos: { value: 2 }, stripeMm: { value: 1 } }

  constructor(stage: Stage, mesh: TriangleMesh, normals: Float32Array) {
    this.#stage = stage
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
    geometry.setAttribute('normal', new BufferAttribute(normals, 3))
    geometry.setIndex(new BufferAttribute(mesh.triangles, 1))
    geometry.computeBoundingBox()
    this.#sourceBox = geometry.boundingBox as Box3
    // a coarse mesh is shown with the facets that it will print
    this.#material = new MeshLambertMaterial({ color: PALETTE.stone, clippingPlanes: [stage.section, stage.floor], flatShading: mesh.triangles.length < 3 * COARSE_TRIANGLES })
    // skin that turns away from the eye darkens to ink, so that every form has an outline
    this.#material.onBeforeCompile = shader => {
      shader.uniforms.inkColor = { value: new Color(PALETTE.silhouette) }
      Object.assign(shader.uniforms, this.#steep)
      // stripes are anchored to the part
      shader.vertexShader = shader.vertexShader.replace('void main() {', 'attribute float held;\nvarying vec3 vSource;\nvarying float vHeld;\nvoid main() {\n  vSource = position;\n  vHeld = held;')
      shader.fragmentShader = shader.fragmentShader
        .replace('void main() {', 'uniform vec3 inkColor;\nuniform float steepCos;\nuniform float stripeMm;\nvarying vec3 vSource;\nvarying float vHeld;\nvoid main() {')
        // smooth normals lie across creases: there the face's own normal counts
        .replace('#include <normal_fragment_begin>', `#include <normal_fragment_begin>
          vec3 faceNormal = normalize(cross(dFdx(vViewPosition), dFdy(vViewPosition)));
          normal = normalize(mix(faceNormal, normal, smoothstep(0.86, 0.985, dot(normal, faceNormal))));`)
        .replace('#include <opaque_fragment>', `float facing = abs(dot(normal, normalize(vViewPosition)));
          outgoingLight = mix(outgoingLight, inkColor, smoothstep(0.3, 0.05, facing) * 0.7);
          float lean = -normalize(normal * mat3(viewMatrix)).z;
          if (lean > steepCos) {
            // the flatter the skin, the denser the pairs of ink and paper strokes
            float flatness = clamp((lean - steepCos) / (1.0 - steepCos), 0.0, 1.0);
            float at = fract(dot(vSource, vec3(0.6, 0.55, 0.58)) / stripeMm * (flatness > 0.6 ? 2.0 : 1.0));
            float width = 0.13 + 0.2 * flatness;
            // it fades where something holds
            float shows = 1.0 - vHeld;
            if (at < width) outgoingLight = mix(outgoingLight, inkColor * 0.5, shows);
            else if (at < width * 2.0) outgoingLight = mix(outgoingLight, vec3(0.95, 0.93, 0.88), shows);
          }
          #include <opaque_fragment>`)
    }
    this.#mesh = new Mesh(geometry, this.#material)
    this.marks = new MarkLayer(stage, this.#mesh, geometry)
    // 6 to 12 screen pixels a stripe, in steps, so that it does not swim while the view zooms
    this.#mesh.onBeforeRender = (_r, _s, camera) => {
      const mmPerPixel = stage.mmPerPixel(camera.position.distanceTo(stage.controls.target))
      this.#steep.stripeMm.value = 2 ** Math.round(Math.log2(9 * mmPerPixel))
      this.marks.setScale(mmPerPixel)
    }
    this.#mesh.matrixAutoUpdate = false
    const line = new BufferGeometry()
    line.setAttribute('position', new BufferAttribute(new Float32Array(12), 3))
    this.#frame = new LineLoop(line, new LineBasicMaterial({ color: '#B98F57' }))
    this.#frame.frustumCulled = false
    this.#cut = new Mesh(new PlaneGeometry(1, 1), new MeshBasicMaterial({ transparent: true, side: DoubleSide, depthWrite: false, polygonOffset: true, polygonOffsetFactor: -2, polygonOffsetUnits: -2 }))
    this.#cut.visible = false
    this.group.add(this.#mesh, this.#frame, this.#cut)
    stage.stand.add(this.group)
  }

  setStand(stand: Stand): void {
    this.#mesh.matrix.copy(matrixOf(stand))
    this.#mesh.matrixWorldNeedsUpdate = true
    this.#stage.invalidate()
  }

  /** Shows the model as it would stand, faintly, beside how it stands; null for not. */
  setGhost(stand: Stand | null): void {
    if (stand) {
      if (!this.#ghost) {
        this.#ghost = new Mesh(this.#mesh.geometry, new MeshLambertMaterial({ color: PALETTE.accent, transparent: true, opacity: 0.45, depthWrite: true, flatShading: this.#material.flatShading }))
        this.#ghost.matrixAutoUpdate = false
        this.#stage.addAside(this.#ghost, this.group)
      }
      this.#ghost.matrix.copy(matrixOf(stand))
      this.#ghost.matrixWorldNeedsUpdate = true
    }
    if (this.#ghost) this.#ghost.visible = stand !== null
    this.#stage.invalidate()
  }

  /** The box of the model on the plate; a little wide where it is tilted, since only the corners are turned. */
  box(): Box3 {
    return this.#standBox().applyMatrix4(this.#stage.stand.matrix)
  }

  #standBox(): Box3 {
    return this.#sourceBox.clone().applyMatrix4(this.#mesh.matrix)
  }

  /** Tints skin that leans out less than this from level; null for none. */
  setSteep(slopeDeg: number | null): void {
    this.#steep.steepCos.value = slopeDeg === null ? 2 : Math.cos(radians(slopeDeg))
    this.#stage.invalidate()
  }

  /** How much tips hold of the skin at every vertex, 0 to 255; null for nothing. */
  setHeld(held: Uint8Array | null): void {
    const { geometry } = this.#mesh
    if (held) geometry.setAttribute('held', new BufferAttribute(held, 1, true))
    else geometry.deleteAttribute('held')
    this.#stage.invalidate()
  }

  setLook(look: Look): void {
    this.#mesh.visible = look !== 'hidden'
    const faint = look === 'faint'
    if (this.#material.transparent !== faint) {
      this.#material.transparent = faint
      this.#material.opacity = faint ? 0.3 : 1
      this.#material.depthWrite = !faint
      this.#material.needsUpdate = true
    }
    this.#stage.invalidate()
  }

  /** Hides what is below and above two heights, mm, and draws the frame of the section at a third one. */
  setSection([low, high]: readonly [number, number], zMm: number, shown: boolean): void {
    const box = this.#standBox().expandByScalar(2)
    const p = this.#frame.geometry.attributes.position as BufferAttribute
    const corners = [[box.min.x, box.min.y], [box.max.x, box.min.y], [box.max.x, box.max.y], [box.min.x, box.max.y]]
    corners.forEach(([x, y], i) => p.setXYZ(i, x, y, zMm))
    p.needsUpdate = true
    this.#stage.section.constant = Math.min(UNCUT_MM, high)
    this.#stage.floor.constant = Math.min(UNCUT_MM, -low)
    this.#frame.visible = shown
    const before = this.#cutting
    this.#cutting = low > -Infinity || high < Infinity
    if (this.#cutting && !before) this.#paintCut()
    const side = this.#cutting ? DoubleSide : 0
    if (this.#material.side !== side) {
      this.#material.side = side
      this.#material.needsUpdate = true
    }
    this.#cut.visible = this.#cutting && this.#cut.material.map !== null
    this.#cut.position.z = zMm
    this.#stage.invalidate()
  }
  #cutting = false

  /** Takes the layer under the playhead, to be drawn into the cut while there is one. */
  setPicture(picture: LayerPicture | null, pixelMm: number): void {
    this.#picture = picture
    this.#pixelMm = pixelMm
    if (this.#cutting) this.#paintCut()
  }
  #picture: LayerPicture | null = null
  #pixelMm = 0.05

  #paintCut(): void {
    const picture = this.#picture, pixelMm = this.#pixelMm
    const material = this.#cut.material
    material.map?.dispose()
    material.map = null
    this.#cut.visible = false
    if (picture && picture.spans.length > 0) {
      const s = picture.spans
      let row0 = Infinity, row1 = -Infinity, x0 = Infinity, x1 = -Infinity
      for (let i = 0; i < s.length; i += 4) {
        row0 = Math.min(row0, s[i])
        row1 = Math.max(row1, s[i] + 1)
        x0 = Math.min(x0, s[i + 1])
        x1 = Math.max(x1, s[i + 2])
      }
      const scale = Math.min(1, 2048 / Math.max(x1 - x0, row1 - row0))
      this.#canvas.width = Math.max(1, Math.ceil((x1 - x0) * scale))
      this.#canvas.height = Math.max(1, Math.ceil((row1 - row0) * scale))
      const context = this.#canvas.getContext('2d') as CanvasRenderingContext2D
      for (const look of REGION_LOOKS) {
        context.fillStyle = fillOf(context, look)
        for (let i = 0; i < s.length; i += 4) if (s[i + 3] === look.code) context.fillRect((s[i + 1] - x0) * scale, this.#canvas.height - (s[i] + 1 - row0) * scale, Math.max(1, (s[i + 2] - s[i + 1]) * scale), Math.max(1, scale))
      }
      const texture = new CanvasTexture(this.#canvas)
      texture.colorSpace = SRGBColorSpace
      texture.magFilter = NearestFilter
      material.map = texture
      material.needsUpdate = true
      this.#cut.scale.set((x1 - x0) * pixelMm, (row1 - row0) * pixelMm, 1)
      this.#cut.position.x = ((x0 + x1) / 2) * pixelMm
      this.#cut.position.y = ((row0 + row1) / 2) * pixelMm
      this.#cut.visible = this.#cutting
    }
    this.#stage.invalidate()
  }

  dispose(): void {
    this.#stage.stand.remove(this.group)
    this.marks.dispose()
    this.#mesh.geometry.dispose()
    this.#material.dispose()
    this.#ghost?.material.dispose()
  }
}
