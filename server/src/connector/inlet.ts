import Joi from 'joi';
import { WorkspaceError } from '@vast-knot/core';
import type { ConnectorKind } from './connector';
import { eventStyleSchema, type EventStyle } from './events';

/** A system that only tells: rows of files and answers of forms come through it, and it keeps no records to be read. */
interface InletConnection {
  readonly kind: 'inlet';
  readonly events: EventStyle;
}

export const inletKind: ConnectorKind<InletConnection> = {
  kind: 'inlet',
  meaning: 'Rows of files and answers of forms come in; there are no records to be read.',
  schema: Joi.object<InletConnection>({
    kind: Joi.valid('inlet').required(),
    events: eventStyleSchema.required(),
  }),
  open: ({ events }) => ({
    address: '',
    records: undefined,
    events,
    versionOf: () => undefined,
    listen: () => Promise.resolve(),
    learnSchema: () =>
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
