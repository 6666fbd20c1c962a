import {
  foundSentence,
  readPath,
  systemOfDraft,
  WorkspaceError,
  type ConnectionDraft,
  type DraftTry,
  type GuardedChange,
  type JsonObject,
  type StoredRecord,
  type TriedView,
} from '@vast-knot/core';
import { connectionProblem } from '../connector/connection';
import type { Connector } from '../connector/connector';
import { withoutSecret, type Exchanged } from '../connector/exchanged';
import type { RecordsPage, RecordStore } from '../connector/recordStore';
import { triedConnector, type TriedWith } from './triedConnector';

/** What a draft is tried with. */
export interface TryParts extends Omit<TriedWith, 'watch'> {
  readonly now: Date;
}

/** Records of a page that is tried. */
const tryLimit = 25;

/**
 * Tries a statement of a draft on the real system. What went over the wire is told whatever comes of it; nothing is kept, and but for a
 * field that is written back as it is, and a trigger that is put in or taken out, nothing is written.
 */
export async function tryDraft(
  draft: ConnectionDraft,
  asked: DraftTry,
  { now, ...parts }: TryParts,
): Promise<TriedView> {
  const exchanges: Exchanged[] = [];
  const wrong = connectionProblem(draft.connection);
  if (wrong !== undefined) return tried(exchanges, { problem: `${wrong}.` });
  const connector = triedConnector(draft.connection, systemOfDraft(draft), {
    ...parts,
    watch: (watched) => void exchanges.push(withoutSecret(watched)),
  });
  const store = connector.records;
  if (!store) return tried(exchanges, { problem: 'It has no records to be read.' });
  const type = draft.recordTypes.find(({ name }) => name === asked.type);
  const found = ({ records, total, next }: RecordsPage) =>
    foundSentence({ records: records.map(({ record }) => record), total, next }, type, now);
  try {
    switch (asked.what) {
      case 'list': {
        const page = await store.page({ type: asked.type, limit: tryLimit, cursor: asked.cursor });
        return tried(exchanges, { sentence: found(page), records: page.records, next: page.next });
      }
      case 'since': {
        const page = await store.page({ type: asked.type, limit: tryLimit, since: asked.mark });
        return tried(exchanges, {
          sentence: `Changed since then: ${found(page)}`,
          records: page.records,
          next: page.next,
        });
      }
      case 'one': {
        const record = await store.get(asked.type, asked.id);
        return tried(exchanges, {
          sentence: record ? `The record ${asked.id} is there.` : `There is no record ${asked.id}.`,
          records: record ? [record] : [],
        });
      }
      case 'find': {
        const records = await store.find(asked.type, [{ field: asked.field, values: [asked.value] }], 50);
        return tried(exchanges, { sentence: findSentence(records, asked.field, asked.value), records });
      }
      case 'note':
      case 'note no more': {
        const on = asked.what === 'note';
        if (!connector.note) return tried(exchanges, { problem: 'It notes no changes by itself.' });
        await connector.note(asked.type, on);
        return tried(exchanges, {
          sentence: on ? 'From now on its changes are noted.' : 'Its changes are not noted any more.',
        });
      }
      case 'write back':
        return tried(exchanges, await writeBack(connector, store, draft.system.key, asked));
    }
  } catch (thrown) {
    if (!(thrown instanceof WorkspaceError)) throw thrown;
    return tried(exchanges, { problem: thrown.problem.message });
  }
}

function findSentence(records: readonly StoredRecord[], field: string, value: unknown): string {
  const fitting = records.filter(({ record }) => String(readPath(record, field)) === String(value)).length;
  const count = `${records.length} ${records.length === 1 ? 'record' : 'records'}`;
  return fitting === records.length
    ? `${count} with ${field} = ${String(value)}.`
    : `${count} came, and only ${fitting} with ${field} = ${String(value)}: it seems not to look at what is asked for.`;
}

/** Writes a field of a record with the value that it has. */
async function writeBack(
  connector: Connector,
  store: RecordStore,
  system: string,
  { type, id, field }: Extract<DraftTry, { what: 'write back' }>,
): Promise<Partial<Tried>> {
  const there = await store.get(type, id);
  if (!there) return { problem: `There is no record ${id}.` };
  const value = readPath(there.record, field) ?? null;
  const edits = [{ path: field, before: value, after: value }];
  const guarded: GuardedChange = {
    change: { kind: 'edit', ref: { system, recordType: type, id }, edits },
    ...(there.version !== undefined && { version: there.version }),
  };
  const [result] = await (connector.writeAsIs?.(type, guarded) ?? store.write(type, [guarded]));
  if (!result?.ok) return { problem: result?.problem.message ?? 'No result came back.' };
  return {
    sentence: `${field} of ${id} was written back as it is.`,
    records: [{ ref: there.ref, record: result.record ?? {} }],
  };
}

interface Tried {
  readonly sentence: string;
  readonly problem: string;
  readonly records: readonly { readonly ref: StoredRecord['ref']; readonly record: JsonObject }[];
  readonly next: string | null;
}

function tried(
  exchanges: readonly Exchanged[],
  { sentence = '', problem = '', records = [], next = null }: Partial<Tried>,
): TriedView {
  return {
    exchanges: exchanges.map(({ status, ...exchanged }) => ({ ...exchanged, status: status ?? null })),
    sentence,
    problem,
    ids: records.map(({ ref }) => ref.id),
    next,
  };
}
