import { MeshError } from '../mesh-error'
import { sourceOfBytes, watched, type ByteSource } from './byte-source'
import { FILE_LIMIT_BYTES, type ModelFile, type ModelFormat, type ReadOptions } from './model-file'
import { readObj } from './obj'
import { readPly } from './ply'
import { couldBeBinaryStl, readStl, stlLooksLikeText } from './stl'
import { readThreemf } from './threemf'

/** Files that people bring in by mistake, by what they begin with. */
const OTHERS: readonly (readonly [begins: readonly string[], sentence: string])[] = [
  [['ISO-10303-21'], 'This is a STEP file: it holds exact surfaces, not triangles. Export the model as STL or 3MF from the program that made it.'],
  [['glTF'], 'This is a glTF file. Export the model as STL, OBJ, PLY or 3MF.'],
  [['%PDF', '\x89PNG', 'GIF8', '\xff\xd8\xff'], 'This is a picture or a document, not a model. Choose an STL, OBJ, PLY or 3MF file.'],
  [['\x1f\x8b', '7z\xbc\xaf', 'Rar!'], 'This file is packed. Unpack it and bring in the model itself.'],
  [['\xff\xfe', '\xfe\xff'], 'This text is written in UTF-16, which model files are not. Save it as UTF-8, or export the model again.'],
]
const PACKAGES = ['PK\x03\x04', 'PK\x05\x06']
const LOOKED_AT = 4096

/** What a file is by its contents, whatever its name. @throws MeshError `empty`, `too-large` or `not-a-model` */
export function formatOf(source: ByteSource): ModelFormat {
  if (source.size === 0) throw new MeshError('empty', 'This file is empty. Export the model again from the program that made it.')
  if (source.size > FILE_LIMIT_BYTES) {
    throw new MeshError('too-large', `This file has ${Math.round(source.size / 1048576)} MB; at most ${FILE_LIMIT_BYTES / 1048576} MB can be read. Reduce the number of triangles and export it again.`)
  }
  const head = source.read(0, LOOKED_AT).slice(), text = new TextDecoder('latin1').decode(head)
  for (const [begins, sentence] of OTHERS) if (begins.some(b => text.startsWith(b))) throw new MeshError('not-a-model', sentence)
  if (PACKAGES.some(b => text.startsWith(b))) return '3mf'
  if (/^ply\s/.test(text)) return 'ply'
  const body = text.startsWith('\xef\xbb\xbf') ? head.subarray(3) : head
  if (stlLooksLikeText(body, source.size - (head.length - body.length))) return 'stl'
  const plain = /^[\t\n\f\r\x20-\x7e\x80-\xff]*$/.test(text)
  if (plain && /(^|[\r\n])[ \t]*(v|vn|vt|f|o|g|s|usemtl|mtllib)[ \t]+\S/.test(new TextDecoder('latin1').decode(body))) return 'obj'
  if (couldBeBinaryStl(source)) return 'stl'
  // comments may go on for longer than what was looked at
  if (plain && /^\s*#/.test(text)) return 'obj'
  throw new MeshError('not-a-model', 'This is not an STL, OBJ, PLY or 3MF file, or its contents are damaged. Choose another file, or export the model again.')
}

/**
 * Reads a model file of any format that is known, by its contents. Files are read a piece at a time.
 * @throws MeshError with a code and a sentence for everything that can be wrong with a file
 */
export async function readModel(file: ByteSource | Uint8Array, options: ReadOptions = {}): Promise<ModelFile> {
  const source = file instanceof Uint8Array ? sourceOfBytes(file) : file
  const format = formatOf(source)
  if (format === '3mf') return readThreemf(source, options)
  const reads = options.progress ? watched(source, options.progress) : source
  return { stl: readStl, obj: readObj, ply: readPly }[format](reads, options)
}
