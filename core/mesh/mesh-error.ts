/** Why a mesh file or a mesh could not be used. */
export type MeshErrorCode = 'empty' | 'cut-short' | 'not-stl' | 'not-finite' | 'too-large' | 'no-solid' | 'too-big-to-scan'

/** A mesh that cannot be used; its message is a sentence that says what is wrong and what to do. */
export class MeshError extends Error {
  readonly code: MeshErrorCode
  constructor(code: MeshErrorCode, message: string) {
    super(message)
    this.name = 'MeshError'
    this.code = code
  }
}
