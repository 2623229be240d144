import { Writer, ZipWriter } from '@zip.js/zip.js'
import { contentOf, JOB_FILE_FORMAT, JOB_RELATION, listsOf, pixelMmOf, type Job, type JobFile, type Part, type PlanBeam, type PlanNode } from '../contract'
import { escapeXml, joinMeshes, singleText, type Mesh } from '../mesh'
import { after, plateOf, shiftOf, standOf, type RigidMotion } from '../pose'
import { raftOf, solidsOfPart } from '../raft'
import { PlanIndex } from '../stilts'

/** A job with all that its file is made of. */
export interface JobToWrite {
  readonly job: Job
  /** The mesh of a part, as its recipe makes it. */
  meshOf(part: Part): Mesh
  /** The files that its parts come from, each once; `read` gives its bytes in pieces. */
  readonly files: readonly { readonly hash: string; read(): Iterable<Uint8Array> }[]
  /** A picture of the job, PNG. */
  readonly picture: Uint8Array | null
}

const MODEL = '/3D/3dmodel.model', JOB = '/Metadata/job.json', PICTURE = '/Metadata/thumbnail.png'
const CONTENT_TYPES = `<?xml version="1.0" encoding="UTF-8"?>
<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/><Default Extension="json" ContentType="application/json"/><Default Extension="png" ContentType="image/png"/><Default Extension="source" ContentType="application/octet-stream"/></Types>`

const CORE = 'http://schemas.microsoft.com/3dmanufacturing/core/2015/02', BEAMS = 'http://schemas.microsoft.com/3dmanufacturing/beamlattice/2017/02'

/**
 * Writes a whole job as one 3MF package, a piece at a time: every part and its stilts as meshes where they stand on the plate, for any
 * reader; the stilts as a beam lattice too, for those that know these, joints and radii as they are; and, as an attachment that others
 * leave alone, the job itself with the files that its parts come from.
 * Source: 3MF Core Specification 1.3; Beam Lattice Extension 1.2; Open Packaging Conventions.
 */
export async function writeJobFile(what: JobToWrite, write: (bytes: Uint8Array) => void): Promise<void> {
  const { job, files, picture } = what
  const zip = new ZipWriter(new Sink(write), { useWebWorkers: false, level: 6 })
  const add = (path: string, chunks: Iterable<Uint8Array>): Promise<unknown> => zip.add(path.slice(1), streamOf(chunks))
  const relations = [[MODEL, 'http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel'], [JOB, JOB_RELATION], ...(picture ? [[PICTURE, 'http://schemas.openxmlformats.org/package/2006/relationships/metadata/thumbnail']] : [])]
  await add('/[Content_Types].xml', encoded([CONTENT_TYPES]))
  await add('/_rels/.rels', encoded([`<?xml version="1.0" encoding="UTF-8"?>\n<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">${relations.map(([target, type], i) => `<Relationship Target="${target}" Id="rel${i}" Type="${type}"/>`).join('')}</Relationships>`]))
  const file: JobFile = { format: JOB_FILE_FORMAT, version: 1, ...fileContent(job), files: files.map(f => ({ hash: f.hash, path: pathOfSource(f.hash) })) }
  await add(JOB, encoded([JSON.stringify(file)]))
  if (picture) await add(PICTURE, [picture])
  await add(MODEL, encoded(modelOf(what)))
  for (const f of files) await add(pathOfSource(f.hash), f.read())
  await zip.close()
}

const pathOfSource = (hash: string): string => `/Metadata/sources/${hash}.source`

/** What of a job goes into its file: fields and rows. */
function fileContent(job: Job): Omit<JobFile, 'format' | 'version' | 'files'> {
  const { fields, tables } = contentOf(job)
  return { ...fields, ...listsOf(tables) }
}

