import Joi from 'joi';
import { eventKinds, type EventKind } from '@vast-knot/core';
import { signingSchema, type Signing } from './signing';

/** What the messages of a system mean. Places in them are JSON Pointers (RFC 6901). */
export interface EventStyle {
  /** CloudEvents type to what it means. */
  readonly types: Readonly<Record<string, { readonly recordType: string; readonly kind: EventKind }>>;
  readonly record: string;
  readonly before?: string;
  readonly changed?: string;
  /** Whether the record in a message is whole; of a part, the record is read before anything is made of it. Whole, unless it says so. */
  readonly holds?: 'whole' | 'part';
  /** How messages show who sent them; by Standard Webhooks, unless it says so. */
  readonly signing?: Signing;
}

export const pointer = Joi.string().pattern(/^(\/.*)?$/, 'a JSON Pointer');

export const eventStyleSchema = Joi.object<EventStyle>({
  types: Joi.object()
    .pattern(
      Joi.string(),
      Joi.object({ recordType: Joi.string().required(), kind: Joi.valid(...eventKinds).required() }),
    )
    .required(),
  record: pointer.required(),
  before: pointer,
  changed: pointer,
  holds: Joi.valid('whole', 'part'),
  signing: signingSchema,
});
