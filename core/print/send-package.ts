import { PrinterStateSchema, ProblemSchema, UploadSchema, type PrinterState, type Upload } from '../contract'

/** A package as it is sent: its bytes are asked for piece by piece. */
export interface PackageToSend {
  readonly name: string
  readonly bytes: number
  readonly sha256: string
  piece(at: number, length: number): Promise<unknown>
}

/** How a printer is asked. What is thrown here is a connection that broke. */
export type PrinterLink = (method: 'GET' | 'POST' | 'PATCH', path: string, send?: { readonly json?: unknown; readonly piece?: unknown; readonly headers?: Readonly<Record<string, string>> }) => Promise<{ readonly status: number; readonly body: unknown }>

/** A printer that does not take what it is sent, with its own sentence; `lost` where it does not answer any more. */
export class PrinterSaysNo extends Error {
  constructor(readonly code: string, message: string) {
    super(message)
    this.name = 'PrinterSaysNo'
  }
}

/** What sending goes by. */
export interface Sending {
  readonly ask: PrinterLink
  wait(ms: number): Promise<void>
  /** How many bytes have arrived. */
  told(arrived: number): void
  /** Asked before each step; what it throws ends the sending. */
  goesOn(): void
}

const PIECE = 1 << 20
/** Pauses before it is tried again after a broken connection, ms. */
const PAUSES_MS = [200, 500, 1000, 2000, 4000]

/**
 * Sends a package to a printer in pieces and has it loaded. After a broken connection it asks how much has arrived and goes on from there; what
 * an earlier time has brought over is not sent again.
 * @throws PrinterSaysNo; what `goesOn` throws
 */
export async function sendPackage(what: PackageToSend, { ask, wait, told, goesOn }: Sending): Promise<PrinterState> {
  /** Asks again for as long as the connection breaks. */
  const insisting = async <T>(work: () => Promise<T>): Promise<T> => {
    for (let tries = 0; ; tries++) {
      goesOn()
      try {
        return await work()
      } catch (error) {
        if (error instanceof PrinterSaysNo) throw error
        if (tries >= PAUSES_MS.length) throw new PrinterSaysNo('lost', 'The printer does not answer any more. What has arrived stays there: sending again goes on from it.')
        await wait(PAUSES_MS[tries])
      }
    }
  }
  const answer = ({ status, body }: { readonly status: number; readonly body: unknown }): unknown => {
    if (status >= 200 && status < 300) return body
    const problem = ProblemSchema.safeParse(body)
    // a link that could not reach it says so as a gateway does
    if (status === 502 || status === 504) throw new Error('The connection broke.')
    throw problem.success ? new PrinterSaysNo(problem.data.code, problem.data.detail) : new PrinterSaysNo('failed', `The printer answered with status ${status}.`)
  }
  let upload: Upload = UploadSchema.parse(answer(await insisting(() => ask('POST', '/uploads', { json: { name: what.name, bytes: what.bytes, sha256: what.sha256 } }).then(a => (a.status === 502 || a.status === 504 ? Promise.reject(new Error('The connection broke.')) : a)))))
  told(upload.offset)
  const { id } = upload
  while (upload.offset < what.bytes) {
    const at = upload.offset
    upload = await insisting(async () => {
      // where it broke, some of the last piece may have arrived
      const now = at === upload.offset ? upload : UploadSchema.parse(answer(await ask('GET', `/uploads/${id}`)))
      try {
        return UploadSchema.parse(answer(await ask('PATCH', `/uploads/${id}`, { piece: await what.piece(now.offset, Math.min(PIECE, what.bytes - now.offset)), headers: { 'Upload-Offset': String(now.offset) } })))
      } catch (error) {
        if (error instanceof PrinterSaysNo && error.code !== 'offset') throw error
        upload = { ...upload, offset: -1 }
        throw error instanceof PrinterSaysNo ? new Error(error.message) : error
      }
    })
    told(upload.offset)
  }
  return PrinterStateSchema.parse(answer(await insisting(async () => {
    const loaded = await ask('POST', `/uploads/${id}/load`)
    if (loaded.status === 502 || loaded.status === 504) throw new Error('The connection broke.')
    return loaded
  })))
}
