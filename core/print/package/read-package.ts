import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex } from '@noble/hashes/utils.js'
import { PACKAGE_FORMAT, PackageManifestSchema, type PackageManifest } from '../../contract'
import { MeshError, Package, type ByteSource } from '../../mesh'
import { PackageError } from './package-error'
import { checkSum, COMMENT_PREFIX, MANIFEST_FILE } from './write-package'

const MOST_MANIFEST = 50_000_000
const PIECE = 1 << 20
const COMMENT_BYTES = COMMENT_PREFIX.length + 64

/** A package that is open. */
export interface OpenPackage {
  readonly manifest: PackageManifest
  /** The picture of layer k, PNG. @throws PackageError `altered` where it is not what the manifest says */
  layer(k: number): Uint8Array
  /** The print from above, PNG; null where there is none. */
  picture(): Uint8Array | null
}

/**
 * Works with a package of layers: its manifest is read, and every file it names is there.
 * @throws PackageError where it is none, is cut short or says what cannot be
 */
export async function openPackage<T>(source: ByteSource, work: (found: OpenPackage) => Promise<T>): Promise<T> {
  const head = source.read(0, 4)
  if (head.length < 4 || head[0] !== 0x50 || head[1] !== 0x4b) throw new PackageError('no-package', 'This is no package of layers: it is no zip file.')
  try {
    return await Package.open(source, async found => {
      if (!found.has(`/${MANIFEST_FILE}`)) throw new PackageError('no-package', `This is no package of layers: it has no ${MANIFEST_FILE}.`)
      if (found.sizeOf(`/${MANIFEST_FILE}`) > MOST_MANIFEST) throw new PackageError('manifest', 'What the package says of itself is far too long.')
      const manifest = manifestOf(await bytesOf(found, MANIFEST_FILE)), checked = (file: string, sum: string, what: string): Uint8Array => {
        const place = found.placeOf(`/${file}`.toLowerCase()), bytes = place && source.read(place.at, place.bytes).slice()
        if (!bytes || bytes.length < place.bytes) throw new PackageError('altered', `${what} cannot be read: it is not stored as it is.`)
        if (checkSum(bytes) !== sum) throw new PackageError('altered', `${what} is not what was sliced: its check sum is ${checkSum(bytes)}, not ${sum}.`)
        return bytes
      }
      const missing = manifest.layers.findIndex(l => !found.has(`/${l.file}`))
      if (missing >= 0) throw new PackageError('incomplete', `The picture of layer ${missing + 1} of ${manifest.layers.length} is missing from the package.`)
      const { layers, picture } = manifest
      return work({
        manifest,
        layer: k => checked(layers[k].file, layers[k].crc32, `The picture of layer ${k + 1}`),
        picture: () => (picture ? checked(picture.file, picture.crc32, 'The picture of the plate') : null),
      })
    })
  } catch (error) {
    if (!(error instanceof MeshError)) throw error
    throw error.code === 'cut-short' ? new PackageError('cut-short', 'The package is cut short: the directory at its end is missing. Send or copy it again.') : new PackageError('altered', `The package cannot be read: ${error.message}`)
  }
}

function manifestOf(bytes: Uint8Array): PackageManifest {
  let json: unknown
  try {
    json = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes))
  } catch {
    throw new PackageError('manifest', `The ${MANIFEST_FILE} of the package is no JSON.`)
  }
  const { format, version } = (json ?? {}) as { format?: unknown; version?: unknown }
  if (format !== PACKAGE_FORMAT) throw new PackageError('no-package', `This is no package of layers of ours: its ${MANIFEST_FILE} does not say “${PACKAGE_FORMAT}”.`)
  if (typeof version === 'number' && version > 1) throw new PackageError('newer', 'This package was written by a newer version of Oak Stilts. Use that one.')
  const parsed = PackageManifestSchema.safeParse(json)
  if (!parsed.success) throw new PackageError('manifest', `The ${MANIFEST_FILE} of the package says what cannot be: ${parsed.error.issues[0].path.join('.')} ${parsed.error.issues[0].message}.`)
  return parsed.data
}

async function bytesOf(found: Package, path: string): Promise<Uint8Array> {
  const out = new Uint8Array(found.sizeOf(`/${path}`))
  let at = 0
  await found.unpack(`/${path}`.toLowerCase(), bytes => {
    out.set(bytes, at)
    at += bytes.length
  })
  return out
}

/** Whether a package is as it was written, to the last byte: the SHA-256 that it ends with is that of all before. Yields the share that is done. @throws PackageError `cut-short` or `altered` */
export function* checkDigest(source: ByteSource): Generator<number, string, void> {
  const end = source.size - COMMENT_BYTES, comment = end > 0 ? new TextDecoder().decode(source.read(end, COMMENT_BYTES)) : ''
  if (!comment.startsWith(COMMENT_PREFIX)) throw new PackageError('cut-short', 'The package is cut short, or is none of ours: it does not end with its digest.')
  const digest = sha256.create()
  for (let at = 0; at < end; at += PIECE) {
    digest.update(source.read(at, Math.min(PIECE, end - at)))
    yield at / end
  }
  const found = bytesToHex(digest.digest())
  if (found !== comment.slice(COMMENT_PREFIX.length)) throw new PackageError('altered', 'The package was altered after it was written: its digest is another one than it ends with.')
  return found
}
