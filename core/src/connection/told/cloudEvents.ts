import Joi from 'joi';
import { parseCloudEvent } from '../../formats/cloudEvents';
import { readPointer } from '../../formats/jsonPointer';
import { isJsonObject } from '../../model/json';
import { pointerSchema } from '../style';
import { tellingMembers, textsIn, type AnyTelling, type TellingStyle } from './told';

/** CloudEvents 1.0, in structured or binary mode. */
export interface CloudEventsTelling extends AnyTelling {
  readonly kind: 'cloud events';
  /** Where in the data of an event the record stands. */
  readonly record: string;
  /** Whether the record in a message is whole. Whole, unless it says so. */
  readonly holds?: 'whole' | 'part';
}

export const cloudEvents: TellingStyle<CloudEventsTelling> = {
  kind: 'cloud events',
  label: 'as CloudEvents',
  meaning: 'Messages are CloudEvents 1.0; type, id, time and record are where the standard has them.',
  schema: Joi.object<CloudEventsTelling>({
    kind: Joi.valid('cloud events').required(),
    record: pointerSchema.required(),
    holds: Joi.valid('whole', 'part'),
    ...tellingMembers,
  }),
  read({ types, record: place, before, changed, holds }, { headers, body }, system) {
    const parsed = parseCloudEvent(headers, body);
    if (!parsed.ok) return parsed;
    const { event } = parsed;
    const meaning = Object.hasOwn(types, event.type) ? types[event.type] : undefined;
    if (!meaning)
      return {
        ok: false,
        because: `The event type “${event.type}” means nothing in the connection of ${system}.`,
      };
    const record = readPointer(event.data, place);
    if (!isJsonObject(record))
      return { ok: false, because: `The event ${event.id} has no record at ${place} of its data.` };
    const was = before === undefined ? undefined : readPointer(event.data, before);
    return {
      ok: true,
      told: {
        id: event.id,
        source: event.source,
        meaning,
        time: event.time,
        subject: event.subject,
        record,
        part: holds === 'part',
        before: isJsonObject(was) ? was : undefined,
        changed: changed === undefined ? [] : textsIn(readPointer(event.data, changed)),
      },
    };
  },
};
