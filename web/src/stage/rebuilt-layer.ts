import { Mesh, MeshLambertMaterial, type BufferGeometry } from 'three'
import type { Mesh as TriangleMesh } from '@oak-stilts/core/mesh'
import { PALETTE } from '../styles/palette'
import { shadedFaces, takeAway } from './lone-mesh'
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
      this.#mesh = new Mesh(shadedFaces(rebuilt), new MeshLambertMaterial({ color: PALETTE.stone }))
      this.#mesh.position.y = backMm
      this.#stage.scene.add(this.#mesh)
    }
    this.#stage.invalidate()
  }

  dispose(): void {
    takeAway(this.#mesh)
    this.#mesh = null
  }
}
