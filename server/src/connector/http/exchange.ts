import { request as send, type Dispatcher } from 'undici';
import { isJsonObject, parseJson, printJson, WorkspaceError, type Json, type Problem } from '@vast-knot/core';
import type { ConnectorParts } from '../connector';
import type { Gate, Passage } from '../gate';
import { refusedUrl } from '../outbound';
import type { HttpConnection } from './httpConnection';
import { fill } from './template';

/** What a system answered. */
export interface Answer {
  readonly status: number;
  readonly body: unknown;
}

/** What is asked of a system. */
export interface Asked {
  readonly method: Dispatcher.HttpMethod;
  /** Below the base address, with its query. */
  readonly path: string;
  readonly body?: unknown;
  readonly headers?: Readonly<Record<string, string>>;
}

/** How often a request is made to a system that answers each time that it wants to be asked later. */
const mostRepeats = 30;
/** One that wants to be left alone for longer is asked by a later try. */
const longestRepeatMs = 10_000;

/** The largest answer that is read, in bytes. */
const largestAnswer = 32 * 1024 * 1024;

/** Sends requests to one system, signed in, and says in our words what went wrong. */
export class Exchange {
  private readonly gate: Gate;

  constructor(
    private readonly connection: Pick<HttpConnection, 'baseUrl' | 'auth' | 'limits'>,
    private readonly parts: ConnectorParts,
  ) {
    const { requestsAtOnce, requestsPerSecond, patienceSeconds } = connection.limits ?? {};
    this.gate = parts.gateWith({
      ...(requestsAtOnce !== undefined && { atOnce: requestsAtOnce }),
      ...(requestsPerSecond !== undefined && { perSecond: requestsPerSecond }),
      ...(patienceSeconds !== undefined && { patienceMs: patienceSeconds * 1000 }),
    });
  }

  /** Sends a request. Throws a WorkspaceError when no answer comes, or the address may not be reached. */
  async ask({ method, path, body, headers = {} }: Asked): Promise<Answer> {
    const { baseUrl, auth } = this.connection;
    const { token, dispatcher, allowedOutbound } = this.parts;
    const url = new URL(baseUrl.replace(/\/$/, '') + path);
    const refused = refusedUrl(url, allowedOutbound);
    if (refused) throw this.failure('refused', `cannot be reached: ${refused}`);
    try {
      return await this.insist(async (signal) => {
        const response = await send(url, {
          method,
          dispatcher,
          headers: {
            accept: 'application/json',
            [auth.header]: fill(auth.value, { token }),
            ...(body !== undefined && { 'content-type': 'application/json' }),
            ...headers,
          },
          ...(body !== undefined && { body: printJson(body) }),
          signal,
        });
        const { statusCode: status, headers: told } = response;
        return { status, headers: told, body: await this.read(response.body) };
      });
    } catch (thrown) {
      if (thrown instanceof WorkspaceError) throw thrown;
      const why = thrown instanceof Error ? thrown.message || thrown.name : String(thrown);
      throw this.failure('unavailable', `does not answer (${why}).`);
    }
  }

  /** Sends a request, and again where the system asked to be asked later: then it has done nothing. */
  private async insist<T extends Passage>(send: (signal: AbortSignal) => Promise<T>): Promise<T> {
    for (let tries = 1; ; tries++) {
      const answer = await this.gate.through(send);
      const { waits } = this.gate;
      const soon = !waits || waits.until - Date.now() <= longestRepeatMs;
      if (answer.status !== 429 || tries === mostRepeats || !soon) return answer;
    }
  }

  /** Returns the body of an answer that says yes. Throws a WorkspaceError for any other. */
  succeeded(answer: Answer): unknown {
    if (answer.status >= 200 && answer.status < 300) return answer.body;
    throw new WorkspaceError(this.problemOf(answer));
  }

  /** Returns what an answer says that went wrong. */
  problemOf({ status, body }: Answer): Problem {
    const told = isJsonObject(body) ? (body['detail'] ?? body['title']) : undefined;
    const detail = typeof told === 'string' ? told : `it answered ${status}`;
    const message = `${this.parts.system.name}: ${detail}`;
    if (status === 404) return { code: 'not found', message, retry: false };
    if (status === 409 || status === 412) return { code: 'changed in between', message, retry: true };
    if (status === 429 || status >= 500)
      return { code: 'unavailable', message: `${message} (${status})`, retry: true, ...this.waits() };
    return { code: 'refused', message, retry: false };
  }

  /** Returns the failure of an answer that is not as the connection describes. */
  misunderstood(what: string): WorkspaceError {
    return this.failure('refused', `is not as its connection describes: ${what}.`);
  }

  /** Returns a failure that names the system. Only what is not available now is tried again. */
  failure(code: Problem['code'], what: string): WorkspaceError {
    const message = `${this.parts.system.name} ${what}`;
    const retry = code === 'unavailable';
    return new WorkspaceError({ code, message, retry, ...(retry && this.waits()) });
  }

  /** Where the system is left alone for a while, that is no failed try of whoever asked; it may have been asked. */
  private waits(): Pick<Problem, 'waits'> {
    const { waits } = this.gate;
    return waits ? { waits: { ...waits, sent: true } } : {};
  }

  private async read(body: AsyncIterable<Buffer>): Promise<Json | { readonly detail: string }> {
    const chunks: Buffer[] = [];
    let size = 0;
    for await (const chunk of body) {
      size += chunk.length;
      if (size > largestAnswer) throw this.failure('too many', 'sent an answer that is too large.');
      chunks.push(chunk);
    }
    const text = Buffer.concat(chunks).toString('utf8');
    return text === '' ? null : jsonOr(text);
  }
}

function jsonOr(text: string): Json | { readonly detail: string } {
  try {
    return parseJson(text);
  } catch {
    // An answer that is not JSON (a proxy's error page) still has a status that tells enough.
    return { detail: text.slice(0, 200) };
  }
}
