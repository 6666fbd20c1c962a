import Joi from 'joi';
import { headerName, type Style } from '../style';

/** A key in a header of the system's own. */
export interface HeaderSignIn {
  readonly kind: 'header';
  readonly header: string;
  /** `{token}` stands for the secret. */
  readonly value: string;
}

export const header: Style<HeaderSignIn> = {
  kind: 'header',
  label: 'with a key in a header',
  meaning: 'The secret is sent in a header of the system’s own.',
  schema: Joi.object<HeaderSignIn>({
    kind: Joi.valid('header').required(),
    header: headerName.required(),
    value: Joi.string()
      .max(200)
      .pattern(/\{token\}/, 'a text with {token}')
      .required(),
  }),
};
