import { isJsonObject, parseCloudEvent, readPointer, type JsonObject } from '@vast-knot/core';
import type { Inlet } from '../connector/connection';
import type { ReceivedEvent } from '../inbox/inbox';

export type ReadEvent =
  { readonly ok: true; readonly event: ReceivedEvent } | { readonly ok: false; readonly because: string };

/** Turns a system's message into a change event, as the system's connection says how its events are made. */
export function readEvent(
  system: string,
  connection: Inlet,
  idFields: ReadonlyMap<string, string>,
  headers: Readonly<Record<string, string | undefined>>,
  body: string,
): ReadEvent {
  const parsed = parseCloudEvent(headers, body);
  if (!parsed.ok) return parsed;
  const { event } = parsed;
  const meaning = Object.hasOwn(connection.events.types, event.type)
    ? connection.events.types[event.type]
    : undefined;
  if (!meaning)
    return {
      ok: false,
      because: `The event type “${event.type}” means nothing in the connection of ${system}.`,
    };
  const record = readPointer(event.data, connection.events.record);
  if (!isJsonObject(record)) {
    return {
      ok: false,
      because: `The event ${event.id} has no record at ${connection.events.record} of its data.`,
    };
  }
  const own = record[idFields.get(meaning.recordType) ?? 'id'];
  const id = event.subject ?? own;
  // In binary mode the signature covers the body alone; a subject in a header must not point to another record.
  if (event.subject !== undefined && own !== undefined && String(own) !== event.subject) {
    return {
      ok: false,
      because: `The event ${event.id} is about ${event.subject}, and its record is ${String(own)}.`,
    };
  }
  if (typeof id !== 'string' && typeof id !== 'number') {
    return {
      ok: false,
      because: `The event ${event.id} does not say which ${meaning.recordType} it is about.`,
    };
  }
  const before = optionalAt(event.data, connection.events.before);
  const changed =
    connection.events.changed === undefined ? undefined : readPointer(event.data, connection.events.changed);
  return {
    ok: true,
    event: {
      id: event.id,
      source: event.source,
      kind: meaning.kind,
      ref: { system, recordType: meaning.recordType, id: String(id) },
      time: event.time ?? new Date().toISOString(),
      record,
      ...(before && { before }),
      claimed: Array.isArray(changed)
        ? changed.filter((path): path is string => typeof path === 'string')
        : [],
    },
  };
}

function optionalAt(data: unknown, pointer: string | undefined): JsonObject | undefined {
  const found = pointer === undefined ? undefined : readPointer(data, pointer);
  return isJsonObject(found) ? found : undefined;
}
