import {
  fill,
  type ApplyResult,
  type RecordType,
  type StoredRecord,
  type TypeStyle,
  type WorkspaceError,
} from '@vast-knot/core';
import type { Guarded } from '../../byKind';
import { editsHold } from '../../writing';
import type { Exchange } from '../exchange';

/** A record as it was read alone, with the tag of the answer. */
export interface ReadRecord extends StoredRecord {
  readonly etag: string | undefined;
}

/** What writing records of a type needs of a connector. */
export interface Writing {
  readonly type: RecordType | undefined;
  readonly style: TypeStyle;
  readonly exchange: Exchange;
  /** Reads a record as the system sends it. Throws a WorkspaceError when it is none. */
  readonly stored: (body: unknown) => StoredRecord;
  /** Reads a record; undefined where there is none. */
  readonly read: (id: string) => Promise<ReadRecord | undefined>;
  /** What is there already is sent all the same: to see what the system says to it. */
  readonly asItIs?: boolean;
  /** Returns the records that hold these values. */
  readonly find: (
    values: Readonly<Record<string, StoredRecord['record'][string]>>,
  ) => Promise<readonly StoredRecord[]>;
}

/** Returns how a version is sent as `If-Match`; undefined where the system takes none. */
export function ifMatchOf({ version }: TypeStyle, at: string | undefined): string | undefined {
  return version.kind === 'field' && version.ifMatch !== undefined && at !== undefined
    ? fill(version.ifMatch, { version: at })
    : undefined;
}

/** What a look at a record says of an edit that is to be made. */
export type Looked =
  | { readonly is: 'as planned'; readonly now: ReadRecord }
  | { readonly is: 'settled'; readonly result: ApplyResult };

/**
 * Reads a record before it is written, for a system that guards nothing by itself, or wants more than the fields that change. What is
 * there already is not sent again; where a field is not as the edit was planned for, nothing is written.
 */
export async function lookBefore(
  { type, style, exchange, read, asItIs }: Writing,
  { change, version }: Guarded<'edit'>,
): Promise<Looked> {
  const now = await read(change.ref.id);
  const label = `${type?.label ?? 'record'} ${change.ref.id}`;
  if (!now) return settled(exchange.failure('not found', `has no ${label}.`));
  const holds = (which: 'before' | 'after') => editsHold(type, now.record, change.edits, which);
  if (holds('after') && !asItIs)
    return {
      is: 'settled',
      result: { ok: true, record: now.record, ...(now.version !== undefined && { version: now.version }) },
    };
  const moved = style.version.kind === 'field' && version !== undefined && now.version !== version;
  if (moved || !holds('before'))
    return settled(
      exchange.failure('changed in between', `: ${label} was changed by somebody else in between.`),
    );
  return { is: 'as planned', now };
}

function settled({ problem }: WorkspaceError): Looked {
  return {
    is: 'settled',
    result: { ok: false, problem: { ...problem, retry: problem.code === 'changed in between' } },
  };
}
