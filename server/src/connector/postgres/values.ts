import { types } from 'pg';
import { instantIn, jsonNumber, parseJson, plainTimeIn, scalarText, type Json } from '@vast-knot/core';

/** Types of PostgreSQL by their numbers (`pg_type.dat` of its sources; from memory, held by a test). */
export const oids = {
  bool: 16,
  int8: 20,
  int2: 21,
  int4: 23,
  oid: 26,
  json: 114,
  float4: 700,
  float8: 701,
  date: 1082,
  timestamp: 1114,
  timestamptz: 1184,
  numeric: 1700,
  uuid: 2950,
  jsonb: 3802,
} as const;

type Read = (text: string) => Json;

/** A float keeps every whole number and fraction of so few digits. */
const shortNumber = 15;

const number: Read = (text) =>
  text.length <= shortNumber && !/[a-z]/i.test(text) ? Number(text) : numberOrText(text);

/** Numbers that are none, such as `NaN`, have no other form in JSON. */
function numberOrText(text: string): Json {
  return /^[-+]?\d/.test(text) ? jsonNumber(text) : text;
}

/** `2026-01-05 08:00:00.5+00` as ISO 8601 has it. Times without an end, and before our era, stay as they are. */
const instant: Read = (text) =>
  /^\d{4}-.*\+00$/.test(text) ? `${text.slice(0, 10)}T${text.slice(11, -3)}Z` : text;

/** Returns the reader of times that name no zone. */
export function zoneless(zone: string): (text: string) => string {
  if (zone === 'UTC') return (text) => (/^\d{4}-[^B]*$/.test(text) ? `${text.replace(' ', 'T')}Z` : text);
  // Times without an end have no zone either.
  return (text) => instantIn(zone, text) ?? text;
}

/** Returns what reads the values of a column as JSON, by the number of its type, as the database sends them: as text. */
export function readersIn(zone: string): (oid: number) => Read {
  const readers = new Map<number, Read>([
    [oids.bool, (text) => text === 't'],
    [oids.int2, Number],
    [oids.int4, Number],
    [oids.oid, Number],
    [oids.int8, number],
    [oids.numeric, number],
    [oids.float4, numberOrText],
    [oids.float8, numberOrText],
    [oids.timestamptz, instant],
    [oids.timestamp, zoneless(zone)],
    [oids.json, parseJson],
    [oids.jsonb, parseJson],
  ]);
  const asText: Read = (text) => text;
  return (oid) => readers.get(oid) ?? arrays.get(oid) ?? asText;
}

/** Arrays of texts, numbers and the like, which the driver reads. */
const arrays: ReadonlyMap<number, Read> = new Map(
  [1000, 1005, 1007, 1009, 1015, 1016, 1021, 1022, 2951].map((oid) => [
    oid,
    (text) => (types.getTypeParser(oid, 'text') as Read)(text),
  ]),
);

/** The greatest number of each type; the least is one further from zero. */
const greatest = new Map([
  [oids.int2, 2n ** 15n - 1n],
  [oids.int4, 2n ** 31n - 1n],
  [oids.int8, 2n ** 63n - 1n],
]);

/** Returns whether a column of a type can hold a value, as far as that is easily told; the database refuses to look for what it cannot. */
export function canHold(oid: number | undefined, value: Json): boolean {
  const text = scalarText(value).trim();
  if (text === '') return true;
  const most = greatest.get(oid as 20 | 21 | 23);
  if (most !== undefined) {
    if (!/^[-+]?\d{1,40}$/.test(text)) return false;
    const number = BigInt(text.replace('+', ''));
    return number <= most && number >= -most - 1n;
  }
  if (oid === oids.uuid) return /^\{?([0-9a-f]{4}-?){8}\}?$/i.test(text);
  return oid !== oids.bool || /^(t|true|f|false|yes|y|no|n|on|off|0|1)$/i.test(text);
}

/** Returns a value as it is written: a time, for a column whose times name no zone, is told in the zone of the connection. */
export function written(value: Json | undefined, oid: number | undefined, zone: string): Json {
  if (value === undefined || value === '') return null;
  if (oid !== oids.timestamp || typeof value !== 'string') return value;
  // One without a zone is meant as it stands; what is no time is refused by the database.
  return plainTimeIn(zone, value) ?? value;
}
