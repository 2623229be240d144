import { BufferAttribute, BufferGeometry, Group, Mesh, MeshLambertMaterial } from 'three'
import type { Mesh as TriangleMesh } from '@oak-stilts/core/mesh'
import { after, plateOf, type PlateShift, type RigidMotion, type Stand } from '@oak-stilts/core/pose'
import { PALETTE } from '../styles/palette'
import { matrixOf, type Stage } from './stage'

/** A copy that stands beside the part on the bench. */
export interface StandingBeside {
  readonly mesh: TriangleMesh
  readonly stand: Stand
  readonly stilts: TriangleMesh
  readonly shift: PlateShift
}

/** What stands on the plate beside the part on the bench: paler, and not in its way. */
export class PlateLayer {
  readonly #stage: Stage
  readonly #group = new Group()
  readonly #geometries = new WeakMap<TriangleMesh, BufferGeometry>()
  readonly #model: MeshLambertMaterial
  readonly #stilts: MeshLambertMaterial

  constructor(stage: Stage) {
    this.#stage = stage
    const clippingPlanes = [stage.section, stage.floor]
    this.#model = new MeshLambertMaterial({ color: PALETTE.beside, flatShading: true, clippingPlanes })
    this.#stilts = new MeshLambertMaterial({ color: PALETTE.besideStilt, flatShading: true, clippingPlanes })
    stage.scene.add(this.#group)
  }

  set(others: readonly StandingBeside[]): void {
    this.#group.clear()
    for (const { mesh, stand, stilts, shift } of others) {
      const plate = plateOf(shift)
      this.#add(mesh, this.#model, after(plate, stand))
      if (stilts.triangles.length > 0) this.#add(stilts, this.#stilts, plate)
    }
    this.#stage.invalidate()
  }

  #add(mesh: TriangleMesh, material: MeshLambertMaterial, motion: RigidMotion): void {
    let geometry = this.#geometries.get(mesh)
    if (!geometry) {
      geometry = new BufferGeometry()
      geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
      geometry.setIndex(new BufferAttribute(mesh.triangles, 1))
      this.#geometries.set(mesh, geometry)
    }
    const drawn = new Mesh(geometry, material)
    drawn.matrixAutoUpdate = false
    drawn.matrix.copy(matrixOf(motion))
    drawn.matrixWorldNeedsUpdate = true
    this.#group.add(drawn)
  }
}
