import { isJsonObject, type Json, type JsonObject } from '../../model/json';
import { isLongNumber } from '../../model/longNumber';
import { scalarText } from '../../model/jsonText';
import { resultNames, type ResultRow } from './result';
import type { AddressRead, ShownPart } from './format';

/**
 * Returns what a JSON Pointer (RFC 6901) means within a record. Where it meets a list and names no place of it, it goes on in each element, and gives a
 * list: `/lines/kg` is the weight of every line.
 */
export function pointerAddress(text: string): AddressRead {
  // What stands behind it may be a part of a name.
  const pointer = text.trimStart();
  if (!pointer.startsWith('/'))
    return {
      ok: false,
      because: `“${pointer}” is no JSON Pointer: it begins with “/”, as /order/number does.`,
    };
  if (/~(?![01])/.test(pointer))
    return { ok: false, because: `“${pointer}” is no JSON Pointer: after “~” stands 0 or 1.` };
  const steps = pointer
    .slice(1)
    .split('/')
    .map((step) => step.replaceAll('~1', '/').replaceAll('~0', '~'));
  return { ok: true, address: { text: pointer, read: (value) => follow(value, steps, 0) ?? null } };
}

function follow(json: Json | undefined, steps: readonly string[], at: number): Json | undefined {
  const step = steps[at];
  if (step === undefined) return json;
  if (Array.isArray(json)) {
    if (/^(0|[1-9]\d*)$/.test(step)) return follow(json[Number(step)], steps, at + 1);
    const found = (json as readonly Json[]).flatMap((element): readonly Json[] => {
      const within = follow(element, steps, at);
      if (within === undefined || within === null) return [];
      return Array.isArray(within) ? (within as readonly Json[]) : [within];
    });
    return found.length === 0 ? undefined : found;
  }
  if (!isJsonObject(json) || !Object.hasOwn(json, step)) return undefined;
  return follow(json[step], steps, at + 1);
}

/** Elements of a list that are shown one by one. */
const mostShown = 50;

/** Returns an object as its members, and what is within them. */
export function shownObject(value: JsonObject, prefix = ''): readonly ShownPart[] {
  return Object.entries(value).map(([name, json]) =>
    shownJson(name, json ?? null, `${prefix}/${escaped(name)}`),
  );
}

const escaped = (name: string) => name.replaceAll('~', '~0').replaceAll('/', '~1');

function shownJson(label: string, json: Json, address: string): ShownPart {
  if (Array.isArray(json)) {
    const list = json as readonly Json[];
    const parts = list
      .slice(0, mostShown)
      .map((element, at) => shownJson(String(at), element, `${address}/${at}`));
    return { label, address, text: `${list.length} in a list`, parts };
  }
  if (isJsonObject(json) && !isLongNumber(json)) return { label, address, parts: shownObject(json, address) };
  return { label, address, text: scalarText(json) };
}

/** Returns an object with what became of it; of what could not be read, its text. */
export function withResult({ value, text, says, ids }: ResultRow): JsonObject {
  return { ...(value ?? { text }), [resultNames.says]: says, [resultNames.ids]: ids };
}
