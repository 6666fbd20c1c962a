import { isJsonObject } from '../model/json';
import { isLongNumber } from '../model/longNumber';
import { printJson } from '../model/jsonText';

/**
 * Returns JSON as text that is the same for the same content, whoever made it: members in the order of their names (by UTF-16 units, as
 * RFC 8785, 3.2.3), two spaces to a level, and a line end. A member that is not defined is none.
 */
export function canonicalText(json: unknown): string {
  return `${printJson(sorted(json), 2)}\n`;
}

function sorted(json: unknown): unknown {
  if (Array.isArray(json)) return json.map(sorted);
  if (!isJsonObject(json) || isLongNumber(json)) return json;
  const members = Object.entries(json).filter(([, value]) => value !== undefined);
  return Object.fromEntries(
    members.sort(([a], [b]) => (a < b ? -1 : 1)).map(([name, value]) => [name, sorted(value)]),
  );
}
