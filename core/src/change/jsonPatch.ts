import { applyPatch, type Operation } from 'rfc6902';
import { editsBetween } from './edit';
import type { RecordChange } from './recordChange';
import { isJsonObject, type Json, type JsonObject } from '../model/json';
import type { RecordRef } from '../model/record';
import { stepsOfPointer } from '../formats/jsonPointer';

export type { Operation } from 'rfc6902';

/** The document after a JSON Patch, or why the patch does not apply. The document given is left as it is. */
type Patched =
  { readonly ok: true; readonly document: Json } | { readonly ok: false; readonly because: string };

const unsafe = new Set(['__proto__', 'constructor', 'prototype']);

/** Applies a JSON Patch as a whole or not at all (RFC 6902, section 5). */
export function patchDocument(document: Json, operations: readonly Operation[]): Patched {
  // A patch is applied to a holder, so that an operation on the whole document is one on a member of it.
  const holder = { document: JSON.parse(JSON.stringify(document)) as Json };
  for (const [at, operation] of operations.entries()) {
    const refused = refuse(operation);
    if (refused) return { ok: false, because: `Operation ${at + 1}: ${refused}` };
    const [error] = applyPatch(holder, [inHolder(operation)]);
    if (error)
      return {
        ok: false,
        because: `Operation ${at + 1} (${operation.op} ${operation.path}): ${error.message}`,
      };
  }
  return { ok: true, document: holder.document };
}

/** Returns the change of a record that a JSON Patch describes, or why it describes none. */
export function changeFromJsonPatch(
  ref: RecordRef,
  record: JsonObject | undefined,
  operations: readonly Operation[],
): { readonly ok: true; readonly change: RecordChange } | { readonly ok: false; readonly because: string } {
  const patched = patchDocument(record ?? null, operations);
  if (!patched.ok) return patched;
  const after = patched.document;
  if (record && isJsonObject(after)) {
    return { ok: true, change: { kind: 'edit', ref, edits: editsBetween(record, after) } };
  }
  if (isJsonObject(after)) return { ok: true, change: { kind: 'create', ref, record: after } };
  if (record && after === null) return { ok: true, change: { kind: 'remove', ref, record } };
  return { ok: false, because: 'The patch leaves something that is not a record.' };
}

function refuse(operation: Operation): string | undefined {
  const pointers = 'from' in operation ? [operation.path, operation.from] : [operation.path];
  for (const pointer of pointers) {
    const steps = typeof pointer === 'string' ? stepsOfPointer(pointer) : undefined;
    if (!steps) return `“${String(pointer)}” is not a JSON Pointer.`;
    if (steps.some((step) => unsafe.has(step))) return `“${pointer}” is not allowed.`;
  }
  if (
    (operation.op === 'add' || operation.op === 'replace' || operation.op === 'test') &&
    operation.value === undefined
  ) {
    return `the operation “${operation.op}” needs a value.`;
  }
  return undefined;
}

function inHolder(operation: Operation): Operation {
  const path = `/document${operation.path}`;
  return 'from' in operation
    ? { ...operation, path, from: `/document${operation.from}` }
    : { ...operation, path };
}
