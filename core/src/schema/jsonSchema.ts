import { isJsonObject, type JsonObject } from '../model/json';
import { fieldsOfSchema, plain } from './fieldsOfSchema';
import { resolveIn } from './openApi/document';
import type { Proposal, ProposedType } from './proposal';
import { idFieldOf, recordTypeOf, withReferences } from './recordType';

export type ProposedFromSchema =
  { readonly ok: true; readonly proposal: Proposal } | { readonly ok: false; readonly because: string };

/**
 * Proposes record types from a JSON Schema (2020-12): the object that it describes, the elements of the list that it describes, or
 * the objects among its definitions.
 */
export function proposeFromJsonSchema(schema: unknown, name = 'record'): ProposedFromSchema {
  if (!isJsonObject(schema))
    return { ok: false, because: 'It is no object, and so no JSON Schema that tells of fields.' };
  const resolve = resolveIn(schema);
  const root = plain(schema, resolve);
  const list = root && root['items'] !== undefined ? plain(root['items'], resolve) : undefined;
  const own = list ?? root;
  const definitions = isJsonObject(schema['$defs'])
    ? schema['$defs']
    : isJsonObject(schema['definitions'])
      ? schema['definitions']
      : {};
  const title = own && typeof own['title'] === 'string' ? own['title'] : name;
  const objects: (readonly [name: string, schema: JsonObject])[] =
    own && isJsonObject(own['properties'])
      ? [[title, own]]
      : Object.entries(definitions).flatMap(([key, each]) => {
          const inner = plain(each, resolve);
          return inner && isJsonObject(inner['properties']) ? [[key, inner] as const] : [];
        });
  const leftOut: string[] = [];
  const types = objects.flatMap(([key, each]): ProposedType[] => {
    const fields = fieldsOfSchema(each, resolve, 'words');
    const id = idFieldOf(fields, key);
    if (!id) {
      leftOut.push(`${key}: none of its fields could be the id of a record.`);
      return [];
    }
    const type = recordTypeOf(key.replace(/[.'"[\]{}()]/g, ' ').trim() || name, {
      fields,
      idField: id.field,
      readOnlyId: fields.find(({ name: own }) => own === id.field)?.readOnly ?? false,
    });
    const reasons = [{ about: id.about, because: `it is the id, because ${id.because}`, sure: id.sure }];
    return [{ type, style: undefined, reasons }];
  });
  if (types.length === 0)
    return { ok: false, because: leftOut[0] ?? 'It describes no object with properties.' };
  const { types: referring, reasons } = withReferences(types.map(({ type }) => type));
  return {
    ok: true,
    proposal: {
      name: undefined,
      baseUrl: undefined,
      signIn: undefined,
      types: types.map((each, at) => {
        const type = referring[at] ?? each.type;
        return { ...each, type, reasons: [...each.reasons, ...(reasons.get(type.name) ?? [])] };
      }),
      reasons: [],
      leftOut,
    },
  };
}
