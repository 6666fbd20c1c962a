import {
  isJsonObject,
  isLongNumber,
  scalarText,
  parseCloudEvent,
  readPointer,
  type JsonObject,
} from '@vast-knot/core';
import type { EventStyle } from '../connector/events';
import type { ReceivedEvent } from '../inbox/inbox';

type ReadEvent =
  { readonly ok: true; readonly event: ReceivedEvent } | { readonly ok: false; readonly because: string };

/** A message as it came, and what is needed to read it. */
interface ReceivedMessage {
  readonly system: string;
  readonly style: EventStyle;
  /** The id field of each record type. */
  readonly idFields: ReadonlyMap<string, string>;
  readonly headers: Readonly<Record<string, string | undefined>>;
  readonly body: string;
  /** When it came; the time of an event that says none. */
  readonly receivedAt: Date;
}

/** Turns a system's message into a change event, as the system's connection says how its events are made. */
export function readEvent(message: ReceivedMessage): ReadEvent {
  const { system, style, idFields, headers, body, receivedAt } = message;
  // Some senders put a byte order mark before what they send (RFC 8259, 8.1).
  const parsed = parseCloudEvent(headers, body.replace(/^\ufeff/, ''));
  if (!parsed.ok) return parsed;
  const { event } = parsed;
  const meaning = Object.hasOwn(style.types, event.type) ? style.types[event.type] : undefined;
  if (!meaning)
    return {
      ok: false,
      because: `The event type “${event.type}” means nothing in the connection of ${system}.`,
    };
  const record = readPointer(event.data, style.record);
  if (!isJsonObject(record)) {
    return {
      ok: false,
      because: `The event ${event.id} has no record at ${style.record} of its data.`,
    };
  }
  const own = record[idFields.get(meaning.recordType) ?? 'id'];
  const id = event.subject ?? own;
  // In binary mode the signature covers the body alone; a subject in a header must not point to another record.
  if (event.subject !== undefined && own !== undefined && scalarText(own) !== event.subject) {
    return {
      ok: false,
      because: `The event ${event.id} is about ${event.subject}, and its record is ${scalarText(own)}.`,
    };
  }
  if (typeof id !== 'string' && typeof id !== 'number' && !isLongNumber(id)) {
    return {
      ok: false,
      because: `The event ${event.id} does not say which ${meaning.recordType} it is about.`,
    };
  }
  const unkeepable = cannotBeKept({
    id: event.id,
    source: event.source,
    subject: scalarText(id),
    data: event.data,
  });
  if (unkeepable) return { ok: false, because: `The event ${printable(event.id)} ${unkeepable}` };
  const time = timeOf(event.time, receivedAt);
  if (time === undefined) {
    return {
      ok: false,
      because: `The event ${event.id} says that it happens at ${event.time}, which is more than a day from now.`,
    };
  }
  const before = optionalAt(event.data, style.before);
  const changed = style.changed === undefined ? undefined : readPointer(event.data, style.changed);
  return {
    ok: true,
    event: {
      id: event.id,
      source: event.source,
      kind: meaning.kind,
      ref: { system, recordType: meaning.recordType, id: scalarText(id) },
      time,
      ...(event.time === undefined && { untimed: true }),
      record,
      ...(style.holds === 'part' && { part: true }),
      ...(before && { before }),
      claimed: Array.isArray(changed)
        ? changed.filter((path): path is string => typeof path === 'string')
        : [],
    },
  };
}

/** A clock may be ahead of ours by so much. */
const aheadMs = 24 * 60 * 60 * 1000;

/** Returns the time of an event; what is a little ahead of our clock happened now. Undefined for one far in the future. */
function timeOf(told: string | undefined, receivedAt: Date): string | undefined {
  if (told === undefined) return receivedAt.toISOString();
  const ahead = Date.parse(told) - receivedAt.getTime();
  if (ahead > aheadMs) return undefined;
  return ahead > 0 ? receivedAt.toISOString() : told;
}

/** Returns why a database cannot keep a value as it is: text with a NUL character or half a surrogate pair. */
function cannotBeKept(value: unknown, at = ''): string | undefined {
  if (typeof value === 'string') {
    if (value.includes('\0')) return `holds a NUL character${at && ` in ${at}`}.`;
    return value.isWellFormed() ? undefined : `holds half of a surrogate pair${at && ` in ${at}`}.`;
  }
  if (typeof value !== 'object' || value === null) return undefined;
  for (const [name, part] of Object.entries(value)) {
    const wrong = cannotBeKept(name) ?? cannotBeKept(part, printable(name));
    if (wrong) return wrong;
  }
  return undefined;
}

/** Returns text that can be kept and shown. */
function printable(text: string): string {
  return text.toWellFormed().replaceAll('\0', '\ufffd').slice(0, 200);
}

function optionalAt(data: unknown, pointer: string | undefined): JsonObject | undefined {
  const found = pointer === undefined ? undefined : readPointer(data, pointer);
  return isJsonObject(found) ? found : undefined;
}
