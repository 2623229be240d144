/** Why a mesh file or a mesh could not be used. */
export type MeshErrorCode = 'empty' | 'cut-short' | 'damaged' | 'not-a-model' | 'unsupported' | 'not-finite' | 'too-large' | 'no-solid' | 'too-big-to-scan'

/** A mesh that cannot be used; its message is a sentence that says what is wrong and what to do. */
export class MeshError extends Error {
  readonly code: MeshErrorCode
  constructor(code: MeshErrorCode, message: string) {
    super(message)
    this.name = 'MeshError'
    this.code = code
  }
}

/** Nothing is written that other programs could not read. @throws MeshError `not-finite` */
export function requireFinite({ positions }: { readonly positions: Float32Array }): void {
  for (let i = 0; i < positions.length; i++) {
    if (!Number.isFinite(positions[i])) throw new MeshError('not-finite', 'Something of this job lies at no place that can be written. Look for stilts that are far off, and delete them.')
  }
}
