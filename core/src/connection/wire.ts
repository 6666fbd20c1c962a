import type { Json } from '../model/json';

/** What is asked of a system over HTTP. */
export interface WireRequest {
  readonly method: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE';
  /** Below the address of the system, with its query; or a whole address that the system named. */
  readonly path: string;
  readonly body?: Json | undefined;
  readonly headers?: Readonly<Record<string, string>>;
}

/** What a system answered. */
export interface WireAnswer {
  readonly status: number;
  /** With names in small letters. */
  readonly headers: Readonly<Record<string, string>>;
  readonly body: unknown;
}
