import Joi from 'joi';
import { readPointer } from '../../formats/jsonPointer';
import { isLongNumber } from '../../model/longNumber';
import { scalarText } from '../../model/jsonText';
import { parameterName, pointerSchema } from '../style';
import { limitParameter, limitSchema, type PageLimit, type PagingStyle } from './paging';

/** Each page names what the next one is asked with. */
export interface CursorPaging {
  readonly kind: 'cursor';
  /** Where the cursor of the next page stands in an answer. */
  readonly next: string;
  readonly parameter: string;
  readonly limit?: PageLimit;
}

export const cursor: PagingStyle<CursorPaging> = {
  kind: 'cursor',
  label: 'by a cursor',
  meaning: 'Each page names the cursor with which the next one is asked for.',
  schema: Joi.object<CursorPaging>({
    kind: Joi.valid('cursor').required(),
    next: pointerSchema.required(),
    parameter: parameterName.required(),
    limit: limitSchema,
  }),
  parameters: ({ parameter, limit }, asked) => [
    ...limitParameter(limit, asked.limit),
    ...(asked.cursor === undefined ? [] : [[parameter, asked.cursor] as const]),
  ],
  next: ({ next }, { body }) => scalarAt(body, next),
};

/** Returns the text at a place; null where there is none. */
export function scalarAt(body: unknown, pointer: string): string | null {
  const found = readPointer(body, pointer);
  const isScalar = typeof found === 'string' || typeof found === 'number' || isLongNumber(found);
  return isScalar && found !== '' ? scalarText(found) : null;
}
