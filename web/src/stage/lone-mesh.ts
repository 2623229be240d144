import { BufferAttribute, BufferGeometry, type Material, type Mesh } from 'three'
import type { Mesh as TriangleMesh } from '@oak-stilts/core/mesh'

/** The faces of a mesh, shaded smoothly. */
export function shadedFaces({ positions, triangles }: TriangleMesh): BufferGeometry {
  const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(positions, 3)).setIndex(new BufferAttribute(triangles, 1))
  geometry.computeVertexNormals()
  return geometry
}

/** Takes a mesh that shares nothing with others off the stage, and frees what it holds. */
export function takeAway(mesh: Mesh<BufferGeometry, Material> | null): void {
  mesh?.removeFromParent()
  mesh?.geometry.dispose()
  mesh?.material.dispose()
}
