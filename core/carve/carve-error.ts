export type CarveErrorCode = 'not-sound' | 'misses' | 'nothing-left' | 'holds-together' | 'no-room'

/** Why something could not be cut out of a part; the message is a sentence that says what helps. */
export class CarveError extends Error {
  readonly code: CarveErrorCode
  constructor(code: CarveErrorCode, message: string) {
    super(message)
    this.name = 'CarveError'
    this.code = code
  }
}
