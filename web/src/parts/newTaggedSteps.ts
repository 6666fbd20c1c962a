import type { TaggedStep } from '@vast-knot/core';

/** What can be done to a tagged record, as it begins. */
export const newTaggedSteps: readonly { readonly label: string; readonly step: TaggedStep }[] = [
  { label: 'Remove fields', step: { kind: 'remove', what: '', only: '' } },
  { label: 'Put characters', step: { kind: 'put', at: '', characters: '', only: '' } },
  {
    label: 'Add a field',
    step: { kind: 'add', tag: '', indicators: '##', subfields: [{ code: 'a', text: '' }], only: '' },
  },
];
