import { DoubleSide, FrontSide, Mesh, MeshLambertMaterial, type BufferGeometry } from 'three'
import type { Mesh as TriangleMesh } from '@oak-stilts/core/mesh'
import type { Stand } from '@oak-stilts/core/pose'
import { PALETTE } from '../styles/palette'
import { shadedFaces, takeAway } from './lone-mesh'
import { matrixOf, type Stage } from './stage'

/** What belongs to a part and is not of it now: the inside that it would be hollowed by, seen through its skin; or, faintly, what it was before a cut. */
export class InnerLayer {
  readonly #stage: Stage
  #mesh: Mesh<BufferGeometry, MeshLambertMaterial> | null = null

  constructor(stage: Stage) {
    this.#stage = stage
  }
  set(inner: TriangleMesh | null, stand: Stand | null, faint = false): void {
    this.dispose()
    if (inner && stand) {
      this.#mesh = new Mesh(shadedFaces(inner), new MeshLambertMaterial({ color: faint ? PALETTE.stone : PALETTE.accent, side: faint ? FrontSide : DoubleSide, clippingPlanes: [this.#stage.section, this.#stage.floor], ...(faint && { transparent: true, opacity: 0.3, depthWrite: false }) }))
      this.#mesh.matrixAutoUpdate = false
      this.#mesh.matrix.copy(matrixOf(stand))
      this.#stage.stand.add(this.#mesh)
    }
    this.#stage.invalidate()
  }
  dispose(): void {
    takeAway(this.#mesh)
    this.#mesh = null
  }
}
