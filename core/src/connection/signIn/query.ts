import Joi from 'joi';
import { parameterName, type Style } from '../style';

/** A key in the query of each address. */
export interface QuerySignIn {
  readonly kind: 'query';
  readonly name: string;
}

export const query: Style<QuerySignIn> = {
  kind: 'query',
  label: 'with a key in the address',
  meaning: 'The secret is a parameter of each address, where logs of the other side can show it.',
  schema: Joi.object<QuerySignIn>({ kind: Joi.valid('query').required(), name: parameterName.required() }),
};
