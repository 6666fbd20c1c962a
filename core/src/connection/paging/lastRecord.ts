import Joi from 'joi';
import { readPath } from '../../model/json';
import { scalarText } from '../../model/jsonText';
import { readPointer } from '../../formats/jsonPointer';
import { parameterName, pointerSchema } from '../style';
import { limitParameter, limitSchema, type PageLimit, type PagingStyle } from './paging';

/** The next page begins after the last record of the one before. */
export interface LastRecordPaging {
  readonly kind: 'last record';
  readonly parameter: string;
  /** The field of the last record that is sent. */
  readonly field: string;
  /** Where it is said whether there are more; without it, an empty page is the end. */
  readonly more?: string;
  readonly limit?: PageLimit;
}

export const lastRecord: PagingStyle<LastRecordPaging> = {
  kind: 'last record',
  label: 'after the last record',
  meaning:
    'The next page is asked for with a field of the last record; the last page is empty, or says that there are no more.',
  schema: Joi.object<LastRecordPaging>({
    kind: Joi.valid('last record').required(),
    parameter: parameterName.required(),
    field: Joi.string().max(300).required(),
    more: pointerSchema,
    limit: limitSchema,
  }),
  parameters: ({ parameter, limit }, asked) => [
    ...limitParameter(limit, asked.limit),
    ...(asked.cursor === undefined ? [] : [[parameter, asked.cursor] as const]),
  ],
  next: ({ field, more }, { last, body }) => {
    if (!last || (more !== undefined && readPointer(body, more) === false)) return null;
    const value = readPath(last, field);
    return value === undefined || value === null || value === '' ? null : scalarText(value);
  },
};
