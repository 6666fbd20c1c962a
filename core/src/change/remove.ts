import type { ChangeKindRules, RecordChange } from './changeKind';

type Remove = Extract<RecordChange, { kind: 'remove' }>;

/** A record goes; the change keeps it, so that it can come back. */
export const removeChange: ChangeKindRules<Remove> = {
  apply(_change, record) {
    return record ? { ok: true, record: undefined } : { ok: false, because: 'The record does not exist.' };
  },

  invert(change) {
    return { kind: 'create', ref: change.ref, record: change.record };
  },

  toJsonPatch(change) {
    return [
      { op: 'test', path: '', value: change.record },
      { op: 'replace', path: '', value: null },
    ];
  },
};
