import type { NextFunction, Request, Response } from 'express'
import type { Problem } from '@oak-stilts/core/contract'

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
    let problem: Problem
    if (error instanceof ProblemError) problem = error.problem
    else if ((error as { type?: string }).type === 'entity.too.large') problem = new ProblemError(413, 'too-large', 'Too large', 'What was sent is too large.').problem
    else if ((error as { type?: string }).type === 'entity.parse.failed') problem = new ProblemError(400, 'bad-json', 'Bad request', 'What was sent is not valid JSON.').problem
    else {
      log(error)
      problem = new ProblemError(500, 'failed', 'Failed', 'The server failed at this and should not have. Nothing was changed.').problem
    }
    response.status(problem.status).type('application/problem+json').send(JSON.stringify(problem))
  }
}
