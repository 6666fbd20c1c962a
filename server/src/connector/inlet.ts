import Joi from 'joi';
import { formSchema, tellingSchema, WorkspaceError, type Form, type Telling } from '@vast-knot/core';
import type { ConnectorKind } from './connector';

/** A system that only tells: rows of files and answers of forms come through it, and it keeps no records to be read. */
export interface InletConnection {
  readonly kind: 'inlet';
  readonly told: Telling;
  /** The pages on which records of a type are answered, by the name of the type. */
  readonly forms?: Readonly<Record<string, Form>>;
}

export const inletKind: ConnectorKind<InletConnection> = {
  kind: 'inlet',
  meaning: 'Rows of files and answers of forms come in; there are no records to be read.',
  schema: Joi.object<InletConnection>({
    kind: Joi.valid('inlet').required(),
    told: tellingSchema.required(),
    forms: Joi.object().pattern(Joi.string().max(120), formSchema),
  }),
  open: ({ told, forms = {} }) => ({
    address: '',
    records: undefined,
    told,
    forms,
    describes: false,
    listeningOf: () => ({}),
    versionOf: () => undefined,
    listen: () => Promise.resolve(),
    document: () =>
      Promise.reject(
        new WorkspaceError({
          code: 'refused',
          message: 'It only tells; it does not describe itself.',
          retry: false,
        }),
      ),
    probe: () => Promise.resolve({ answers: false, because: 'It only tells; it cannot be asked.' }),
  }),
};
