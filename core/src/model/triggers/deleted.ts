import type { TriggerKind } from './kind';

export const deleted: TriggerKind<'deleted'> = {
  kind: 'deleted',
  words: 'is deleted',
  past: 'was deleted',
  tellsOfChange: true,
  members: [],
};
