import {
  bundleSchema,
  changeEventSchema,
  describedOutcomeSchema,
  expectedSchema,
  storedRecordSchema,
} from '@vast-knot/core';
import { jsonSchemaOf, type JsonSchema } from '../../server/src/http/jsonSchemaOf';

/** The JSON Schemas (2020-12) of the formats that go in and come out, made from the schemas that hold them. */
export function jsonSchemas(): ReadonlyMap<string, string> {
  const records = { type: 'array', items: jsonSchemaOf(storedRecordSchema) };
  const schemas: readonly (readonly [string, string, JsonSchema])[] = [
    ['bundle', 'A bundle: systems, tables, rules and samples', jsonSchemaOf(bundleSchema)],
    ['event', 'A change event, as samples keep it', jsonSchemaOf(changeEventSchema)],
    ['records', 'The records that an event meets', records],
    ['expected', 'What a sample expects of its outcome', jsonSchemaOf(expectedSchema)],
    ['outcome', 'What an event leaves behind', jsonSchemaOf(describedOutcomeSchema)],
  ];
  return new Map(
    schemas.map(([name, title, schema]) => [
      `docs/schemas/${name}.json`,
      `${JSON.stringify({ $schema: 'https://json-schema.org/draft/2020-12/schema', title, ...schema }, null, 2)}\n`,
    ]),
  );
}
