import Joi from 'joi';
import type { PagingStyle } from './paging';

/** The list comes whole. */
export interface NoPaging {
  readonly kind: 'none';
}

export const whole: PagingStyle<NoPaging> = {
  kind: 'none',
  label: 'in one answer',
  meaning: 'The list comes whole, in one answer.',
  schema: Joi.object<NoPaging>({ kind: Joi.valid('none').required() }),
  parameters: () => [],
  next: () => null,
};
