import { BufferAttribute, BufferGeometry, Mesh, MeshLambertMaterial } from 'three'
import type { Mesh as TriangleMesh } from '@oak-stilts/core/mesh'
import type { Look } from '../stores/bench'
import { PALETTE } from '../styles/palette'
import type { Stage } from './stage'

const FAINT = 0.2

/** What the stilts of the part stand on. */
export class RaftLayer {
  readonly #stage: Stage
  readonly #mesh: Mesh<BufferGeometry, MeshLambertMaterial>

  constructor(stage: Stage) {
    this.#stage = stage
    this.#mesh = new Mesh(new BufferGeometry(), new MeshLambertMaterial({ color: PALETTE.besideStilt, flatShading: true, clippingPlanes: [stage.section, stage.floor] }))
    this.#mesh.visible = false
    stage.stand.add(this.#mesh)
  }

  /** Shows a raft; null for none. */
  set(raft: TriangleMesh | null, look: Look): void {
    this.#mesh.geometry.dispose()
    this.#mesh.geometry = new BufferGeometry()
    this.#mesh.visible = raft !== null && look !== 'hidden'
    if (raft) {
      this.#mesh.geometry.setAttribute('position', new BufferAttribute(raft.positions, 3))
      this.#mesh.geometry.setIndex(new BufferAttribute(raft.triangles, 1))
    }
    const { material } = this.#mesh, transparent = look === 'faint'
    material.opacity = transparent ? FAINT : 1
    if (material.transparent !== transparent) {
      material.transparent = transparent
      material.depthWrite = !transparent
      material.needsUpdate = true
    }
    this.#stage.invalidate()
  }
}
