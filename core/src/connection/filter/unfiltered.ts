import Joi from 'joi';
import type { FilterStyle } from './filter';

/** The system cannot be asked for some of its records. */
export interface NoFilter {
  readonly kind: 'none';
}

export const unfiltered: FilterStyle<NoFilter> = {
  kind: 'none',
  label: 'here, by reading all of them',
  meaning:
    'It cannot be asked for some of its records: all are read, and looked through here, each time that something is looked for.',
  schema: Joi.object<NoFilter>({ kind: Joi.valid('none').required() }),
  parameters: () => undefined,
};
