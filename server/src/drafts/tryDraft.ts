import type { Dispatcher } from 'undici';
import {
  foundSentence,
  httpConnectionSchema,
  readPath,
  systemOfDraft,
  WorkspaceError,
  type ConnectionDraft,
  type DraftTry,
  type JsonObject,
  type StoredRecord,
  type TriedView,
} from '@vast-knot/core';
import { withoutSecret, type Exchanged } from '../connector/exchanged';
import { Gates } from '../connector/gates';
import { HttpConnector } from '../connector/http/connector';
import type { RecordsPage } from '../connector/recordStore';

/** What a draft is tried with. */
export interface TryParts {
  readonly dispatcher: Dispatcher;
  readonly allowedOutbound: readonly string[];
  /** The secret for signing in. */
  readonly token: string;
  readonly now: Date;
}

/** Records of a page that is tried. */
const tryLimit = 25;
/** A try does not wait long, and makes few requests. */
const patienceSeconds = 10;

/**
 * Tries a statement of a draft on the real system. What went over the wire is told whatever comes of it; nothing is kept, and but for a
 * field that is written back as it is, nothing is written.
 */
export async function tryDraft(
  draft: ConnectionDraft,
  asked: DraftTry,
  { dispatcher, allowedOutbound, token, now }: TryParts,
): Promise<TriedView> {
  const exchanges: Exchanged[] = [];
  const checked = httpConnectionSchema.validate(draft.connection, { abortEarly: true });
  if (checked.error) return tried(exchanges, { problem: `${checked.error.message}.` });
  const limits = { ...checked.value.limits, patienceSeconds, requestsAtOnce: 2 };
  const connector = new HttpConnector(
    { ...checked.value, limits },
    {
      system: systemOfDraft(draft),
      token,
      dispatcher,
      allowedOutbound,
      // A gate of its own: what goes wrong in a try says nothing of a system that is at work.
      gateWith: (gate) => new Gates().of(draft.system.key, gate, draft.system.name || 'The system'),
      watch: (watched) => void exchanges.push(withoutSecret(watched)),
    },
  );
  const type = draft.recordTypes.find(({ name }) => name === asked.type);
  const found = ({ records, total, next }: RecordsPage) =>
    foundSentence({ records: records.map(({ record }) => record), total, next }, type, now);
  try {
    switch (asked.what) {
      case 'list': {
        const page = await connector.page({ type: asked.type, limit: tryLimit, cursor: asked.cursor });
        return tried(exchanges, { sentence: found(page), records: page.records, next: page.next });
      }
      case 'since': {
        const page = await connector.page({ type: asked.type, limit: tryLimit, since: asked.mark });
        return tried(exchanges, {
          sentence: `Changed since then: ${found(page)}`,
          records: page.records,
          next: page.next,
        });
      }
      case 'one': {
        const record = await connector.get(asked.type, asked.id);
        return tried(exchanges, {
          sentence: record ? `The record ${asked.id} is there.` : `There is no record ${asked.id}.`,
          records: record ? [record] : [],
        });
      }
      case 'find': {
        const records = await connector.find(asked.type, [{ field: asked.field, values: [asked.value] }], 50);
        return tried(exchanges, { sentence: findSentence(records, asked.field, asked.value), records });
      }
      case 'write back':
        return tried(exchanges, await writeBack(connector, draft.system.key, asked));
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
  connector: HttpConnector,
  system: string,
  { type, id, field }: Extract<DraftTry, { what: 'write back' }>,
): Promise<Partial<Tried>> {
  const there = await connector.get(type, id);
  if (!there) return { problem: `There is no record ${id}.` };
  const value = readPath(there.record, field) ?? null;
  const edits = [{ path: field, before: value, after: value }];
  const [result] = await connector.writeAsIs(type, {
    change: { kind: 'edit', ref: { system, recordType: type, id }, edits },
    ...(there.version !== undefined && { version: there.version }),
  });
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
