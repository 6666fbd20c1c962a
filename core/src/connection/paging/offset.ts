import Joi from 'joi';
import { parameterName } from '../style';
import { isLast, limitParameter, limitSchema, type PageLimit, type PagingStyle } from './paging';

/** A page begins after so many records. */
export interface OffsetPaging {
  readonly kind: 'offset';
  readonly parameter: string;
  readonly limit?: PageLimit;
}

export const offset: PagingStyle<OffsetPaging> = {
  kind: 'offset',
  label: 'by offset',
  meaning:
    'A page begins after so many records; the last is known by the total, or by an empty page after it.',
  schema: Joi.object<OffsetPaging>({
    kind: Joi.valid('offset').required(),
    parameter: parameterName.required(),
    limit: limitSchema,
  }),
  parameters: ({ parameter, limit }, asked) => [
    ...limitParameter(limit, asked.limit),
    [parameter, asked.cursor ?? '0'],
  ],
  next: (_paging, answer) => {
    const before = Number(answer.cursor ?? 0);
    return isLast(before, answer) ? null : String(before + answer.count);
  },
};
