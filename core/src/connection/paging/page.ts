import Joi from 'joi';
import { parameterName } from '../style';
import { isLast, limitSchema, type PageLimit, type PagingStyle } from './paging';

/** Pages are numbered. */
export interface NumberedPaging {
  readonly kind: 'page';
  readonly parameter: string;
  /** The number of the first page. */
  readonly first: number;
  readonly limit?: PageLimit;
}

export const page: PagingStyle<NumberedPaging> = {
  kind: 'page',
  label: 'by page number',
  meaning: 'Pages are numbered; the last is known by the total, or by an empty page after it.',
  schema: Joi.object<NumberedPaging>({
    kind: Joi.valid('page').required(),
    parameter: parameterName.required(),
    first: Joi.number().integer().min(0).max(1).default(1),
    limit: limitSchema,
  }),
  // All pages have one size, or their numbers would mean something else.
  parameters: ({ parameter, first, limit }, { cursor }) => [
    ...(limit?.name === undefined ? [] : [[limit.name, String(limit.most)] as const]),
    [parameter, cursor ?? String(first)],
  ],
  next: ({ first, limit }, answer) => {
    const number = Number(answer.cursor ?? first);
    const before = (number - first) * (limit?.most ?? answer.count);
    return isLast(before, answer) ? null : String(number + 1);
  },
};
