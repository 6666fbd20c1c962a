import type Joi from 'joi';

/** One style of filter: what its description holds, and how it adds a condition to a query. */
export interface FilterKind<S> {
  readonly schema: Joi.ObjectSchema<S>;
  add(query: URLSearchParams, style: S, field: string, values: readonly string[]): void;
}
