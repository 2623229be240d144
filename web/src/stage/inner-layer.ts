import { BufferAttribute, BufferGeometry, DoubleSide, Mesh, MeshLambertMaterial } from 'three'
import type { Mesh as TriangleMesh } from '@oak-stilts/core/mesh'
import type { Stand } from '@oak-stilts/core/pose'
import { PALETTE } from '../styles/palette'
import { matrixOf, type Stage } from './stage'

/** The inside that a part would be hollowed by, seen through its skin. */
export class InnerLayer {
  readonly #stage: Stage
  #mesh: Mesh<BufferGeometry, MeshLambertMaterial> | null = null

  constructor(stage: Stage) {
    this.#stage = stage
  }
  set(inner: TriangleMesh | null, stand: Stand | null): void {
    this.dispose()
    if (inner && stand) {
      const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(inner.positions, 3)).setIndex(new BufferAttribute(inner.triangles, 1))
      geometry.computeVertexNormals()
      this.#mesh = new Mesh(geometry, new MeshLambertMaterial({ color: PALETTE.accent, side: DoubleSide, clippingPlanes: [this.#stage.section, this.#stage.floor] }))
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
