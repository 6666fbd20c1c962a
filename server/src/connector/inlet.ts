import Joi from 'joi';
import { tellingSchema, WorkspaceError, type Telling } from '@vast-knot/core';
import type { ConnectorKind } from './connector';

/** A system that only tells: rows of files and answers of forms come through it, and it keeps no records to be read. */
interface InletConnection {
  readonly kind: 'inlet';
  readonly told: Telling;
}

export const inletKind: ConnectorKind<InletConnection> = {
  kind: 'inlet',
  meaning: 'Rows of files and answers of forms come in; there are no records to be read.',
  schema: Joi.object<InletConnection>({
    kind: Joi.valid('inlet').required(),
    told: tellingSchema.required(),
  }),
  open: ({ told }) => ({
    address: '',
    records: undefined,
    told,
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
