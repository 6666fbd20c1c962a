import type { TriggerKind } from './kind';

export const fileRow: TriggerKind<'file row'> = {
  kind: 'file row',
  words: 'comes as a row of a file',
  past: 'came as a row of a file',
  tellsOfChange: false,
  members: [],
};
