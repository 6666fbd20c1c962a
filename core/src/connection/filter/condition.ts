import Joi from 'joi';
import { parameterName } from '../style';
import { fill } from '../template';
import type { FilterStyle } from './filter';

/** `where=town:eq:a`, `where=town:in:a|b` */
export interface ConditionFilter {
  readonly kind: 'condition';
  readonly name: string;
  /** `{field}` and `{value}` are filled in. */
  readonly equal: string;
  /** `{field}` and `{values}` are filled in; without it, one value is asked for at a time. */
  readonly oneOf?: string;
  readonly separator?: string;
  /** The fields that can be asked for; all, unless it says so. */
  readonly fields?: readonly string[];
}

export const condition: FilterStyle<ConditionFilter> = {
  kind: 'condition',
  label: 'by a condition in one parameter',
  meaning: 'One parameter holds the condition, as a text with field and value.',
  schema: Joi.object<ConditionFilter>({
    kind: Joi.valid('condition').required(),
    name: parameterName.required(),
    equal: Joi.string()
      .max(300)
      .pattern(/\{value\}/, 'a text with {value}')
      .required(),
    oneOf: Joi.string()
      .max(300)
      .pattern(/\{values\}/, 'a text with {values}'),
    separator: Joi.string().allow('').max(10),
    fields: Joi.array().items(Joi.string()),
  }),
  parameters({ name, equal, oneOf, separator = ',', fields }, field, values) {
    if (fields && !fields.includes(field)) return undefined;
    const [only = '', ...others] = values;
    if (others.length === 0) return [[name, fill(equal, { field, value: only })]];
    if (oneOf === undefined) return undefined;
    // Signs of the list itself, within a value, are encoded a second time.
    return [[name, fill(oneOf, { field, values: values.map(encodeURIComponent).join(separator) })]];
  },
};
