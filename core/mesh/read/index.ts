/** Model files: read by their contents, a piece at a time, into triangle meshes. */
export { sourceOfBytes, sourceOfFile, type ByteSource } from './byte-source'
export { FILE_LIMIT_BYTES, MODEL_FORMATS, UNIT_MM, wholeOf, type ModelFile, type ModelFormat, type ModelNote, type ModelObject, type ReadOptions, type Unit } from './model-file'
export { Package } from './package'
export { readModel } from './read-model'
