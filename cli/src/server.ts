import { readFileSync } from 'node:fs';
import { resolve } from 'node:path';
import { WrongInput } from './files';

/** A server that refuses what was asked, or that is not reached: said in one sentence, and ends the program with 1. */
export class Refused extends Error {}

/** How a server is reached and signed in to. */
export interface ServerOptions {
  /** Its address, `https://vast-knot.example`; otherwise that in VAST_KNOT_SERVER. */
  readonly server?: string | undefined;
  /** A file that holds a token and nothing else; otherwise the token is that in VAST_KNOT_TOKEN. On a command line everybody would see it. */
  readonly 'token-file'?: string | undefined;
}

/** Asks a server of Vast Knot as the one whose token it is. */
export class Server {
  private constructor(
    private readonly address: string,
    private readonly token: string,
  ) {}

  static from(options: ServerOptions, environment: NodeJS.ProcessEnv, folder: string): Server {
    const address = options.server ?? environment['VAST_KNOT_SERVER'];
    if (address === undefined || !URL.canParse(address))
      throw new WrongInput('Say which server: --server https://…, or VAST_KNOT_SERVER.');
    const file = options['token-file'];
    const token = file === undefined ? environment['VAST_KNOT_TOKEN'] : tokenIn(resolve(folder, file));
    if (token === undefined || token === '')
      throw new WrongInput(
        'Say who asks: --token-file FILE, or VAST_KNOT_TOKEN. One makes a token on one’s own page.',
      );
    return new Server(address.replace(/\/+$/, ''), token);
  }

  /** Returns what the server answers to a request. Throws Refused with its sentence where it refuses. */
  async ask<T>(
    method: 'GET' | 'POST',
    path: string,
    { body, ifMatch }: { readonly body?: unknown; readonly ifMatch?: number } = {},
  ): Promise<T> {
    const response = await fetch(`${this.address}/api${path}`, {
      method,
      headers: {
        authorization: `Bearer ${this.token}`,
        ...(body !== undefined && { 'content-type': 'application/json' }),
        ...(ifMatch !== undefined && { 'if-match': `"${ifMatch}"` }),
      },
      ...(body !== undefined && { body: JSON.stringify(body) }),
    }).catch((thrown: unknown): never => {
      const why = thrown instanceof Error && thrown.cause instanceof Error ? `: ${thrown.cause.message}` : '';
      throw new Refused(`${this.address} does not answer${why}.`);
    });
    const text = await response.text();
    if (response.ok) return answered<T>(text, this.address);
    throw new Refused(refusalIn(text) ?? `${this.address} answered ${response.status}.`);
  }
}

function tokenIn(file: string): string {
  try {
    return readFileSync(file, 'utf8').trim();
  } catch {
    throw new WrongInput(`There is no file ${file}.`);
  }
}

function answered<T>(text: string, address: string): T {
  try {
    return JSON.parse(text) as T;
  } catch {
    throw new Refused(`${address} answers with what is no answer of Vast Knot.`);
  }
}

/** Returns the sentences of a problem (RFC 9457); undefined where the answer is none. */
function refusalIn(text: string): string | undefined {
  try {
    const problem = JSON.parse(text) as { readonly detail?: unknown; readonly errors?: unknown };
    if (typeof problem.detail !== 'string') return undefined;
    const errors = Array.isArray(problem.errors) ? (problem.errors as { message?: unknown }[]) : [];
    const more = errors.map(({ message }) => message).filter((each) => typeof each === 'string');
    return [...new Set([problem.detail, ...more])].join('\n');
  } catch {
    return undefined;
  }
}
