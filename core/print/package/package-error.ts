/** What can be wrong with a package of layers. */
export type PackageErrorCode = 'no-package' | 'cut-short' | 'altered' | 'manifest' | 'newer' | 'incomplete' | 'picture' | 'too-large'

/** A package that cannot be written or taken, with a sentence that says why. */
export class PackageError extends Error {
  readonly code: PackageErrorCode
  constructor(code: PackageErrorCode, message: string) {
    super(message)
    this.name = 'PackageError'
    this.code = code
  }
}
