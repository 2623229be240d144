import { BufferAttribute, BufferGeometry, Mesh, MeshLambertMaterial } from 'three'
import type { Mesh as TriangleMesh } from '@oak-stilts/core/mesh'
import { PALETTE } from '../styles/palette'
import type { Stage } from './stage'

/** What the pictures of a package make, standing behind the plate, as far back as the plate is deep. */
export class RebuiltLayer {
  readonly #stage: Stage
  #mesh: Mesh<BufferGeometry, MeshLambertMaterial> | null = null

  constructor(stage: Stage) {
    this.#stage = stage
  }

  /** @param backMm how far behind where it is printed it is shown */
  set(rebuilt: TriangleMesh | null, backMm: number): void {
    this.dispose()
    if (rebuilt) {
      const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(rebuilt.positions, 3)).setIndex(new BufferAttribute(rebuilt.triangles, 1))
      geometry.computeVertexNormals()
      this.#mesh = new Mesh(geometry, new MeshLambertMaterial({ color: PALETTE.stone }))
      this.#mesh.position.y = backMm
      this.#stage.scene.add(this.#mesh)
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
