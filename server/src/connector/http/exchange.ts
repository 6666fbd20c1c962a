import { request as send, type Dispatcher } from 'undici';
import {
  isJsonObject,
  printJson,
  WorkspaceError,
  type HttpConnection,
  type Problem,
  type WireAnswer,
  type WireRequest,
} from '@vast-knot/core';
import type { ConnectorParts } from '../connector';
import { hidden, type Exchanged } from '../exchanged';
import type { Gate } from '../gate';
import { refusedUrl } from '../outbound';
import { readBody } from './answerBody';
import { singleHeaders } from './singleHeaders';
import { signerOf, type FetchToken, type Signer } from './signIn';

/** How often a request is made to a system that answers each time that it wants to be asked later. */
const mostRepeats = 30;
/** One that wants to be left alone for longer is asked by a later try. */
const longestRepeatMs = 10_000;
/** Addresses that are followed, one after the other. */
const mostRedirects = 3;
/** Of what is only shown, so much is kept. */
const shownBytes = 256 * 1024;

/** Whether an answer has to be JSON. */
type Form = 'json' | 'as it is';

/** Sends requests to one system, signed in, and says in our words what went wrong. */
export class Exchange {
  private readonly gate: Gate;
  private readonly base: URL;
  private readonly signer: Signer;

  constructor(
    private readonly connection: Pick<HttpConnection, 'baseUrl' | 'signIn' | 'headers' | 'limits'>,
    private readonly parts: ConnectorParts,
  ) {
    const { requestsAtOnce, requestsPerSecond, patienceSeconds } = connection.limits ?? {};
    this.gate = parts.gateWith({
      ...(requestsAtOnce !== undefined && { atOnce: requestsAtOnce }),
      ...(requestsPerSecond !== undefined && { perSecond: requestsPerSecond }),
      ...(patienceSeconds !== undefined && { patienceMs: patienceSeconds * 1000 }),
    });
    this.base = new URL(connection.baseUrl);
    this.signer = signerOf(connection.signIn, {
      secret: parts.token,
      baseUrl: connection.baseUrl,
      name: parts.system.name,
      fetchToken: (url, init) => this.fetchToken(url, init),
    });
  }

  /**
   * Sends a request, and follows where it is sent on to within the same origin. Throws a WorkspaceError when no answer comes, or the
   * address may not be reached.
   */
  async ask(asked: WireRequest): Promise<WireAnswer> {
    let answer = await this.askSignedIn(asked);
    if (answer.status === 401 && this.signer.refused?.()) answer = await this.askSignedIn(asked);
    return answer;
  }

  /** Returns the address of a path below that of the system, or of a whole address on its origin. Throws a WorkspaceError for any other. */
  addressOf(path: string): URL {
    const whole = /^https?:\/\//i.test(path);
    const text = whole ? path : this.connection.baseUrl.replace(/\/$/, '') + path;
    if (!URL.canParse(text))
      throw this.failure('refused', `cannot be asked: “${text.slice(0, 200)}” is no address.`);
    const url = new URL(text);
    if (url.origin !== this.base.origin)
      throw this.failure(
        'refused',
        `leads to ${url.origin}, which is not where it is (${this.base.origin}). Secrets are not sent there.`,
      );
    return url;
  }

  /** Fetches a text, in whatever form it is written. Throws a WorkspaceError where there is none. */
  async text(path: string): Promise<string> {
    return String(this.succeeded(await this.askSignedIn({ method: 'GET', path }, 'as it is')) ?? '');
  }

