import Joi from 'joi';
import { eventKinds, type EventKind } from '../../model/event';
import type { JsonObject } from '../../model/json';
import { signingSchema, type Signing } from '../signing';
import { pointerSchema, type Style } from '../style';

/** What a kind of message is about. */
export interface Meaning {
  readonly recordType: string;
  readonly kind: EventKind;
}

/** What all ways of telling have in common. Places are JSON Pointers (RFC 6901). */
export interface AnyTelling {
  /** What a message says of its kind, to what it means. */
  readonly types: Readonly<Record<string, Meaning>>;
  readonly before?: string;
  readonly changed?: string;
  /** How messages show who sent them; by Standard Webhooks, unless it says so. */
  readonly signing?: Signing;
}

export const tellingMembers = {
  types: Joi.object()
    .pattern(
      Joi.string(),
      Joi.object({ recordType: Joi.string().required(), kind: Joi.valid(...eventKinds).required() }),
    )
    .required(),
  before: pointerSchema,
  changed: pointerSchema,
  signing: signingSchema,
};

/** A message as it came. */
export interface Message {
  /** With names in small letters. */
  readonly headers: Readonly<Record<string, string | undefined>>;
  readonly body: string;
}

/** What a message tells, before it is known to which record type it belongs. */
export interface Told {
  /** Undefined where a message has no id of its own. */
  readonly id: string | undefined;
  readonly source: string | undefined;
  readonly meaning: Meaning;
  readonly time: string | undefined;
  /** The id of the record, where the message says it beside the record. */
  readonly subject: string | undefined;
  /** The record, or what the message holds of it. */
  readonly record: JsonObject;
  /** Only a part of the record came: it is read before anything is made of it. */
  readonly part: boolean;
  readonly before: JsonObject | undefined;
  readonly changed: readonly string[];
}

export type ReadTold =
  { readonly ok: true; readonly told: Told } | { readonly ok: false; readonly because: string };

/** One way in which systems tell of changes. */
export interface TellingStyle<T extends AnyTelling & { readonly kind: string }> extends Style<T> {
  /** Reads a message; `system` stands in sentences. */
  read(telling: T, message: Message, system: string): ReadTold;
}

/** Returns the texts of a list; other values are left out. */
export function textsIn(value: unknown): readonly string[] {
  return Array.isArray(value) ? value.filter((each): each is string => typeof each === 'string') : [];
}
