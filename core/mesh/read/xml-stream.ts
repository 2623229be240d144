import { SaxesParser, type SaxesTagNS } from 'saxes'
import { damaged } from './refusals'

const MOST_DEPTH = 64

/** XML as a stream of bytes, handed on tag by tag. @throws Error where it is not well-formed */
export class XmlStream {
  readonly #parser = new SaxesParser({ xmlns: true, position: false })
  #decoder: TextDecoder | null = null
  #depth = 0

  constructor(open: (tag: SaxesTagNS) => void, close?: (tag: SaxesTagNS) => void) {
    const parser = this.#parser
    parser.on('doctype', () => {
      throw damaged('its XML declares a document type, which a package must not')
    })
    parser.on('opentag', tag => {
      if (++this.#depth > MOST_DEPTH) throw damaged('its XML is nested too deeply')
      open(tag)
    })
    parser.on('closetag', tag => {
      this.#depth--
      close?.(tag)
    })
    parser.on('error', error => {
      throw damaged(`its XML is not well-formed (${error.message.slice(0, 80)})`)
    })
  }

  write(bytes: Uint8Array): void {
    // the first two bytes of UTF-16 are its mark
    this.#decoder ??= new TextDecoder(bytes[0] === 0xff && bytes[1] === 0xfe ? 'utf-16le' : bytes[0] === 0xfe && bytes[1] === 0xff ? 'utf-16be' : 'utf-8', { fatal: true })
    this.#parser.write(this.#decoder.decode(bytes, { stream: true }))
  }

  close(): void {
    this.#parser.write(this.#decoder?.decode() ?? '')
    this.#parser.close()
  }
}
