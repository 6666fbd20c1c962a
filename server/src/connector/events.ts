import Joi from 'joi';
import { eventKinds, type EventKind } from '@vast-knot/core';

/** What the messages of a system mean. Places in them are JSON Pointers (RFC 6901). */
export interface EventStyle {
  /** CloudEvents type to what it means. */
  readonly types: Readonly<Record<string, { readonly recordType: string; readonly kind: EventKind }>>;
  readonly record: string;
  readonly before?: string;
  readonly changed?: string;
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
});
