/** Face marks: what the faces of a part are worth, told by the triangles of its file, so that they outlast every pose, scale and mirror. */
export { facesOf, runsOf, runsOnMesh } from './runs'
export { areasByWorth, codeOf, OFF_LIMITS, PLAIN, PRIZED, SPARE, worthOfFaces, worthsOf } from './worths'
