import type { TriggerKind } from './kind';

export const requested: TriggerKind<'requested'> = {
  kind: 'requested',
  words: 'is chosen by a person',
  past: 'was chosen by a person for another rule',
  tellsOfChange: false,
  members: ['inputs', 'once'],
};
