import Joi from 'joi';
import { readPointer } from '../../formats/jsonPointer';
import { isJsonObject, type JsonObject } from '../../model/json';
import { parseJson, scalarText } from '../../model/jsonText';
import { isLongNumber } from '../../model/longNumber';
import { headerName, pointerSchema } from '../style';
import { tellingMembers, textsIn, type AnyTelling, type TellingStyle } from './told';

/** A place in a message: in its body, or in one of its headers. */
export type MessagePlace = { readonly at: string } | { readonly header: string };

/** Messages of the system's own making. */
export interface OwnTelling extends AnyTelling {
  readonly kind: 'own';
  /** What says the kind of the message; the texts of several places are put together with a space. */
  readonly type: readonly MessagePlace[];
  /** Where the id of the record stands, if it is not in the record. */
  readonly id?: MessagePlace;
  /** Where the record stands; without it the message has only an id, and the record is read. */
  readonly record?: string;
  readonly holds?: 'whole' | 'part';
  /** Where the time of the change stands: a date-time, or seconds or milliseconds since 1970. */
  readonly time?: MessagePlace;
  /** Where the message says its own id, by which a repeated one is known. */
  readonly message?: MessagePlace;
}

const place = Joi.alternatives<MessagePlace>(
  Joi.object({ at: pointerSchema.required() }),
  Joi.object({ header: headerName.required() }),
);

export const ownMessages: TellingStyle<OwnTelling> = {
  kind: 'own',
  label: 'in messages of its own',
  meaning: 'Messages have a shape of their own: it is said where kind, id and record stand in them.',
  schema: Joi.object<OwnTelling>({
    kind: Joi.valid('own').required(),
    type: Joi.array().items(place).max(4).required(),
    id: place,
    record: pointerSchema,
    holds: Joi.valid('whole', 'part'),
    time: place,
    message: place,
    ...tellingMembers,
  }),
  read(telling, { headers, body: text }, system) {
    const { types, type, id, record: recordAt, holds, time, message, before, changed } = telling;
    let body: unknown;
    try {
      body = parseJson(text);
    } catch {
      return { ok: false, because: 'The message is not JSON.' };
    }
    const textAt = (at: MessagePlace | undefined): string | undefined => {
      if (at === undefined) return undefined;
      if ('header' in at) return headers[at.header.toLowerCase()];
      const found = readPointer(body, at.at);
      const isScalar = typeof found === 'string' || typeof found === 'number' || isLongNumber(found);
      return isScalar ? scalarText(found) : undefined;
    };
    const name = type.map((each) => textAt(each) ?? '').join(' ');
    const meaning = Object.hasOwn(types, name) ? types[name] : undefined;
    if (!meaning)
      return {
        ok: false,
        because: `The kind of message “${name}” means nothing in the connection of ${system}.`,
      };
    const subject = textAt(id);
    const record = recordAt === undefined ? undefined : readPointer(body, recordAt);
    if (recordAt !== undefined && !isJsonObject(record))
      return { ok: false, because: `The message has no record at “${recordAt}”.` };
    if (record === undefined && subject === undefined)
      return { ok: false, because: 'The message does not say which record it is about.' };
    const was = before === undefined ? undefined : readPointer(body, before);
    return {
      ok: true,
      told: {
        id: textAt(message),
        source: undefined,
        meaning,
        time: dateTimeOf(textAt(time)),
        subject,
        record: isJsonObject(record) ? record : noRecord,
        part: record === undefined || holds === 'part',
        before: isJsonObject(was) ? was : undefined,
        changed: changed === undefined ? [] : textsIn(readPointer(body, changed)),
      },
    };
  },
};

const noRecord: JsonObject = {};

/** Returns a time as a date-time of ISO 8601; undefined for what is none. */
function dateTimeOf(text: string | undefined): string | undefined {
  if (text === undefined) return undefined;
  const seconds = /^\d{9,10}$/.test(text);
  const at = seconds ? Number(text) * 1000 : /^\d{12,13}$/.test(text) ? Number(text) : Date.parse(text);
  return Number.isNaN(at) ? undefined : new Date(at).toISOString();
}
