import Joi from 'joi';
import { parameterName } from '../style';
import { fill } from '../template';
import type { FilterStyle } from './filter';

/** `filter[town]=a&filter[town]=b` */
export interface ParameterFilter {
  readonly kind: 'parameter per field';
  /** The name of the parameter; `{field}` stands for the field. */
  readonly name: string;
  /** How several values are given: the parameter again for each, or one after the other. */
  readonly several?: 'repeated' | 'one at a time';
  /** The fields that can be asked for; all, unless it says so. */
  readonly fields?: readonly string[];
}

export const parameterPerField: FilterStyle<ParameterFilter> = {
  kind: 'parameter per field',
  label: 'by a parameter for each field',
  meaning: 'A parameter named after the field holds the value that is looked for.',
  schema: Joi.object<ParameterFilter>({
    kind: Joi.valid('parameter per field').required(),
    name: parameterName.required(),
    several: Joi.valid('repeated', 'one at a time'),
    fields: Joi.array().items(Joi.string()),
  }),
  parameters({ name, several, fields }, field, values) {
    if (fields && !fields.includes(field)) return undefined;
    if (several === 'one at a time' && values.length > 1) return undefined;
    return values.map((value) => [fill(name, { field }), value]);
  },
};