  private async askSignedIn(asked: WireRequest, form: Form = 'json'): Promise<WireAnswer> {
    let url = this.addressOf(asked.path);
    let request = asked;
    for (let redirects = 0; ; redirects++) {
      const answer = await this.send(request, url, form);
      const { location } = answer.headers;
      if (answer.status < 300 || answer.status > 399 || location === undefined || answer.status === 304)
        return answer;
      if (redirects === mostRedirects)
        throw this.failure(
          'refused',
          `sends on from one address to the next more than ${mostRedirects} times.`,
        );
      if (!URL.canParse(location, url.href))
        throw this.misunderstood(`it sends on to “${location.slice(0, 200)}”`);
      url = this.addressOf(new URL(location, url).href);
      // RFC 9110, 15.4: after 303 the answer is fetched; a change is not sent on by others than 307 and 308.
      if (answer.status === 303) request = { method: 'GET', path: asked.path };
      else if (request.method !== 'GET' && answer.status < 307)
        throw this.failure(
          'refused',
          `sends a ${request.method} on to ${url.pathname}. Its connection should name that address.`,
        );
    }
  }

  private async send({ method, body, headers = {} }: WireRequest, url: URL, form: Form): Promise<WireAnswer> {
    const { dispatcher, allowedOutbound } = this.parts;
    const refused = refusedUrl(url, allowedOutbound);
    if (refused) throw this.failure('refused', `cannot be reached: ${refused}`);
    const text = body === undefined ? '' : printJson(body);
    const plain: Record<string, string> = {
      accept: 'application/json',
      ...this.connection.headers,
      ...(body !== undefined && { 'content-type': 'application/json' }),
      ...headers,
    };
    const signed = await this.signer.sign({ method, url, body: text });
    const signedUrl = new URL(url);
    for (const [name, value] of Object.entries(signed.query ?? {})) signedUrl.searchParams.set(name, value);
    const watch = this.watch({ method, url, plain, secret: signed, text });
    try {
      return await this.insist(async (signal) => {
        const response = await send(signedUrl, {
          method,
          dispatcher,
          headers: { ...plain, ...signed.headers },
          ...(body !== undefined && { body: text }),
          signal,
        });
        const told = singleHeaders(response.headers);
        const read = await readBody(response.body, told);
        const { statusCode: status } = response;
        watch.answered(
          status,
          told,
          read.is === 'too large' ? '' : read.text,
          read.is === 'text' ? read.because : '',
        );
        if (read.is === 'too large') throw this.failure('too many', 'sent an answer that is too large.');
        if (form === 'as it is' && status < 300) return { status, headers: told, body: read.text };
        if (read.is === 'json') return { status, headers: told, body: read.json };
        // What is no JSON still has a status; where that says yes, it is not what the connection describes.
        if (status >= 200 && status < 300)
          throw this.failure('refused', `sent something that cannot be read: ${read.because}.`);
        return { status, headers: told, body: { detail: plainText(read.text) } };
      });
    } catch (thrown) {
      if (thrown instanceof WorkspaceError) {
        watch.failed(thrown.problem.message);
        throw thrown;
      }
      const why = thrown instanceof Error ? thrown.message || thrown.name : String(thrown);
      watch.failed(why);
      throw this.failure('unavailable', `does not answer (${why}).`);
    }
  }

  /** Sends a request, and again where the system asked to be asked later: then it has done nothing. */
  private async insist(send: (signal: AbortSignal) => Promise<WireAnswer>): Promise<WireAnswer> {
    for (let tries = 1; ; tries++) {
      const answer = await this.gate.through(send);
      const { waits } = this.gate;
      const soon = !waits || waits.until - Date.now() <= longestRepeatMs;
      if (answer.status !== 429 || tries === mostRepeats || !soon) return answer;
    }
  }

