import { ERR_EOCDR_LOCATOR_ZIP64_NOT_FOUND, ERR_EOCDR_NOT_FOUND, Reader, Writer, ZipReader, type FileEntry } from '@zip.js/zip.js'
import { MeshError } from '../mesh-error'
import type { ByteSource } from './byte-source'
import { cutShort, damaged } from './refusals'
import { XmlStream } from './xml-stream'

/** A package of layers has one for each, and a few more. */
const MOST_ENTRIES = 20100
/** The head of an entry before its name, and what it begins with (.ZIP File Format Specification, 4.3.7). */
const LOCAL_HEADER = 30, LOCAL_SIGNATURE = 0x04034b50
/** What a part may unpack to: so many bytes, and so many for each that it takes packed. */
const MOST_UNPACKED = 8e9, MOST_RATIO = 300, UNPACKED_ANYWAY = 1 << 20

class SourceReader extends Reader<ByteSource> {
  readonly #source: ByteSource
  constructor(source: ByteSource) {
    super(source)
    this.#source = source
    this.size = source.size
  }
  override readUint8Array(at: number, length: number): Promise<Uint8Array> {
    return Promise.resolve(this.#source.read(at, length).slice())
  }
}

/** Hands on what is unpacked as it comes. */
class Tap extends Writer<null> {
  readonly #take: (bytes: Uint8Array) => void
  constructor(take: (bytes: Uint8Array) => void) {
    super()
    this.#take = take
  }
  override writeUint8Array(bytes: Uint8Array): Promise<void> {
    // what is thrown here ends the unpacking
    return new Promise(resolve => resolve(this.#take(bytes)))
  }
  override getData(): Promise<null> {
    return Promise.resolve(null)
  }
}

/** Paths in a package know no difference between small and capital letters. */
export const pathOf = (name: string): string => `/${name.replace(/^\/+/, '')}`.toLowerCase()

/**
 * A zip package of parts that refer to each other, read by its directory: nothing of it is held as a whole.
 * Source: Open Packaging Conventions (ECMA-376, part 2).
 */
export class Package {
  readonly #files: ReadonlyMap<string, FileEntry>

  readonly #source: ByteSource

  private constructor(files: ReadonlyMap<string, FileEntry>, source: ByteSource) {
    this.#files = files
    this.#source = source
  }

  /** Opens a package for as long as some work with it takes. @throws MeshError `cut-short` or `damaged`, and what the work throws of it */
  static async open<T>(source: ByteSource, work: (found: Package) => Promise<T>): Promise<T> {
    const zip = new ZipReader(new SourceReader(source), { checkSignature: true, useWebWorkers: false })
    try {
      const files = await told(async () => {
        const found = new Map<string, FileEntry>()
        for await (const entry of zip.getEntriesGenerator()) {
          if (found.size >= MOST_ENTRIES) throw damaged(`its package has over ${MOST_ENTRIES} entries`)
          if (!entry.directory) found.set(pathOf(entry.filename), entry)
        }
        return found
      })
      return await work(new Package(files, source))
    } finally {
      await zip.close()
    }
  }

  get paths(): string[] {
    return [...this.#files.keys()]
  }

  has(path: string): boolean {
    return this.#files.has(path)
  }

  /** Bytes that a part unpacks to. */
  sizeOf(path: string): number {
    return this.#files.get(path)?.uncompressedSize ?? 0
  }

  /** Where the bytes of a part lie in the package, of one that is stored as it is; null of any other. */
  placeOf(path: string): { readonly at: number; readonly bytes: number } | null {
    const file = this.#files.get(path)
    if (!file || file.compressionMethod !== 0 || file.encrypted) return null
    const head = this.#source.read(file.offset, LOCAL_HEADER), view = new DataView(head.buffer, head.byteOffset, head.byteLength)
    return head.length < LOCAL_HEADER || view.getUint32(0, true) !== LOCAL_SIGNATURE ? null : { at: file.offset + LOCAL_HEADER + view.getUint16(26, true) + view.getUint16(28, true), bytes: file.uncompressedSize }
  }

  /** Hands on the bytes of a part as they are unpacked. @throws MeshError `damaged` or `unsupported` */
  async unpack(path: string, take: (bytes: Uint8Array) => void, progress?: (bytes: number) => void): Promise<void> {
    const file = this.#files.get(path)
    if (!file) throw damaged(`it lacks its part ${path}`)
    const { uncompressedSize: size, compressedSize: packed, filename } = file
    if (file.encrypted) throw new MeshError('unsupported', 'This 3MF is locked with a password. Export it again without one.')
    if (size > MOST_UNPACKED || size > MOST_RATIO * packed + UNPACKED_ANYWAY) throw damaged(`${filename} would unpack to ${Math.round(size / 1e6)} MB, ${Math.round(size / Math.max(1, packed))} times its size`)
    let done = 0, last = 0
    await told(() => file.getData(new Tap(bytes => {
      done += bytes.length
      if (done > size) throw damaged(`${filename} unpacks to more than it says`)
      take(bytes)
      if (done - last > size / 100) progress?.(last = done)
    })))
  }

  /** The first part that the package as a whole relates to in some way; empty where there is none. */
  async related(type: string): Promise<string> {
    let target = ''
    if (!this.has('/_rels/.rels')) return ''
    const xml = new XmlStream(tag => {
      if (tag.local === 'Relationship' && tag.attributes.Type?.value === type) target ||= tag.attributes.Target?.value ?? ''
    })
    await this.unpack('/_rels/.rels', bytes => xml.write(bytes))
    await told(() => Promise.resolve(xml.close()))
    return target && pathOf(target)
  }
}

/** Some work with what is in a package, whose errors are the fault of that. What the system, or a mesh, has against it is told as it is. @throws MeshError `cut-short` or `damaged` */
export async function told<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work()
  } catch (error) {
    const { message, code } = error as Error & { code?: unknown }
    if (error instanceof MeshError || error instanceof RangeError || (typeof code === 'string' && /^E[A-Z]+$/.test(code))) throw error
    throw message === ERR_EOCDR_NOT_FOUND || message === ERR_EOCDR_LOCATOR_ZIP64_NOT_FOUND ? cutShort('the directory at the end of its package is missing') : damaged(`its package or XML cannot be read (${message.split('\n')[0].slice(0, 120)})`)
  }
}
