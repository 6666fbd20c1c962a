import type { Request, RequestHandler, Response } from 'express';
import type { RouteParameters } from 'express-serve-static-core';
import type Joi from 'joi';
import type { Logger } from 'pino';
import type { Right } from '@vast-knot/core';
import type { Config } from '../config/config';
import type { Computer } from '../compute/computer';
import type { Pool } from '../db/pool';
import type { Seal } from '../db/seal';
import type { Outside, RegistrySource } from '../registry/registry';
import type { TableFiles } from '../tables/files';
import type { NoticeStream } from '../http/noticeStream';

/** What the handlers of requests work with. */
export interface AppParts {
  readonly config: Config;
  readonly pool: Pool;
  readonly registry: RegistrySource;
  readonly computer: Computer;
  readonly files: TableFiles;
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
  readonly takes: Takes;
  readonly handle: Handle;
}

/** What an address takes beside the parameters of its path. The description of the API is made from it. */
export interface Takes {
  /** By which the handler parses the body. */
  readonly body?: Joi.Schema;
  /** By which the handler parses what stands behind the question mark. */
  readonly query?: Joi.Schema;
  /** The revision that was changed is to be said with If-Match. */
  readonly revision?: true;
  /** The body is a file of any kind. */
  readonly file?: true;
  /** The body is a file of comma-separated values. */
  readonly csv?: true;
  /** Read the body. Without any, JSON of the usual size is read. */
  readonly reads?: readonly RequestHandler[];
}

function route(method: Method) {
  return <Path extends string>(
    path: Path,
    right: Right,
    handle: Handle<NoInfer<Path>>,
    takes: Takes = {},
  ): Route => ({
    method,
    path,
    right,
    takes,
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
export function personOf({ person }: Pick<Request, 'person'>): string {
  return person?.name ?? '';
}
