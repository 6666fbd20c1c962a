import Joi from 'joi';
import type { FieldEdit } from '../../change/changeKind';
import { writePath, type Json, type JsonObject } from '../../model/json';
import { headerName, methodSchema, pathTemplate, pointerSchema, type Style } from '../style';
import type { WireRequest } from '../wire';

/** What the styles that change one record at a time have in common. */
export interface AloneChanging {
  readonly method?: WireRequest['method'];
  /** `{path}` stands for the path of the record type, `{id}` for the id. */
  readonly path?: string;
  /** Where in what is sent the record stands; at the root, unless it says so. */
  readonly envelope?: string;
  /** Where in the answer the record stands. `none` is an answer without it, after which it is read. */
  readonly answer?: string;
  /** The header that carries the key by which a repeated request is known. */
  readonly keyHeader?: string;
}

export const aloneMembers = {
  method: methodSchema,
  path: pathTemplate,
  envelope: pointerSchema,
  answer: Joi.alternatives(pointerSchema, Joi.valid('none')),
  keyHeader: headerName,
};

/** An edit of one record, and the record as it was read for it. */
export interface EditAsked {
  readonly edits: readonly FieldEdit[];
  /** The record as it is now; undefined for a style that does not need it. */
  readonly now: JsonObject | undefined;
}

/** A style that changes one record with one request. */
export interface AloneStyle<C extends { readonly kind: string }> extends Style<C> {
  readonly method: WireRequest['method'];
  /** The media type of what is sent. */
  readonly mediaType: string;
  /** The whole record is needed to change some of it. */
  readonly needsRecord?: true;
  /** Returns what is sent. */
  body(edit: EditAsked): Json;
}

/** Returns edits as a JSON Merge Patch (RFC 7396): blank becomes null, which removes. */
export function mergePatchOf(
  edits: readonly { readonly path: string; readonly after: Json | undefined }[],
): JsonObject {
  return edits.reduce<JsonObject>((patch, edit) => writePath(patch, edit.path, edit.after ?? null), {});
}