class Sink extends Writer<null> {
  readonly #write: (bytes: Uint8Array) => void
  constructor(write: (bytes: Uint8Array) => void) {
    super()
    this.#write = write
  }
  override writeUint8Array(bytes: Uint8Array): Promise<void> {
    return new Promise(resolve => resolve(this.#write(bytes)))
  }
  override getData(): Promise<null> {
    return Promise.resolve(null)
  }
}

function streamOf(chunks: Iterable<Uint8Array>): ReadableStream<Uint8Array> {
  const all = chunks[Symbol.iterator]()
  return new ReadableStream({
    pull(controller) {
      const next = all.next()
      if (next.done) controller.close()
      else controller.enqueue(next.value)
    },
  })
}

/** Letters that go out together. */
const PIECE = 1 << 16
function* encoded(texts: Iterable<string>): Generator<Uint8Array, void, void> {
  const encoder = new TextEncoder()
  let waiting: string[] = [], length = 0
  for (const text of texts) {
    waiting.push(text)
    length += text.length
    if (length < PIECE) continue
    yield encoder.encode(waiting.join(''))
    waiting = []
    length = 0
  }
  yield encoder.encode(waiting.join(''))
}

/** The model part: for every part an object of its mesh, one of its stilts, and one of both as it stands; every copy of it built. */
function* modelOf({ job, meshOf }: JobToWrite): Generator<string, void, void> {
  const { tables } = contentOf(job), index = new PlanIndex(tables.nodes, tables.beams), pixelMm = pixelMmOf(job.printer)
  yield `<?xml version="1.0" encoding="UTF-8"?>\n<model unit="millimeter" xml:lang="en-US" xmlns="${CORE}" xmlns:b="${BEAMS}"><metadata name="Title">${escapeXml(job.name)}</metadata><metadata name="Application">Oak Stilts</metadata><resources>`
  const standing = new Map<string, number>()
  let id = 0
  for (const part of job.parts) {
    const mesh = meshOf(part), stand = standOf(mesh.positions, part.pose, pixelMm)
    const own = ++id
    yield* objectOf(own, part.name, mesh, null)
    const stilts = stiltsOf(part, index)
    const held = stilts && ++id
    if (stilts && held) yield* objectOf(held, `${part.name}, stilts`, stilts.solids, stilts)
    yield `<object id="${++id}" type="model" name="${escapeXml(part.name)}"><components><component objectid="${own}" transform="${transformText(stand)}"/>${held ? `<component objectid="${held}"/>` : ''}</components></object>`
    standing.set(part.id, id)
  }
  yield '</resources><build>'
  // the core specification wants what is built where numbers are not below zero
  const corner: RigidMotion = [1, 0, 0, job.printer.widthMm / 2, 0, 1, 0, job.printer.depthMm / 2, 0, 0, 1, 0]
  for (const copy of job.copies) yield `<item objectid="${standing.get(copy.part) ?? 0}" transform="${transformText(after(corner, plateOf(shiftOf(copy, pixelMm))))}"/>`
  yield '</build></model>'
}

/** Stilts of a part: their solids, and the joints and beams that they are. */
interface StiltsToWrite {
  readonly solids: Mesh
  readonly nodes: readonly PlanNode[]
  readonly beams: readonly PlanBeam[]
}

function stiltsOf(part: Part, index: PlanIndex): StiltsToWrite | null {
  const beams = [...index.beams.values()].filter(b => b.part === part.id)
  const solids = joinMeshes(solidsOfPart(index, part.id, raftOf(part)))
  return beams.length > 0 && solids.triangles.length > 0 ? { solids, nodes: [...index.nodes.values()].filter(n => n.part === part.id), beams } : null
}

function* objectOf(id: number, name: string, { positions: p, triangles: t }: Mesh, stilts: StiltsToWrite | null): Generator<string, void, void> {
  yield `<object id="${id}" type="model" name="${escapeXml(name)}"><mesh><vertices>`
  for (let i = 0; i < p.length; i += 3) yield `<vertex x="${singleText(p[i])}" y="${singleText(p[i + 1])}" z="${singleText(p[i + 2])}"/>`
  // joints as they are, after the vertices of the solids
  for (const { at: [x, y, z] } of stilts?.nodes ?? []) yield `<vertex x="${x}" y="${y}" z="${z}"/>`
  yield '</vertices><triangles>'
  for (let i = 0; i < t.length; i += 3) if (t[i] !== t[i + 1] && t[i + 1] !== t[i + 2] && t[i] !== t[i + 2]) yield `<triangle v1="${t[i]}" v2="${t[i + 1]}" v3="${t[i + 2]}"/>`
  yield '</triangles>'
  if (stilts) yield* latticeOf(stilts, p.length / 3)
  yield '</mesh></object>'
}

function* latticeOf({ nodes, beams }: StiltsToWrite, firstVertex: number): Generator<string, void, void> {
  const vertexOf = new Map(nodes.map((n, i) => [n.id, firstVertex + i])), radius = Math.min(...beams.map(b => b.fromDiameterMm)) / 2
  yield `<b:beamlattice minlength="0.0001" radius="${radius}" cap="sphere"><b:beams>`
  for (const b of beams) yield `<b:beam v1="${vertexOf.get(b.from) ?? 0}" v2="${vertexOf.get(b.to) ?? 0}" r1="${b.fromDiameterMm / 2}" r2="${b.toDiameterMm / 2}"/>`
  yield '</b:beams></b:beamlattice>'
}

/** A motion as the format writes it: four rows of three, for points as rows. */
function transformText(m: RigidMotion): string {
  return [m[0], m[4], m[8], m[1], m[5], m[9], m[2], m[6], m[10], m[3], m[7], m[11]].join(' ')
}

