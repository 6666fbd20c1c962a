import type Joi from 'joi';
import joiToJson from 'joi-to-json';
import {
  bundleSchema,
  changeEventSchema,
  describedOutcomeSchema,
  expectedSchema,
  storedRecordSchema,
} from '@vast-knot/core';

type JsonSchema = { readonly [member: string]: unknown };

/** The JSON Schemas (2020-12) of the formats that go in and come out, made from the schemas that hold them. */
export function jsonSchemas(): ReadonlyMap<string, string> {
  const records = { type: 'array', items: converted(storedRecordSchema) };
  const schemas: readonly (readonly [string, string, JsonSchema])[] = [
    ['bundle', 'A bundle: systems, tables, rules and samples', converted(bundleSchema)],
    ['event', 'A change event, as samples keep it', converted(changeEventSchema)],
    ['records', 'The records that an event meets', records],
    ['expected', 'What a sample expects of its outcome', converted(expectedSchema)],
    ['outcome', 'What an event leaves behind', converted(describedOutcomeSchema)],
  ];
  return new Map(
    schemas.map(([name, title, schema]) => [
      `docs/schemas/${name}.json`,
      `${JSON.stringify({ $schema: 'https://json-schema.org/draft/2020-12/schema', title, ...schema }, null, 2)}\n`,
    ]),
  );
}

function converted(schema: Joi.Schema): JsonSchema {
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
