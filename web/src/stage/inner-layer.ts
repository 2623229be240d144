import { BufferAttribute, BufferGeometry, DoubleSide, FrontSide, Mesh, MeshLambertMaterial } from 'three'
import type { Mesh as TriangleMesh } from '@oak-stilts/core/mesh'
import type { Stand } from '@oak-stilts/core/pose'
import { PALETTE } from '../styles/palette'
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
      const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(inner.positions, 3)).setIndex(new BufferAttribute(inner.triangles, 1))
      geometry.computeVertexNormals()
      this.#mesh = new Mesh(geometry, new MeshLambertMaterial({ color: faint ? PALETTE.stone : PALETTE.accent, side: faint ? FrontSide : DoubleSide, clippingPlanes: [this.#stage.section, this.#stage.floor], ...(faint && { transparent: true, opacity: 0.3, depthWrite: false }) }))
      this.#mesh.matrixAutoUpdate = false
      this.#mesh.matrix.copy(matrixOf(stand))
      this.#stage.stand.add(this.#mesh)
    }
    this.#stage.invalidate()
  }
  dispose(): void {
    this.#mesh?.removeFromParent()
    this.#mesh?.geometry.dispose()
    this.#mesh?.material.dispose()
    this.#mesh = null
  }
}
