import { Box3, type Group, Vector3 } from 'three'
import type { Mesh } from '@oak-stilts/core/mesh'
import type { Pose, Stand } from '@oak-stilts/core/pose'
import { PALETTE } from '../styles/palette'
import { DotLayer } from './dot-layer'
import { CutLayer } from './cut-layer'
import { InnerLayer } from './inner-layer'
import { RebuiltLayer } from './rebuilt-layer'
import { LineLayer } from './line-layer'
import { MoveHandle } from './move-handle'
import { PlateLayer } from './plate-layer'
import { MarkerLayer } from './marker-layer'
import { ModelLayer } from './model-layer'
import { plateLines, Stage, STANDARD_VIEWS } from './stage'
import { RaftLayer } from './raft-layer'
import { StiltLayer } from './stilt-layer'
import { TurnRings } from './turn-rings'

/** From where the whole plate is looked at. */
const FROM_ABOVE_FRONT = [0.12, -0.8, 0.75] as const

/** All that is drawn on the bench's stage, in layers of its own each. */
export class StageScene {
  readonly stage: Stage
  readonly stilts: StiltLayer
  readonly raft: RaftLayer
  readonly markers: MarkerLayer
  readonly rings: TurnRings
  /** Moves the copy on the plate. */
  readonly mover: MoveHandle
  /** What stands beside the part on the bench. */
  readonly beside: PlateLayer
  /** Outline of the layer under the pointer. */
  readonly contour: LineLayer
  /** The part of it that hangs. */
  readonly contourHanging: LineLayer
  /** Outline of what hangs of the selected finding. */
  readonly outline: LineLayer
  /** Where the mesh has the fault that is looked at. */
  readonly faults: LineLayer
  /** Where tips of a spread would stand. */
  readonly dots: DotLayer
  /** Rims of the holes of the part. */
  readonly rims: LineLayer
  /** What a hollow would take out. */
  readonly inner: InnerLayer
  /** What the pictures of the sliced plate make, behind it. */
  readonly rebuilt: RebuiltLayer
  /** A cut that is being set, and the handles by which that is done. */
  readonly cut: CutLayer
  readonly cutRings: TurnRings
  readonly cutArrow: LineLayer
  model: ModelLayer | null = null

  /** @throws NoWebGl where the browser cannot draw */
  constructor(host: HTMLElement) {
    this.stage = new Stage(host)
    this.stilts = new StiltLayer(this.stage)
    this.raft = new RaftLayer(this.stage)
    this.markers = new MarkerLayer(this.stage)
    this.rings = new TurnRings(this.stage)
    this.mover = new MoveHandle(this.stage)
    this.beside = new PlateLayer(this.stage)
    this.contour = new LineLayer(this.stage, PALETTE.accent, false)
    this.contourHanging = new LineLayer(this.stage, PALETTE.island, false)
    this.outline = new LineLayer(this.stage, PALETTE.island, true)
    this.dots = new DotLayer(this.stage)
    this.rims = new LineLayer(this.stage, PALETTE.accent, true)
    this.inner = new InnerLayer(this.stage)
    this.rebuilt = new RebuiltLayer(this.stage)
    this.cut = new CutLayer(this.stage)
    this.cutRings = new TurnRings(this.stage, { tiltXDeg: 'lean x', tiltYDeg: 'lean y' })
    this.cutRings.setVisible(false)
    this.cutArrow = new LineLayer(this.stage, PALETTE.ink, true)
    this.faults = new LineLayer(this.stage, PALETTE.ink, true)
  }

  #plate: Group | null = null
  showPlate(widthMm: number, depthMm: number): void {
    if (this.#plate) this.stage.scene.remove(this.#plate)
    this.#plate = plateLines(widthMm, depthMm)
    this.stage.scene.add(this.#plate)
    this.stage.invalidate()
  }

  /** Shows another model; null takes it away. */
  setModel(loaded: { mesh: Mesh; normals: Float32Array } | null): void {
    this.model?.dispose()
    this.model = loaded ? new ModelLayer(this.stage, loaded.mesh, loaded.normals) : null
  }

  setStand(stand: Stand): void {
    this.model?.setStand(stand)
  }

  /** Centre of the model and a radius for rings as wide as its widest side, so that they stay in sight with it. */
  ringFrame(): [Vector3, number] {
    const box = this.model?.box() ?? new Box3(), size = box.getSize(new Vector3())
    return [box.getCenter(new Vector3()), Math.max(size.x, size.y, size.z) * 0.5 + 3]
  }

  showRings(pose: Pose, visible: boolean): void {
    if (!this.model) return
    this.rings.set(...this.ringFrame(), pose)
    this.rings.setVisible(visible)
  }

  /** Frames the whole part, with its rings where those are shown, from one of the standard views. */
  frame(view: number, withRings: boolean, animate: boolean): void {
    if (!this.model) return
    const box = this.model.box().union(new Box3(new Vector3(-4, -4, 0), new Vector3(4, 4, 1)))
    if (withRings) {
      const [center, r] = this.ringFrame()
      box.union(new Box3(center.clone().subScalar(r * 0.8), center.clone().addScalar(r * 0.8)))
    }
    this.stage.frame(box, STANDARD_VIEWS[view].from, view === 0 ? 1.06 : 1.1, animate)
  }

  /** Brings the whole plate into view, with what stands on it, from above its front. @param beside how far things reach, mm */
  framePlate(widthMm: number, depthMm: number, beside: readonly { readonly min: readonly [number, number]; readonly max: readonly [number, number] }[], animate: boolean): void {
    const box = new Box3(new Vector3(-widthMm / 2, -depthMm / 2, 0), new Vector3(widthMm / 2, depthMm / 2, this.model ? Math.max(5, this.model.box().max.z * 0.6) : 5))
    for (const { min, max } of beside) box.expandByPoint(new Vector3(min[0], min[1], 0)).expandByPoint(new Vector3(max[0], max[1], 0))
    this.stage.frame(box, FROM_ABOVE_FRONT, 1.02, animate)
  }

  /** A picture of the part with its stilts, for the list of jobs. */
  async portrait(width: number, height: number): Promise<Blob | null> {
    return this.model && this.stage.snapshot(this.model.box(), STANDARD_VIEWS[0].from, width, height)
  }

  /** A picture of the part with what stands under it, in the proportions of the view and from where it is looked at now. */
  async pictureNow(width: number): Promise<Blob | null> {
    if (!this.model) return null
    const box = this.model.box(), { width: w, height: h } = this.stage.renderer.domElement
    box.expandByPoint(new Vector3(box.min.x, box.min.y, 0))
    return this.stage.snapshot(box, this.stage.lookedFrom(), width, Math.round((width * h) / Math.max(1, w)))
  }

  dispose(): void {
    this.model?.dispose()
    this.stage.dispose()
  }
}
