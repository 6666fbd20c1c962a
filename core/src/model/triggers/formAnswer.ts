import type { TriggerKind } from './kind';

export const formAnswer: TriggerKind<'form answer'> = {
  kind: 'form answer',
  words: 'comes as the answer of a form',
  past: 'came as the answer of a form',
  tellsOfChange: false,
  members: [],
};
