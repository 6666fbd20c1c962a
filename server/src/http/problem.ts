import type { ErrorRequestHandler, RequestHandler } from 'express';
import type Joi from 'joi';
import { WorkspaceError, type Problem, type ProblemView } from '@vast-knot/core';
import { isDatabaseAway } from '../db/pool';

/** A failure that a request is answered with, as Problem Details (RFC 9457). */
export class HttpProblem extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    readonly detail: string,
    readonly errors?: ProblemView['errors'],
  ) {
    super(detail);
  }

  /** Returns a failure as another thread tells of it. */
  static from({ status, title, detail, errors }: ProblemView): HttpProblem {
    return new HttpProblem(status, title, detail, errors);
  }

  view(): ProblemView & { type: string } {
    const { status, title, detail, errors } = this;
    return { type: 'about:blank', status, title, detail, ...(errors && { errors }) };
  }
}

/** A failure that passes: the sender is asked to try again after so many seconds (RFC 9110, 10.2.3). */
export class TryLater extends HttpProblem {
  constructor(
    readonly seconds: number,
    ...[status, title, detail]: readonly [status: 429 | 503, title: string, detail: string]
  ) {
    super(status, title, detail);
  }
}

export const notFound = (what: string) => new HttpProblem(404, 'Not found', `There is no ${what}.`);

/** Returns outside data that a Joi schema lets through. Throws a 422 that names each wrong place. */
export function parsed<T>(schema: Joi.Schema<T>, data: unknown): T {
  if (data === undefined) {
    const detail = 'Something is missing: send JSON, with the content type application/json.';
    throw new HttpProblem(422, 'Not valid', detail);
  }
  const { error, value } = schema.validate(data, { abortEarly: false, convert: false });
  if (!error) return value as T;
  const errors = error.details.map((detail) => ({ at: detail.path.join('/'), message: detail.message }));
  throw new HttpProblem(422, 'Not valid', `${errors[0]?.message ?? 'The data is not valid'}.`, errors);
}

/** Returns the number in an `If-Match: "7"` header, which changes of shared things must carry. */
export function requiredRevision(header: string | undefined): number {
  const revision = /^"(\d+)"$/.exec(header ?? '')?.[1];
  if (revision === undefined) {
    throw new HttpProblem(428, 'Revision needed', 'Say with If-Match which revision was changed.');
  }
  return Number(revision);
}

export const nothingHere: RequestHandler = (request) => {
  throw new HttpProblem(404, 'Not found', `There is nothing at ${request.path}.`);
};

/** Answers every failure as a problem, or as a page where people read it; only what is nobody's mistake but ours is logged. */
export function answerProblems(
  log: (error: unknown) => void,
  asPage?: (problem: HttpProblem) => string,
): ErrorRequestHandler {
  // Express knows an error handler by its four parameters.
  return (error: unknown, _request, response, next) => {
    if (response.headersSent) {
      next(error);
      return;
    }
    const problem = toProblem(error);
    if (problem.status >= 500 && !(error instanceof HttpProblem)) log(error);
    if (problem instanceof TryLater) response.set('retry-after', String(problem.seconds));
    response.status(problem.status);
    if (asPage) response.type('html').send(asPage(problem));
    else response.type('application/problem+json').json(problem.view());
  };
}

const workspaceStatus: Readonly<Record<Problem['code'], number>> = {
  'not found': 404,
  'changed in between': 412,
  refused: 422,
  unavailable: 502,
  'too many': 502,
};

/** Turns a system's failure into a problem of ours, so that the person reads which system failed and why. */
export function ofWorkspace({ code, message }: Problem): HttpProblem {
  const status = workspaceStatus[code];
  return new HttpProblem(status, status === 502 ? 'System does not answer' : 'Not taken', message);
}

function toProblem(error: unknown): HttpProblem {
  if (error instanceof HttpProblem) return error;
  if (error instanceof WorkspaceError) return ofWorkspace(error.problem);
  if (isDatabaseAway(error)) {
    const detail = 'The database does not answer now. Nothing was lost; try again in a moment.';
    return new TryLater(2, 503, 'Not available', detail);
  }
  const status =
    typeof error === 'object' && error !== null && 'status' in error ? Number(error.status) : 500;
  if (status === 413) return new HttpProblem(413, 'Too large', 'The body is larger than is taken here.');
  if (status >= 400 && status < 500) {
    return new HttpProblem(
      status,
      'Not understood',
      error instanceof Error ? error.message : 'The request is wrong.',
    );
  }
  return new HttpProblem(500, 'Failed', 'Something failed on the server; its log says what.');
}
