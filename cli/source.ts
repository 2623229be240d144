import type { Job, JobFile, Mark, Part, PlanBeam, PlanNode } from '@oak-stilts/core/contract'
import { pixelMmOf } from '@oak-stilts/core/contract'
import { readJobFile } from '@oak-stilts/core/job-file'
import { readModel, wholeOf, type Mesh } from '@oak-stilts/core/mesh'
import { UsageError, type Options } from './arguments'
import { read, withFile } from './files'

/** What a command works on: a model as its file has it, and what a job knows of it. */
export interface Source {
  readonly mesh: Mesh
  /** Null where it is a file alone. */
  readonly of: PartOfJob | null
}
export interface PartOfJob {
  readonly job: JobFile
  readonly part: Part
  /** How its first copy is turned on the plate, degrees. */
  readonly turnDeg: number
  readonly nodes: readonly PlanNode[]
  readonly beams: readonly PlanBeam[]
  readonly marks: readonly Mark[]
}

/** The model that a command is about. @throws MeshError, UsageError */
export async function sourceOf({ file, job, part }: Pick<Options, 'file' | 'job' | 'part'>): Promise<Source> {
  if (!job) return { mesh: wholeOf(await read(file as string)), of: null }
  return withJob(job, part, async (of, bytes) => {
    const { objects } = await readModel(await bytes()), object = objects[of.part.source.object]
    if (!object) throw new UsageError(`The part “${of.part.name}” is not in the file that it comes from.`)
    return { mesh: object.mesh, of }
  })
}

/** Face marks of a part of a job, for a file that has the same triangles. @throws MeshError, UsageError */
export function marksOf(job: string, part: string | null, triangles: number): Promise<readonly Mark[]> {
  return withJob(job, part, async (of, bytes) => {
    const { objects } = await readModel(await bytes()), own = objects[of.part.source.object]
    if (own?.mesh.triangles.length !== 3 * triangles) throw new UsageError(`The marks of “${of.part.name}” belong to a file of ${((own?.mesh.triangles.length ?? 0) / 3).toLocaleString('en')} triangles; this one has ${triangles.toLocaleString('en')}.`)
    return of.marks
  })
}

/** What a job file holds. @throws MeshError, UsageError */
export function jobNamed(path: string): Promise<JobFile> {
  return withFile(path, source => readJobFile(source, found => {
    if (!found) throw new UsageError(`${path} holds no job. Export the whole job as 3MF and name that file.`)
    return Promise.resolve(found.job)
  }))
}

function withJob<T>(path: string, name: string | null, work: (of: PartOfJob, bytes: () => Promise<Uint8Array>) => Promise<T>): Promise<T> {
  return withFile(path, source => readJobFile(source, async found => {
    if (!found) throw new UsageError(`${path} holds no job. Export the whole job as 3MF and name that file.`)
    const { job } = found, parts = name === null ? job.parts : job.parts.filter(p => p.name === name)
    if (parts.length !== 1) throw new UsageError(`${parts.length === 0 ? `There is no part “${name ?? ''}” in this job` : 'This job has several parts'}. Name one with --part: ${job.parts.map(p => `“${p.name}”`).join(', ')}.`)
    const [part] = parts, mine = <R extends { readonly part: string }>(rows: readonly R[]): R[] => rows.filter(r => r.part === part.id)
    const pieces: Uint8Array[] = []
    return work({ job, part, turnDeg: mine(job.copies)[0]?.turnDeg ?? 0, nodes: mine(job.nodes), beams: mine(job.beams), marks: mine(job.marks) }, async () => {
      await found.extract(part.source.fileHash as string, bytes => pieces.push(bytes.slice()))
      return Buffer.concat(pieces)
    })
  }))
}

/** Options with what a job says where the command line says nothing: its layers, its printer's pixel, its limits, the pose of the part. */
export function withJobsOwn(options: Options, { of }: Source): Options {
  if (!of) return options
  const { given } = options, job: Pick<Job, 'layerMm' | 'printer' | 'settings' | 'resin'> = of.job, { tiltXDeg, tiltYDeg, liftMm, zero } = of.part.pose
  return {
    ...options,
    layerMm: given.has('layer') ? options.layerMm : job.layerMm, pixelMm: given.has('pixel') ? options.pixelMm : pixelMmOf(job.printer),
    webMm: given.has('web') ? options.webMm : job.resin.webMm,
    settings: { ...job.settings, ...Object.fromEntries(SETTINGS.filter(([option]) => given.has(option)).map(([, name]) => [name, options.settings[name]])) },
    pose: options.poseGiven ? options.pose : { tiltXDeg, tiltYDeg, liftMm, turnDeg: of.turnDeg, ...(zero && { zero }) },
  }
}
const SETTINGS = [['flap', 'flapMm'], ['tip-hold', 'tipHoldMm'], ['span', 'spanMm'], ['slope', 'slopeDeg'], ['vent', 'ventMm']] as const
