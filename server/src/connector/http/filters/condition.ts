import Joi from 'joi';
import { fill } from '../template';
import type { FilterKind } from './style';

/** `where=town:eq:a`, `where=town:in:a|b` */
export interface ConditionFilter {
  readonly kind: 'condition';
  readonly name: string;
  /** `{field}` and `{value}` are filled in. */
  readonly equal: string;
  /** `{field}` and `{values}` are filled in. */
  readonly oneOf: string;
  readonly separator: string;
}

export const condition: FilterKind<ConditionFilter> = {
  schema: Joi.object<ConditionFilter>({
    kind: Joi.valid('condition').required(),
    name: Joi.string().required(),
    equal: Joi.string().required(),
    oneOf: Joi.string().required(),
    separator: Joi.string().required(),
  }),
  add(query, { name, equal, oneOf, separator }, field, values) {
    const [only = '', ...others] = values;
    query.append(
      name,
      others.length === 0
        ? fill(equal, { field, value: only })
        : fill(oneOf, { field, values: values.map(encodeURIComponent).join(separator) }),
    );
  },
};
