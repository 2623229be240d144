import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex } from '@noble/hashes/utils.js'
import { Zip, ZipPassThrough } from 'fflate'
import { pixelMmOf, shadesOf, type LayerTimes, type PackagedLayer, type PackageManifest, type Printer, type PrintSettings, type Resin } from '../../contract'
import { crc32 } from '../png/crc32'
import type { SlicedLayer } from '../slice/plate-slicer'
import { growthOf } from '../slice/plate-to-slice'
import { secondsOf } from '../time'
import { PackageError } from './package-error'

/** What a package is of, besides its layers. */
export interface PackageAbout extends Pick<PackageManifest, 'name' | 'job' | 'parts' | 'layerMm'> {
  readonly printer: Printer
  readonly resin: Resin
  readonly printing: PrintSettings
}

export const MANIFEST_FILE = 'manifest.json', PICTURE_FILE = 'plate.png', COMMENT_PREFIX = 'sha256:'
/** The file of a layer, counted from 1 as printers show them. */
export const layerFile = (k: number): string => `layers/${String(k + 1).padStart(5, '0')}.png`

/** A zip without long addresses holds no more, bytes. */
const MOST_BYTES = 0xffffffff - (1 << 24)
/** The same print gives the same package, whenever it is made. */
const MADE = new Date(1980, 0, 1)

/**
 * Writes a package of layers as they come, a piece at a time: nothing of it is held. What it says of itself comes last, and as the comment of
 * the zip the SHA-256 of all before that.
 * Source: .ZIP File Format Specification 6.3.10 (APPNOTE), 4.3.16 for the comment.
 */
export class PackageWriter {
  readonly #about: PackageAbout
  readonly #zip: Zip
  readonly #digest = sha256.create()
  readonly #write: (bytes: Uint8Array) => void
  readonly #layers: PackagedLayer[] = []
  #lit = 0
  #parts = 0
  #rafts = 0
  #picture: PackageManifest['picture'] = null
  #bytes = 0
  #failed: Error | null = null

  constructor(about: PackageAbout, write: (bytes: Uint8Array) => void) {
    this.#about = about
    this.#write = write
    this.#zip = new Zip((error, bytes, last) => {
      if (error) this.#failed = error
      else this.#out(bytes, last)
    })
  }

  #sha256 = ''
  /** Of all bytes of the package, once it is finished. */
  get sha256(): string {
    return this.#sha256
  }

  get layers(): number {
    return this.#layers.length
  }

  /** The next layer up. @throws PackageError `too-large` */
  add({ png, pixels, partPixels, raftPixels }: Omit<SlicedLayer, 'cutPixels'>, times: LayerTimes): void {
    const file = layerFile(this.#layers.length)
    this.#file(file, png)
    this.#layers.push({ file, bytes: png.length, crc32: checkSum(png), litPixels: pixels, ...times })
    this.#lit += pixels
    this.#parts += partPixels
    this.#rafts += raftPixels
  }

  /** The print from above. @throws PackageError `too-large` */
  picture(png: Uint8Array): void {
    this.#file(PICTURE_FILE, png)
    this.#picture = { file: PICTURE_FILE, bytes: png.length, crc32: checkSum(png) }
  }

  /** The end of the package. @returns what it says of itself @throws PackageError `too-large` */
  finish(): PackageManifest {
    const { name, job, parts, printer, resin, layerMm, printing } = this.#about, { widthMm, depthMm, heightMm, pixelsX, pixelsY } = printer
    const mlOf = (pixels: number): number => (Math.max(0, pixels) * pixelMmOf(printer) ** 2 * layerMm) / 1000
    const manifest: PackageManifest = {
      format: 'oak-stilts-layers', version: 1, name, job, parts, printer: { name: printer.name, widthMm, depthMm, heightMm, pixelsX, pixelsY }, resin: { name: resin.name, densityGMl: resin.densityGMl, pricePerKg: resin.pricePerKg },
      layerMm, shades: shadesOf(printing.smoothing), growth: [...growthOf({ printing, resin })], seconds: this.#layers.reduce((sum, l) => sum + secondsOf(l), 0),
      resinMl: { all: mlOf(this.#lit), parts: mlOf(this.#parts), rafts: mlOf(this.#rafts), stilts: mlOf(this.#lit - this.#parts - this.#rafts) }, picture: this.#picture, layers: this.#layers,
    }
    this.#file(MANIFEST_FILE, new TextEncoder().encode(JSON.stringify(manifest)))
    this.#zip.end()
    if (this.#failed) throw this.#failed
    return manifest
  }

  #file(name: string, bytes: Uint8Array): void {
    if (this.#bytes + bytes.length > MOST_BYTES) throw new PackageError('too-large', `The package grows over ${Math.round(MOST_BYTES / 1e9)} GB, more than a zip file holds. Print fewer copies at once, or thicker layers.`)
    const file = new ZipPassThrough(name)
    file.mtime = MADE
    this.#zip.add(file)
    file.push(bytes, true)
    if (this.#failed) throw this.#failed
  }

  #out(bytes: Uint8Array, last: boolean): void {
    this.#bytes += bytes.length
    if (!last) {
      this.#digest.update(bytes)
      this.#write(bytes)
      return
    }
    // the last piece is the directory, which ends with the length of a comment that it does not have yet
    const end = bytes.slice(), long = COMMENT_PREFIX.length + 64
    new DataView(end.buffer).setUint16(end.length - 2, long, true)
    this.#digest.update(end)
    this.#write(end)
    const whole = this.#digest.clone(), comment = new TextEncoder().encode(COMMENT_PREFIX + bytesToHex(this.#digest.digest()))
    this.#write(comment)
    this.#sha256 = bytesToHex(whole.update(comment).digest())
  }
}

export function checkSum(bytes: Uint8Array): string {
  return crc32(bytes).toString(16).padStart(8, '0')
}

/** The file name of a package: what is printed, in which resin, how thick its layers are. */
export function packageName(name: string, resin: string, layerMm: number, extension: string): string {
  const plain = (text: string): string => text.replace(/[^\p{L}\p{N}]+/gu, '-').replace(/^-+|-+$/g, '')
  return `${plain(name) || 'print'}_${plain(resin) || 'resin'}_${layerMm}mm.${extension}`
}
