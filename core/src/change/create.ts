import type { ChangeKindRules, RecordChange } from './changeKind';

type Create = Extract<RecordChange, { kind: 'create' }>;

/** A record comes into being. */
export const createChange: ChangeKindRules<Create> = {
  apply(change, record) {
    return record
      ? { ok: false, because: 'There is a record with this id already.' }
      : { ok: true, record: change.record };
  },

  invert(change) {
    return { kind: 'remove', ref: change.ref, record: change.record };
  },

  toJsonPatch(change) {
    return [{ op: 'add', path: '', value: change.record }];
  },
};
