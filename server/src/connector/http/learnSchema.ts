import { fieldsOfSchema, isJsonObject, readPointer, type LearntType } from '@vast-knot/core';
import type { Exchange } from './exchange';
import type { HttpConnection } from './httpConnection';

/** References that lead on to others; a longer way is a circle. */
const longestWay = 16;

/**
 * Returns what a system's OpenAPI document (3.0, 3.1) says of the record types of its connection: the schema of the answer that holds
 * one record. Throws a WorkspaceError when there is no such document, or nothing in it about a type.
 */
export async function learnSchema(
  connection: Pick<HttpConnection, 'document' | 'recordTypes'>,
  exchange: Exchange,
): Promise<readonly LearntType[]> {
  if (connection.document === undefined)
    throw exchange.failure('refused', 'does not describe itself: its connection names no document.');
  const document = exchange.succeeded(await exchange.ask({ method: 'GET', path: connection.document }));
  const resolve = (schema: unknown): unknown => {
    let here = schema;
    for (let steps = 0; isJsonObject(here) && typeof here['$ref'] === 'string'; steps++) {
      const ref = here['$ref'];
      if (steps === longestWay || !ref.startsWith('#')) return undefined;
      const pointer = unescaped(ref.slice(1));
      here = pointer === undefined ? undefined : readPointer(document, pointer);
    }
    return here;
  };
  const paths = isJsonObject(document) && isJsonObject(document['paths']) ? document['paths'] : {};
  return Object.entries(connection.recordTypes).map(([name, { path }]) => {
    const one = Object.keys(paths).find(
      (each) => each.startsWith(`${path}/{`) && each.indexOf('}') === each.length - 1,
    );
    const schema = one && readPointer(paths[one], '/get/responses/200/content/application~1json/schema');
    const fields = fieldsOfSchema(schema, resolve);
    if (fields.length === 0)
      throw exchange.misunderstood(`its document says nothing about one ${name} below ${path}`);
    return { name, fields };
  });
}

/** Returns the text of a URI fragment (RFC 3986, 2.1); undefined where a percent sign escapes nothing. */
function unescaped(fragment: string): string | undefined {
  try {
    return decodeURIComponent(fragment);
  } catch {
    return undefined;
  }
}
