import type { NextFunction, Request, Response } from 'express'
import type { Problem } from '@oak-stilts/core/contract'
import { codeOf, DatabaseBusy, DiskFull } from '../database/open'

/** An answer that is an error: a problem document (RFC 9457) whose detail is a sentence for the person. */
export class ProblemError extends Error {
  readonly problem: Problem
  constructor(status: number, code: string, title: string, detail: string) {
    super(detail)
    this.problem = { type: `about:blank#${code}`, title, status, detail, code }
  }
}

export function notFound(): ProblemError {
  return new ProblemError(404, 'not-found', 'Not found', 'There is no such job. It may have been deleted in another tab.')
}

/** The last handler: turns whatever was thrown into a problem document. */
export function problemHandler(log: (error: unknown) => void) {
  return (error: unknown, _request: Request, response: Response, next: NextFunction): void => {
    if (response.headersSent) {
      next(error)
      return
    }
    const problem = known(error) ?? unexpected(error, log)
    response.status(problem.status).type('application/problem+json').send(JSON.stringify(problem))
  }
}

function unexpected(error: unknown, log: (error: unknown) => void): Problem {
  log(error)
  return new ProblemError(500, 'failed', 'Failed', 'The server failed at this and should not have. Nothing was changed.').problem
}

/** What the request or the machine is to blame for. */
function known(error: unknown): Problem | null {
  if (error instanceof ProblemError) return error.problem
  if (error instanceof DatabaseBusy) return new ProblemError(503, 'busy', 'Busy', error.message).problem
  if (error instanceof DiskFull || codeOf(error) === 'ENOSPC') return new ProblemError(507, 'disk-full', 'Disk full', new DiskFull().message).problem
  const { type, status } = error as { type?: string; status?: number }
  if (typeof status !== 'number' || status < 400 || status > 499) return null
  const [code, title, sentence] = BAD_REQUESTS[type ?? ''] ?? (error instanceof URIError ? BAD_REQUESTS.address : BAD_REQUESTS.other)
  return new ProblemError(status, code, title, sentence).problem
}

/** Refusals of the framework, by its own names for them. */
const BAD_REQUESTS: Record<string, readonly [string, string, string]> = {
  'entity.too.large': ['too-large', 'Too large', 'What was sent is too large.'],
  'entity.parse.failed': ['bad-json', 'Bad request', 'What was sent is not valid JSON.'],
  'charset.unsupported': ['charset', 'Unsupported', 'What was sent is in a character set that is not known here. Send it as UTF-8.'],
  'encoding.unsupported': ['encoding', 'Unsupported', 'What was sent is packed in a way that is not known here. Send it as it is.'],
  'request.aborted': ['aborted', 'Aborted', 'The connection ended before everything had arrived.'],
  address: ['address', 'Bad request', 'This address is not well formed.'],
  other: ['bad-request', 'Bad request', 'What was sent cannot be read.'],
}
