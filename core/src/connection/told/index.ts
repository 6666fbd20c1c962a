import { schemaOfFamily } from '../style';
import { cloudEvents, type CloudEventsTelling } from './cloudEvents';
import { ownMessages, type OwnTelling } from './ownMessages';
import type { Message, ReadTold, TellingStyle } from './told';

export type { MessagePlace, OwnTelling } from './ownMessages';
export type { CloudEventsTelling } from './cloudEvents';
export type { Meaning, Told } from './told';

/** How the messages of a system are read. */
export type Telling = CloudEventsTelling | OwnTelling;

/** The ways of telling, in the order in which they are offered. */
export const tellings = [cloudEvents, ownMessages] as unknown as readonly TellingStyle<Telling>[];

export const tellingSchema = schemaOfFamily(tellings);

/** Reads a message as the system's connection says. Some senders put a byte order mark before what they send (RFC 8259, 8.1). */
export function readTold(telling: Telling, { headers, body }: Message, system: string): ReadTold {
  const style = tellings.find(({ kind }) => kind === telling.kind);
  const message = { headers, body: body.replace(/^\ufeff/, '') };
  return (
    style?.read(telling, message, system) ?? { ok: false, because: 'It is not said how messages are read.' }
  );
}
