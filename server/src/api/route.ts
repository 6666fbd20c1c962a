import type { Request, RequestHandler, Response } from 'express';
import type { RouteParameters } from 'express-serve-static-core';
import type { Logger } from 'pino';
import type { Right } from '@vast-knot/core';
import type { Config } from '../config/config';
import type { Computer } from '../compute/computer';
import type { Pool } from '../db/pool';
import type { Seal } from '../db/seal';
import type { Outside, RegistrySource } from '../registry/registry';
import type { NoticeStream } from '../http/noticeStream';

/** What the handlers of requests work with. */
export interface AppParts {
  readonly config: Config;
  readonly pool: Pool;
  readonly registry: RegistrySource;
  readonly computer: Computer;
  readonly stream: NoticeStream;
  readonly seal: Seal;
  /** How outside addresses are reached. */
  readonly outside: Outside;
  readonly log: Logger;
}

/** Answers one request; `Path` gives the names of its parameters. */
export type Handle<Path extends string = string> = HandleOf<RouteParameters<Path>>;

/** The same for parameters that are known, whatever the path. */
export type HandleOf<Parameters> = (
  request: Request<Parameters>,
  response: Response,
  parts: AppParts,
) => Promise<void> | void;

type Method = 'get' | 'post' | 'put' | 'patch' | 'delete';

/** One address of the API: what it takes, the right it wants, and what answers it. */
export interface Route {
  readonly method: Method;
  /** Below `/api`: `/runs/:id/stop`. */
  readonly path: string;
  readonly right: Right;
  /** Read the body. Without any, JSON of the usual size is read. */
  readonly reads: readonly RequestHandler[];
  readonly handle: Handle;
}

function route(method: Method) {
  return <Path extends string>(
    path: Path,
    right: Right,
    handle: Handle<NoInfer<Path>>,
    ...reads: readonly RequestHandler[]
  ): Route => ({
    method,
    path,
    right,
    reads,
    // Express gives the handler the parameters that stand in the path.
    handle: handle as unknown as Handle,
  });
}

export const get = route('get');
export const post = route('post');
export const put = route('put');
export const patch = route('patch');
export const remove = route('delete');

/** Returns the name of the person who asks. */
export function personOf({ session }: Pick<Request, 'session'>): string {
  return session.user?.name ?? '';
}
