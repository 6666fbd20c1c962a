import Joi from 'joi';
import { pointerSchema } from '../style';
import { scalarAt } from './cursor';
import { limitParameter, limitSchema, type PageLimit, type PagingStyle } from './paging';

/** The answer holds the address of the next page. */
export interface AddressPaging {
  readonly kind: 'address';
  /** Where that address stands. */
  readonly next: string;
  readonly limit?: PageLimit;
}

export const address: PagingStyle<AddressPaging> = {
  kind: 'address',
  label: 'by a next address',
  meaning: 'Each page holds the address of the next one.',
  ownAddress: true,
  schema: Joi.object<AddressPaging>({
    kind: Joi.valid('address').required(),
    next: pointerSchema.required(),
    limit: limitSchema,
  }),
  parameters: ({ limit }, asked) => limitParameter(limit, asked.limit),
  next: ({ next }, { body }) => scalarAt(body, next),
};
