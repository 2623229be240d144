import { JOB_RELATION, JobFileSchema, type JobFile } from '../contract'
import { MeshError, Package, type ByteSource } from '../mesh'

/** A job that was found in a file. */
export interface FoundJob {
  readonly job: JobFile
  /** Hands on the bytes of one of its files. @throws MeshError `damaged` */
  extract(hash: string, take: (bytes: Uint8Array) => void): Promise<void>
  /** Its picture, PNG; null where it has none. */
  picture(): Promise<Uint8Array | null>
}

/** The form that JSON of a job may have at most, bytes. */
const MOST_JSON = 200_000_000
const MOST_PICTURE = 20_000_000
const THUMBNAIL = 'http://schemas.openxmlformats.org/package/2006/relationships/metadata/thumbnail'

/**
 * Works with the whole job that a 3MF package holds beside its meshes; with null where it is an ordinary package, or no package at all.
 * @throws MeshError `damaged` where there is a job in it that cannot be read
 */
export async function readJobFile<T>(source: ByteSource, work: (found: FoundJob | null) => Promise<T>): Promise<T> {
  // what every zip file begins with
  const head = source.read(0, 4)
  if (head.length < 4 || head[0] !== 0x50 || head[1] !== 0x4b) return work(null)
  return Package.open(source, async found => {
    const path = await found.related(JOB_RELATION)
    if (!path) return work(null)
    if (found.sizeOf(path) > MOST_JSON) throw damaged('it is far too long')
    let json: unknown
    try {
      json = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(await bytesOf(found, path)))
    } catch (error) {
      if (error instanceof MeshError) throw error
      throw damaged('it is no JSON')
    }
    const { version } = (json ?? {}) as { version?: unknown }
    if (typeof version === 'number' && version > 1) throw new MeshError('unsupported', 'This job was written by a newer version of Oak Stilts. Open it with that one.')
    const parsed = JobFileSchema.safeParse(json)
    if (!parsed.success) throw damaged(`${parsed.error.issues[0].path.join('.')} ${parsed.error.issues[0].message}`)
    const job = parsed.data, wanted = new Set(job.parts.map(p => p.source.fileHash)), lies = new Map(job.files.map(f => [f.hash, f.path.toLowerCase()]))
    for (const hash of wanted) if (!hash || !found.has(lies.get(hash) ?? '')) throw damaged('a file that one of its parts comes from is missing')
    return work({
      job,
      extract: (hash, take) => found.unpack(lies.get(hash) ?? '', take),
      picture: async () => {
        const picture = await found.related(THUMBNAIL)
        return picture && found.has(picture) && found.sizeOf(picture) < MOST_PICTURE ? bytesOf(found, picture) : null
      },
    })
  })
}

const damaged = (what: string): MeshError => new MeshError('damaged', `This 3MF holds a job that cannot be read: ${what.slice(0, 160)}. Export it again, or bring in its models one by one.`)

async function bytesOf(found: Package, path: string): Promise<Uint8Array> {
  const out = new Uint8Array(found.sizeOf(path))
  let at = 0
  await found.unpack(path, bytes => {
    out.set(bytes, at)
    at += bytes.length
  })
  return out.subarray(0, at)
}
