import { changedPaths } from '../model/equal';
import type { ChangeEvent } from '../model/event';
import { readPath, type JsonObject } from '../model/json';
import type { RecordRef } from '../model/record';
import { leafFields, type RecordType } from '../model/system';

/** What is supposed to have happened to a record. */
export type Supposed =
  | { readonly kind: 'created'; readonly record: JsonObject }
  | { readonly kind: 'updated'; readonly record: JsonObject; readonly before: JsonObject }
  | { readonly kind: 'deleted'; readonly record: JsonObject };

/** What tells an event from others; ids and times come from outside. */
interface EventMark {
  readonly id: string;
  /** ISO 8601, with its zone. */
  readonly time: string;
}

/** Returns a change event as a record's system would tell of it, though it has not happened. */
export function eventAsIf(
  ref: RecordRef,
  type: RecordType,
  supposed: Supposed,
  { id, time }: EventMark,
): ChangeEvent {
  const { record } = supposed;
  const base = { id, source: `/${ref.system}`, ref, time, record };
  switch (supposed.kind) {
    case 'created': {
      const there = leafFields(type.fields).filter(({ path }) => readPath(record, path) !== undefined);
      return { ...base, kind: 'created', changed: there.map(({ path }) => path) };
    }
    case 'updated': {
      const { before } = supposed;
      return { ...base, kind: 'updated', before, changed: changedPaths(type.fields, before, record) };
    }
    case 'deleted':
      return { ...base, kind: 'deleted', before: record, changed: [] };
  }
}
