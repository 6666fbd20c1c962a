import Joi from 'joi';
import type { Style } from '../style';

/** Nothing is asked of who comes. */
export interface NoSignIn {
  readonly kind: 'none';
}

export const none: Style<NoSignIn> = {
  kind: 'none',
  label: 'not at all',
  meaning: 'The system answers whoever asks.',
  schema: Joi.object<NoSignIn>({ kind: Joi.valid('none').required() }),
};
