import Joi from 'joi';
import { fill } from '../template';
import type { FilterKind } from './style';

/** `filter[town]=a&filter[town]=b` */
export interface ParameterFilter {
  readonly kind: 'parameter per field';
  /** The name of the parameter; `{field}` stands for the field. */
  readonly name: string;
}

export const parameterPerField: FilterKind<ParameterFilter> = {
  schema: Joi.object<ParameterFilter>({
    kind: Joi.valid('parameter per field').required(),
    name: Joi.string().required(),
  }),
  add(query, { name }, field, values) {
    for (const value of values) query.append(fill(name, { field }), value);
  },
};
