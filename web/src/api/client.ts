import { BringingInSchema, BroughtInSchema, EditAnswerSchema, HistorySchema, JobSchema, JobSummarySchema, KitEntrySchema, MeshFaultsSchema, PrinterStateSchema, PrintSchema, ProblemSchema, VersionContentSchema, VersionSchema, type BringingIn, type BroughtIn, type EditBatch, type History, type Job, type JobSummary, type KitEntry, type MeshFaults, type Print, type PrinterOrder, type PrinterState, type Simulation, type Version, type VersionContent } from '@oak-stilts/core/contract'
import type { PrinterLink } from '@oak-stilts/core/print'
import { z } from 'zod'

/** An error of the server in words for the person; `code` is `offline` where it could not be reached. */
export class ApiError extends Error {
  readonly code: string
  /** Of the answer; 0 where there was none. */
  readonly status: number
  constructor(code: string, message: string, status = 0) {
    super(message)
    this.code = code
    this.status = status
  }
}

async function call(path: string, init?: RequestInit): Promise<Response> {
  let response: Response
  try {
    response = await fetch(`/api${path}`, init)
  } catch {
    throw new ApiError('offline', 'The server does not answer. Start it again; nothing on this page is lost.')
  }
  if (response.ok) return response
  const problem = ProblemSchema.safeParse(await response.json().catch(() => null))
  if (problem.success) throw new ApiError(problem.data.code, problem.data.detail, response.status)
  throw new ApiError(response.status >= 500 ? 'offline' : 'failed', `The server answered with status ${response.status}.`, response.status)
}

const json = (body: unknown): RequestInit => ({ method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) })

export const api = {
  async list(): Promise<JobSummary[]> {
    return z.array(JobSummarySchema).parse(await (await call('/jobs')).json())
  },
  async job(id: string): Promise<Job> {
    return JobSchema.parse(await (await call(`/jobs/${id}`)).json())
  },
  async history(id: string): Promise<History> {
    return HistorySchema.parse(await (await call(`/jobs/${id}/history`)).json())
  },
  /** A prepared mesh, by its hash. */
  async mesh(hash: string): Promise<ArrayBuffer> {
    return (await call(`/meshes/${hash}`)).arrayBuffer()
  },
  /** What was found in a mesh, by the hash of that. */
  async faults(hash: string): Promise<MeshFaults> {
    return MeshFaultsSchema.parse(await (await call(`/faults/${hash}`)).json())
  },
  /** Deletes a job; for a day it can be brought back. */
  async remove(id: string): Promise<void> {
    await call(`/jobs/${id}`, { method: 'DELETE' })
  },
  async deleted(): Promise<JobSummary[]> {
    return z.array(JobSummarySchema).parse(await (await call('/jobs/deleted')).json())
  },
  async restore(id: string): Promise<void> {
    await call(`/jobs/${id}/restore`, { method: 'POST' })
  },
  async archive(id: string, archived: boolean): Promise<void> {
    await call(`/jobs/${id}/archived`, { ...json({ archived }), method: 'PUT' })
  },
  /** The print log, newest first; of one job, or of all. */
  async prints(job?: string): Promise<Print[]> {
    return z.array(PrintSchema).parse(await (await call(`/prints${job === undefined ? '' : `?job=${encodeURIComponent(job)}`}`)).json())
  },
  async keepPrint(print: Print): Promise<void> {
    await call(`/prints/${print.id}`, { ...json(print), method: 'PUT' })
  },
  async dropPrint(id: string): Promise<void> {
    await call(`/prints/${id}`, { method: 'DELETE' })
  },
  /** Keeps a photograph of a print; gives its hash. */
  async keepPhoto(id: string, photo: Blob): Promise<string> {
    return z.object({ photo: z.string() }).parse(await (await call(`/prints/${id}/photo`, { method: 'PUT', body: photo, headers: { 'Content-Type': photo.type || 'application/octet-stream' } })).json()).photo
  },
  /** All printers that answer. */
  async printers(): Promise<PrinterState[]> {
    return z.array(PrinterStateSchema).parse(await (await call('/printers')).json())
  },
  /** Starts the simulated printers that ship with this. */
  async simulatePrinters(): Promise<PrinterState[]> {
    return z.array(PrinterStateSchema).parse(await (await call('/printers/simulated', { method: 'POST' })).json())
  },
  async orderPrinter(id: string, order: PrinterOrder): Promise<void> {
    await call(`/printers/${id}/orders`, json({ order }))
  },
  async simulatePrinter(id: string, what: Simulation): Promise<void> {
    await call(`/printers/${id}/simulation`, { ...json(what), method: 'PUT' })
  },
  /** A printer as something that packages are sent to: its refusals come as they are, and a connection that breaks is thrown. */
  printerLink(id: string): PrinterLink {
    return async (method, path, send) => {
      const answer = await fetch(`/api/printers/${id}${path}`, {
        method, headers: { ...(send?.json !== undefined && { 'Content-Type': 'application/json' }), ...(send?.piece !== undefined && { 'Content-Type': 'application/offset+octet-stream' }), ...send?.headers },
        body: send?.json !== undefined ? JSON.stringify(send.json) : (send?.piece as BodyInit | undefined),
      })
      return { status: answer.status, body: (await answer.json().catch(() => null)) as unknown }
    }
  },
  /** Tells of a printer whenever it changes, until that is ended. @param over called where it ends by itself, as when the printer has no power */
  watchPrinter(id: string, told: (state: PrinterState) => void, over: () => void): () => void {
    const events = new EventSource(`/api/printers/${id}/events`)
    events.onmessage = event => {
      const state = PrinterStateSchema.safeParse(JSON.parse(event.data as string))
      if (state.success) told({ ...state.data, id })
    }
    events.onerror = () => {
      if (events.readyState === EventSource.CLOSED) over()
    }
    return () => events.close()
  },
  /** A whole job as one file. */
  async wholeJob(id: string): Promise<Blob> {
    return (await call(`/jobs/${id}/file`)).blob()
  },
  async versions(id: string): Promise<Version[]> {
    return z.array(VersionSchema).parse(await (await call(`/jobs/${id}/versions`)).json())
  },
  async keepVersion(id: string, name: string): Promise<Version> {
    return VersionSchema.parse(await (await call(`/jobs/${id}/versions`, json({ name }))).json())
  },
  async version(id: string, version: string): Promise<VersionContent> {
    return VersionContentSchema.parse(await (await call(`/jobs/${id}/versions/${version}`)).json())
  },
  async dropVersion(id: string, version: string): Promise<void> {
    await call(`/jobs/${id}/versions/${version}`, { method: 'DELETE' })
  },
  async copy(id: string, name: string): Promise<Job> {
    return JobSchema.parse(await (await call(`/jobs/${id}/copy`, json({ name }))).json())
  },
  async edit(id: string, batch: EditBatch): Promise<number> {
    return EditAnswerSchema.parse(await (await call(`/jobs/${id}/edits`, json(batch))).json()).revision
  },
  /** Sends a batch in a request that outlives the page; nobody hears the answer. */
  editLeaving(id: string, batch: EditBatch): void {
    void fetch(`/api/jobs/${id}/edits`, { ...json(batch), keepalive: true }).catch(() => undefined)
  },
  async kit(): Promise<KitEntry[]> {
    return z.array(KitEntrySchema).parse(await (await call('/kit')).json())
  },
  async putKit(entries: readonly KitEntry[]): Promise<void> {
    await call('/kit', { ...json(entries), method: 'PUT' })
  },
  async removeKit(id: string): Promise<void> {
    await call(`/kit/${encodeURIComponent(id)}`, { method: 'DELETE' })
  },
  async picture(id: string, png: Blob): Promise<void> {
    await call(`/jobs/${id}/picture`, { method: 'PUT', headers: { 'Content-Type': 'image/png' }, body: png })
  },
  /** Brings a file in as a new job. */
  async upload(file: File, options: SendOptions): Promise<Job> {
    return JobSchema.parse(await send('/jobs', file, options))
  },
  /** Brings a file in for a job that is there; an edit that puts what it holds makes that parts of the job. */
  async addParts(id: string, file: File, options: SendOptions): Promise<BroughtIn[]> {
    return z.array(BroughtInSchema).parse(await send(`/jobs/${id}/parts`, file, options))
  },
}

