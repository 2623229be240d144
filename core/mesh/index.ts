/** Triangle meshes: the structure of arrays, readers and writers, checking and measuring. */
export { boundsOf, centerOf, joinMeshes, sizeOf, triangleArea, volumeOf, type Box, type Mesh, type Vec3 } from './triangle-mesh'
export { MeshError, type MeshErrorCode } from './mesh-error'
export { readStl, STL_LIMIT_BYTES } from './stl-read'
export { writeStl } from './stl-write'
export { write3mf, type NamedMesh } from './threemf-write'
export { weldVertices } from './weld'
export { prepareMesh, type MeshReport, type PreparedMesh } from './prepare'
export { drawPicture, type Drawn, type Picture } from './picture'
