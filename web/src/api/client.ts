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
  /** A file of any kind in the place of a JSON body. */
  readonly file?: Blob;
  /** The revision or version that a change was made for. */
  readonly ifMatch?: string | number;
  /** Goes on although the page is left. */
  readonly keepalive?: boolean;
}

/**
 * Asks the server. The type says what this address answers with. Throws an ApiProblem when the
 * server refuses, does not answer, or something else answers in its place.
 */
export async function ask<T>(
  path: string,
  { method = 'GET', body, csv, file, ifMatch, keepalive = false }: Ask = {},
): Promise<T> {
  const response = await sent(path, {
    method,
    keepalive,
    headers: {
      ...(body !== undefined && { 'content-type': 'application/json' }),
      ...(csv !== undefined && { 'content-type': 'text/csv' }),
      ...(file !== undefined && { 'content-type': 'application/octet-stream' }),
      ...(ifMatch !== undefined && { 'if-match': `"${ifMatch}"` }),
    },
    ...(body !== undefined && { body: JSON.stringify(body) }),
    ...(csv !== undefined && { body: csv }),
    ...(file !== undefined && { body: file }),
  });
  const answer = readAnswer(await response.text());
  if (response.ok && 'json' in answer) return answer.json as T;
  throw new ApiProblem(problemOf(response, answer));
}

/** Asks the server for a file. Throws an ApiProblem as `ask` does. */
export async function askForFile(path: string, body: unknown): Promise<Blob> {
  const response = await sent(path, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  if (response.ok) return response.blob();
  throw new ApiProblem(problemOf(response, readAnswer(await response.text())));
}

function sent(path: string, request: RequestInit): Promise<Response> {
  return fetch(`/api${path}`, request).catch((): never => {
    throw new ApiProblem({
      status: 0,
      title: 'No answer',
      detail: 'The server does not answer. Is it running?',
    });
  });
}

/** What an answer holds: JSON, nothing, or text that is none. */
type Answer = { readonly json: unknown } | { readonly text: string };

function readAnswer(text: string): Answer {
  if (text === '') return { json: undefined };
  try {
    return { json: JSON.parse(text) as unknown };
  } catch {
    // A page of something between us and the server, that is down or wants a sign-in of its own.
    return { text };
  }
}

/** Returns the problem that an answer tells of; where it tells of none, what can be said of it. */
function problemOf({ status, statusText }: Response, answer: Answer): ProblemView {
  if ('json' in answer && isProblem(answer.json)) return answer.json;
  const title = `Answered ${status}${statusText === '' ? '' : ` ${statusText}`}`;
  return {
    status,
    title,
    detail: `Something between this page and the server answered ${status} with what is no answer of ours. Try again; if it stays, tell whoever runs the server.`,
  };
}

function isProblem(json: unknown): json is ProblemView {
  return typeof json === 'object' && json !== null && 'detail' in json && typeof json.detail === 'string';
}

/** Returns the sentence to show for whatever went wrong. */
export function sentenceOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
