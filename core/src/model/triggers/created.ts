import type { TriggerKind } from './kind';

export const created: TriggerKind<'created'> = {
  kind: 'created',
  words: 'is created',
  past: 'was created',
  tellsOfChange: true,
  members: [],
};
