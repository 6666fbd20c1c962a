import type { ProblemView } from '@vast-knot/core';

/** A request that the server answered with a problem, or that got no answer. */
export class ApiProblem extends Error {
  constructor(readonly problem: ProblemView) {
    super(problem.detail);
  }
}

interface Ask {
  readonly method?: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE';
  readonly body?: unknown;
  /** A file in the place of a JSON body. */
  readonly csv?: string;
  /** The revision or version that a change was made for. */
  readonly ifMatch?: string | number;
  /** Goes on although the page is left. */
  readonly keepalive?: boolean;
}

/** Asks the server. The type says what this address answers with. @throws ApiProblem */
export async function ask<T>(
  path: string,
  { method = 'GET', body, csv, ifMatch, keepalive = false }: Ask = {},
): Promise<T> {
  const response = await fetch(`/api${path}`, {
    method,
    keepalive,
    headers: {
      ...(body !== undefined && { 'content-type': 'application/json' }),
      ...(csv !== undefined && { 'content-type': 'text/csv' }),
      ...(ifMatch !== undefined && { 'if-match': `"${ifMatch}"` }),
    },
    ...(body !== undefined && { body: JSON.stringify(body) }),
    ...(csv !== undefined && { body: csv }),
  }).catch((): never => {
    throw new ApiProblem({
      status: 0,
      title: 'No answer',
      detail: 'The server does not answer. Is it running?',
    });
  });
  const text = await response.text();
  const json: unknown = text === '' ? undefined : JSON.parse(text);
  if (response.ok) return json as T;
  throw new ApiProblem(json as ProblemView);
}

/** The sentence to show for whatever went wrong. */
export function sentenceOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
