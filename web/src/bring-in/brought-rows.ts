import { newId, pixelMmOf, type BroughtIn, type Copy, type Job, type Part } from '@oak-stilts/core/contract'
import { freePlace, type FlatPoint } from '@oak-stilts/core/plate'
import { shapedSize, shapeOf } from '@oak-stilts/core/pose'
import { api } from '../api/client'

type Box = NonNullable<Parameters<typeof freePlace>[1]>[number]

const boxAt = ([x, y]: FlatPoint, [width, depth]: readonly number[]): Box => ({ min: [x - width / 2, y - depth / 2], max: [x + width / 2, y + depth / 2] })

const sizeOf = (part: BroughtIn['part'] | undefined): readonly number[] => (part ? shapedSize(part.source.summary.sizeMm, shapeOf(part.recipe)) : [0, 0])

/** What the file's own arrangement of parts takes across and along, mm, as long as nothing is tilted. */
export function sizeOfBrought(brought: readonly BroughtIn[]): FlatPoint {
  const boxes = brought.flatMap(b => b.places.map(at => boxAt(at, sizeOf(b.part))))
  const span = (c: 0 | 1): number => 2 * Math.max(...boxes.flatMap(b => [b.max[c], -b.min[c]]))
  return [span(0), span(1)]
}

/** Rows for what a file holds, in the file's own arrangement about a place on the plate. */
export function rowsOfBrought(brought: readonly BroughtIn[], [x, y]: FlatPoint, pixelMm: number): { parts: Part[]; copies: Copy[] } {
  const pixels = (mm: number): number => Math.round(mm / pixelMm) || 0
  const parts = brought.map(({ part }): Part => ({ ...part, id: newId() }))
  const copies = brought.flatMap(({ places }, i) => places.map((at): Copy => ({ id: newId(), part: parts[i].id, turnDeg: 0, xPixels: pixels(x + at[0]), yPixels: pixels(y + at[1]) })))
  return { parts, copies }
}

/** Puts what was brought in into a job that nobody has open; gives the job as it is then. @throws ApiError */
export async function addToJob(job: Job, brought: readonly BroughtIn[]): Promise<Job> {
  const pixelMm = pixelMmOf(job.printer)
  const taken = job.copies.map(c => boxAt([c.xPixels * pixelMm, c.yPixels * pixelMm], sizeOf(job.parts.find(p => p.id === c.part))))
  const put = rowsOfBrought(brought, freePlace(sizeOfBrought(brought), taken, job.printer) ?? [0, 0], pixelMm)
  const revision = await api.edit(job.id, { batch: crypto.randomUUID(), baseRevision: job.revision, edits: [{ step: newId(), way: 'do', label: 'add a part', put }] })
  return { ...job, revision, parts: [...job.parts, ...put.parts], copies: [...job.copies, ...put.copies] }
}
