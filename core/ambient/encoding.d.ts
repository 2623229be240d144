// The little that core needs of what page, worker and Node all have, so that it is checked without any of them.

declare class TextDecoder {
  constructor(label?: string, options?: { fatal?: boolean; ignoreBOM?: boolean })
  decode(input?: ArrayBuffer | ArrayBufferView, options?: { stream?: boolean }): string
}
declare class TextEncoder {
  encode(input?: string): Uint8Array<ArrayBuffer>
}
