import type Joi from 'joi';
import joiToJson from 'joi-to-json';

export type JsonSchema = { readonly [member: string]: unknown };

/** Returns the JSON Schema (2020-12) of what a Joi schema lets through. What has more conditions than JSON Schema can say is wider there. */
export function jsonSchemaOf(schema: Joi.Schema): JsonSchema {
  return tidied((joiToJson as unknown as Converter)(schema, 'json-draft-2019-09')) as JsonSchema;
}

type Converter = (schema: Joi.Schema, draft: string) => JsonSchema;

/** The converter leaves the flag of a pattern in its text; JSON Schema reads patterns as Unicode anyway (2020-12, 6.4). */
function withoutFlag(pattern: unknown): unknown {
  return typeof pattern === 'string' ? pattern.replace(/\/u$/, '') : tidied(pattern);
}

/** The converter names a pattern of names among the properties as well, and says of what may be anything all that it may be. */
function tidied(part: unknown): unknown {
  if (Array.isArray(part)) return part.map(tidied);
  if (typeof part !== 'object' || part === null) return part;
  const kept = Object.entries(part).filter(([name]) => !(name.startsWith('/^') && name.endsWith('/')));
  const { type, ...others } = Object.fromEntries(
    kept.map(([name, value]) => [name, name === 'pattern' ? withoutFlag(value) : tidied(value)]),
  );
  const anything = Array.isArray(type) && type.length > 3;
  return type === undefined || anything ? others : { type, ...others };
}
