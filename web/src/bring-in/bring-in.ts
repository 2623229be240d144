import { shallowRef, type ShallowRef } from 'vue'
import { FILE_LIMIT_BYTES, MODEL_FORMATS } from '@oak-stilts/core/mesh'
import { ApiError, type Sending } from '../api/client'

/** What a file chooser offers. */
export const ACCEPTED = MODEL_FORMATS.map(f => `.${f}`).join(',')

export interface Refused {
  readonly name: string
  readonly sentence: string
}
/** The file that is being brought in, and how many there are. */
export interface Bringing {
  readonly name: string
  readonly number: number
  readonly count: number
  readonly now: Sending
}
export interface BringIn {
  readonly bringing: ShallowRef<Bringing | null>
  readonly refused: ShallowRef<readonly Refused[]>
  /** Sends files one after the other; gives what came of each that could be taken. What is refused is said of each file. */
  run<T>(files: readonly File[], send: (file: File, options: { progress: (now: Sending) => void; signal: AbortSignal }) => Promise<T>): Promise<T[]>
  /** Ends the file under way, and all that would follow. */
  cancel(): void
}

export function createBringIn(): BringIn {
  const bringing = shallowRef<Bringing | null>(null), refused = shallowRef<readonly Refused[]>([])
  let ending: AbortController | null = null
  return {
    bringing, refused,
    async run(files, send) {
      if (ending) return []
      const own = ending = new AbortController()
      refused.value = []
      const taken = []
      try {
        for (const [i, file] of files.entries()) {
          if (own.signal.aborted) break
          const tell = (now: Sending): void => void (bringing.value = { name: file.name, number: i + 1, count: files.length, now })
          tell({ stage: 'sending', share: 0 })
          try {
            checkSize(file)
            taken.push(await send(file, { progress: tell, signal: own.signal }))
          } catch (error) {
            if (!(error instanceof ApiError && error.code === 'cancelled')) refused.value = [...refused.value, { name: file.name, sentence: (error as Error).message }]
          }
        }
      } finally {
        bringing.value = null
        ending = null
      }
      return taken
    },
    cancel: () => ending?.abort(),
  }
}

/** @throws ApiError for what need not be sent to be refused */
function checkSize({ size }: File): void {
  if (size === 0) throw new ApiError('empty', 'This file is empty. Export the model again from the program that made it.')
  if (size > FILE_LIMIT_BYTES) throw new ApiError('too-large', `This file has ${Math.round(size / 1048576)} MB; at most ${FILE_LIMIT_BYTES / 1048576} MB can be read. Reduce the number of triangles and export it again.`)
}

const STAGES: Readonly<Record<Sending['stage'], string>> = { sending: 'Sending', waiting: 'Waiting to read', reading: 'Reading', preparing: 'Checking the mesh of', storing: 'Storing' }

/** How far it is, in words: "Reading heron.obj, 40 % (2 of 3)". */
export function progressText({ name, number, count, now: { stage, share } }: Bringing): string {
  const far = stage === 'sending' || stage === 'reading' ? `, ${Math.round(share * 100)} %` : ''
  return `${STAGES[stage]} ${name}${far}${count > 1 ? ` (${number} of ${count})` : ''}`
}