/** How far a file has come: on its way to the server, then what the server does with it. */
export type Sending = { readonly stage: 'sending'; readonly share: number } | BringingIn

export interface SendOptions {
  readonly progress?: (now: Sending) => void
  /** Ends it, on the server too. */
  readonly signal?: AbortSignal
}

/** Sends a model; gives what the server answered. @throws ApiError, with the code `cancelled` where it was ended */
function send(path: string, file: File, { progress, signal }: SendOptions): Promise<unknown> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest(), task = crypto.randomUUID()
    let events: EventSource | null = null
    const cancel = (): void => request.abort()
    const over = (): void => {
      events?.close()
      signal?.removeEventListener('abort', cancel)
    }
    request.open('POST', `/api${path}?name=${encodeURIComponent(file.name.slice(0, 200) || 'Model')}&task=${task}`)
    request.setRequestHeader('Content-Type', 'application/octet-stream')
    request.upload.onprogress = event => progress?.({ stage: 'sending', share: event.total ? event.loaded / event.total : 0 })
    request.upload.onload = () => {
      progress?.({ stage: 'waiting', share: 0 })
      // what is not told is no failure: the answer counts
      events = new EventSource(`/api/tasks/${task}`)
      events.onmessage = ({ data }) => {
        const now = BringingInSchema.safeParse(JSON.parse(String(data)))
        if (now.success) progress?.(now.data)
      }
      events.onerror = () => events?.close()
    }
    request.onerror = () => {
      over()
      reject(new ApiError('offline', 'The file could not be sent. Is the server running?'))
    }
    request.onabort = () => {
      over()
      reject(new ApiError('cancelled', 'It was cancelled; nothing was changed.'))
    }
    request.onload = () => {
      over()
      try {
        const body: unknown = JSON.parse(request.responseText)
        if (request.status === 201) resolve(body)
        else {
          const problem = ProblemSchema.parse(body)
          reject(new ApiError(problem.code, problem.detail))
        }
      } catch {
        reject(new ApiError('failed', 'The server gave an answer that cannot be read.'))
      }
    }
    signal?.addEventListener('abort', cancel)
    if (signal?.aborted) cancel()
    else request.send(file)
  })
}
