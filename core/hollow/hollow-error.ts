export type HollowErrorCode = 'not-closed' | 'too-thin' | 'coarse' | 'overlapping'

/** Why a part could not be hollowed; the message is a sentence that says what helps. */
export class HollowError extends Error {
  readonly code: HollowErrorCode
  constructor(code: HollowErrorCode, message: string) {
    super(message)
    this.name = 'HollowError'
    this.code = code
  }
}
