import Joi from 'joi';
import { pointerOfPath } from '../../formats/jsonPointer';
import { isJsonObject, readPath, type Json, type JsonObject } from '../../model/json';
import { aloneMembers, type AloneChanging, type AloneStyle, type EditAsked } from './changing';

/** Operations on the record, as a JSON Patch (RFC 6902). */
export interface JsonPatchChanging extends AloneChanging {
  readonly kind: 'json patch';
}

export const jsonPatch: AloneStyle<JsonPatchChanging> = {
  kind: 'json patch',
  label: 'by sending operations',
  meaning: 'Operations on the fields that change are sent (JSON Patch, RFC 6902).',
  schema: Joi.object<JsonPatchChanging>({ kind: Joi.valid('json patch').required(), ...aloneMembers }),
  method: 'PATCH',
  mediaType: 'application/json-patch+json',
  needsRecord: true,
  body: operationsFor,
};

/** An object has to be there before a member of it can be added (RFC 6902, 4.1). */
function operationsFor({ edits, now = {} }: EditAsked): Json {
  const made = new Set<string>();
  return edits.flatMap(({ path, after }): JsonObject[] => {
    const steps = path.split('.');
    if (after === undefined || after === null)
      return readPath(now, path) === undefined ? [] : [{ op: 'remove', path: pointerOfPath(path) }];
    const missing = steps.slice(1).flatMap((_step, at): JsonObject[] => {
      const above = steps.slice(0, at + 1).join('.');
      if (isJsonObject(readPath(now, above)) || made.has(above)) return [];
      made.add(above);
      return [{ op: 'add', path: pointerOfPath(above), value: {} }];
    });
    return [...missing, { op: 'add', path: pointerOfPath(path), value: after }];
  });
}