  /** Tells whoever watches the exchanges of this system of one, without its secrets. */
  private watch({
    method,
    url,
    plain,
    secret,
    text,
  }: {
    readonly method: string;
    readonly url: URL;
    readonly plain: Readonly<Record<string, string>>;
    readonly secret: {
      readonly headers: Readonly<Record<string, string>>;
      readonly query?: Readonly<Record<string, string>>;
    };
    readonly text: string;
  }) {
    const began = performance.now();
    const shown = new URL(url);
    for (const name of Object.keys(secret.query ?? {})) shown.searchParams.set(name, hidden);
    const told: Omit<Exchanged, 'status' | 'answerHeaders' | 'answerBody' | 'milliseconds' | 'problem'> = {
      at: new Date().toISOString(),
      method,
      url: decodeHidden(shown.href),
      requestHeaders: {
        ...plain,
        ...Object.fromEntries(Object.keys(secret.headers).map((name) => [name, hidden])),
      },
      requestBody: text.slice(0, shownBytes),
    };
    const tell = (rest: Pick<Exchanged, 'status' | 'answerHeaders' | 'answerBody' | 'problem'>) =>
      this.parts.watch?.({
        exchanged: { ...told, ...rest, milliseconds: Math.round(performance.now() - began) },
        secret: this.parts.token,
      });
    let answered = false;
    return {
      answered(status: number, answerHeaders: Record<string, string>, body: string, problem: string) {
        answered = true;
        tell({
          status,
          answerHeaders: withoutCookies(answerHeaders),
          answerBody: body.slice(0, shownBytes),
          problem,
        });
      },
      failed(problem: string) {
        if (!answered) tell({ status: undefined, answerHeaders: {}, answerBody: '', problem });
      },
    };
  }

  private fetchToken: FetchToken = async (url, { method, headers, body }) => {
    const { dispatcher, allowedOutbound } = this.parts;
    const address = new URL(url);
    const refused = refusedUrl(address, allowedOutbound);
    if (refused) throw this.failure('refused', `cannot be signed in to: ${refused}`);
    const secrets = { headers: { authorization: hidden } };
    const watch = this.watch({ method, url: address, plain: {}, secret: secrets, text: '' });
    try {
      const answer = await send(address, {
        method: method as Dispatcher.HttpMethod,
        dispatcher,
        headers: Object.fromEntries(headers),
        body,
      });
      const told = singleHeaders(answer.headers);
      const read = await readBody(answer.body, told);
      const text = read.is === 'too large' ? '' : read.text;
      watch.answered(answer.statusCode, told, hidden, '');
      return new Response(text === '' ? null : text, { status: answer.statusCode, headers: told });
    } catch (thrown) {
      const why = thrown instanceof Error ? thrown.message : String(thrown);
      watch.failed(why);
      throw this.failure('unavailable', `cannot be signed in to: ${address.host} does not answer (${why}).`);
    }
  };

  /** Returns the body of an answer that says yes. Throws a WorkspaceError for any other. */
  succeeded(answer: WireAnswer): unknown {
    if (answer.status >= 200 && answer.status < 300) return answer.body;
    throw new WorkspaceError(this.problemOf(answer));
  }

  /** Returns what an answer says that went wrong. */
  problemOf({ status, body }: Pick<WireAnswer, 'status' | 'body'>): Problem {
    const message = `${this.parts.system.name}: ${toldIn(body) ?? `it answered ${status}`}`;
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
}

/** Where systems say what went wrong: Problem Details (RFC 9457) first, then what others do (common practice, no source). */
const places = ['detail', 'title', 'message', 'error_description', 'reason', 'error'];

function toldIn(body: unknown): string | undefined {
  if (!isJsonObject(body)) return undefined;
  for (const place of places) {
    const told = body[place];
    if (typeof told === 'string' && told !== '') return told.slice(0, 500);
    if (isJsonObject(told)) return toldIn(told);
  }
  const [first] = Array.isArray(body['errors']) ? body['errors'] : [];
  return typeof first === 'string' ? first.slice(0, 500) : toldIn(first);
}

/** Returns the beginning of a text without the marks of a page. */
function plainText(text: string): string {
  return text
    .slice(0, 2000)
    .replace(/<[^>]*>/g, ' ')
    .replace(/\s+/g, ' ')
    .trim()
    .slice(0, 200);
}

function withoutCookies(headers: Readonly<Record<string, string>>): Readonly<Record<string, string>> {
  return 'set-cookie' in headers ? { ...headers, 'set-cookie': hidden } : headers;
}

function decodeHidden(url: string): string {
  return url.replaceAll(encodeURIComponent(hidden), hidden);
}
