import Joi from 'joi';
import { parameterName, pathTemplate, pointerSchema, type Style } from '../style';

/** Many records with one request, and a result for each. */
export interface BulkChanging {
  readonly kind: 'bulk';
  readonly method: 'PATCH' | 'POST' | 'PUT';
  /** `{path}` stands for the path of the record type. */
  readonly path: string;
  /** Member of the body that holds the items. */
  readonly items: string;
  /** `{id}`, `{ifMatch}`, `{key}` and `{changes}` are filled in. */
  readonly item: Readonly<Record<string, string>>;
  readonly results: string;
  readonly status: string;
  readonly record: string;
  readonly problem: string;
  /** Items sent at a time. */
  readonly size: number;
}

export const bulk: Style<BulkChanging> = {
  kind: 'bulk',
  label: 'many with one request',
  meaning: 'Changes of many records are sent together, and the answer has a result for each of them.',
  schema: Joi.object<BulkChanging>({
    kind: Joi.valid('bulk').required(),
    method: Joi.valid('PATCH', 'POST', 'PUT').required(),
    path: pathTemplate.required(),
    items: parameterName.required(),
    item: Joi.object().pattern(Joi.string(), Joi.string()).required(),
    results: pointerSchema.required(),
    status: pointerSchema.required(),
    record: pointerSchema.required(),
    problem: pointerSchema.required(),
    size: Joi.number().integer().min(1).max(1000).required(),
  }),
};
