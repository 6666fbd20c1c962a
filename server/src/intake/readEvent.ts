import { v4 as uuid } from 'uuid';
import { idOf, readTold, type Telling } from '@vast-knot/core';
import { storable } from '../db/storable';
import type { ReceivedEvent } from '../inbox/inbox';

type ReadEvent =
  { readonly ok: true; readonly event: ReceivedEvent } | { readonly ok: false; readonly because: string };

/** A message as it came, and what is needed to read it. */
interface ReceivedMessage {
  readonly system: string;
  readonly style: Telling;
  /** The id field of each record type. */
  readonly idFields: ReadonlyMap<string, string>;
  readonly headers: Readonly<Record<string, string | undefined>>;
  readonly body: string;
  /** When it came; the time of an event that says none. */
  readonly receivedAt: Date;
}

/** Turns a system's message into a change event, as the system's connection says how its messages are read. */
export function readEvent(message: ReceivedMessage): ReadEvent {
  const { system, style, idFields, headers, body, receivedAt } = message;
  const read = readTold(style, { headers, body }, system);
  if (!read.ok) return read;
  const { told } = read;
  const { recordType, kind } = told.meaning;
  const idField = idFields.get(recordType) ?? 'id';
  const own = idOf(idField, told.record);
  const id = told.subject ?? own;
  const name = told.id === undefined ? 'The message' : `The event ${printable(told.id)}`;
  // In binary mode the signature covers the body alone; a subject in a header must not point to another record.
  if (told.subject !== undefined && own !== undefined && own !== told.subject)
    return { ok: false, because: `${name} is about ${told.subject}, and its record is ${own}.` };
  if (id === undefined)
    return { ok: false, because: `${name} does not say which ${recordType} it is about.` };
  const { before, changed } = told;
  // A message without an id of its own cannot be told from one that is sent again; images do that.
  const messageId = told.id ?? uuid();
  const source = told.source ?? `/${system}`;
  const unkeepable = cannotBeKept({ id: messageId, source, subject: id, data: told.record, before, changed });
  if (unkeepable) return { ok: false, because: `${name} ${unkeepable}` };
  const time = timeOf(told.time, receivedAt);
  if (time === undefined)
    return {
      ok: false,
      because: `${name} says that it happens at ${told.time ?? ''}, which is more than a day from now.`,
    };
  return {
    ok: true,
    event: {
      id: messageId,
      source,
      kind,
      ref: { system, recordType, id },
      time,
      ...(told.time === undefined && { untimed: true }),
      // A message that holds nothing of the record tells its id.
      record: own === undefined ? { ...told.record, [idField]: id } : told.record,
      ...(told.part && { part: true }),
      ...(before && { before }),
      claimed: changed,
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
  return storable(text.slice(0, 200));
}
