import { visitWithin } from '../model/elements';
import { isJsonObject, writePath, type Json, type JsonObject } from '../model/json';
import { refOf, type RecordRef, type StoredRecord } from '../model/record';
import type { Sample } from '../model/sample';
import { Catalog, watchableFields, type System } from '../model/system';
import type { Expectation } from '../model/expected';

/** Digits at the end of a number by which two ways of writing it are the same, and how many of them are put out of sight. */
const tellingDigits = 9;
const maskedDigits = 3;
const digits = '0123456789';
/** In words up to this length two of one sample could come to the same by chance. */
const shortWord = 3;
const letters = 'abcdefghijklmnopqrstuvwxyz';

/**
 * Returns a sample whose personal and secret values cannot be read any more: letters become other letters, the last digits others, with
 * length, case and punctuation as they were. The same value becomes the same everywhere in the sample, so that keys still meet, and two
 * values stay two, so that what changed still changes. A field in which such a value stands once is masked wherever it stands. The sample
 * keeps which fields these are.
 */
export function maskSample<S extends Omit<Sample, 'id'>>(sample: S, systems: readonly System[]): S {
  if (sample.masked) return sample;
  const { event, records, expected } = sample;
  const documents: readonly (readonly [RecordRef, JsonObject])[] = [
    [event.ref, event.record],
    ...(event.before ? [[event.ref, event.before] as const] : []),
    ...records.map(({ ref, record }) => [ref, record] as const),
    // What is to be written to a personal field is personal too, wherever it comes from.
    ...(expected?.records ?? []).map(({ key, fields }) => [refOf(key), writtenWith(fields)] as const),
  ];
  const { mask, maskAll, fields: hidden } = maskOf(documents, event.id, systems, []);
  const maskWanted = (wanted: Readonly<Record<string, Expectation>>) =>
    Object.fromEntries(
      Object.entries(wanted).map(([path, one]) => [
        path,
        one.is === 'equal' ? { ...one, value: mask(one.value) } : one,
      ]),
    );
  return {
    ...sample,
    masked: hidden,
    event: {
      ...event,
      record: maskAll(event.record),
      ...(event.before && { before: maskAll(event.before) }),
    },
    records: records.map((stored) => ({ ...stored, record: maskAll(stored.record) })),
    ...(expected && {
      expected: {
        ...expected,
        records: expected.records.map((record) => ({ ...record, fields: maskWanted(record.fields) })),
        messages: expected.messages.map((message) => ({ ...message, data: maskWanted(message.data) })),
      },
    }),
  };
}

function writtenWith(fields: Readonly<Record<string, Expectation>>): JsonObject {
  return Object.entries(fields).reduce<JsonObject>(
    (made, [path, one]) => (one.is === 'equal' ? writePath(made, path, one.value) : made),
    {},
  );
}

/** Returns records that were read for a masked sample later, masked as the same values are masked in it, and in the same fields. */
export function maskRecords(
  records: readonly StoredRecord[],
  { event, masked: hidden = [] }: Pick<Sample, 'event' | 'masked'>,
  systems: readonly System[],
): readonly StoredRecord[] {
  const documents = records.map(({ ref, record }) => [ref, record] as const);
  const { maskAll } = maskOf(documents, event.id, systems, hidden);
  return records.map((stored) => ({ ...stored, record: maskAll(stored.record) }));
}

interface Masking {
  readonly mask: (json: Json) => Json;
  readonly maskAll: (record: JsonObject) => JsonObject;
  /** The fields whose values are hidden, as `system/type/path`. */
  readonly fields: readonly string[];
}

/** Returns how the values of personal fields, and of those that are hidden already, are masked, wherever they stand. */
function maskOf(
  documents: readonly (readonly [RecordRef, JsonObject])[],
  salt: string,
  systems: readonly System[],
  hidden: readonly string[],
): Masking {
  const texts = textsIn(documents, new Catalog(systems));
  const fields = new Set([...hidden, ...texts.filter(({ personal }) => personal).map(({ field }) => field)]);
  const known = new Set<string>();
  // Until no further field is found: each round adds a field or is the last.
  for (let before = -1; before < fields.size;) {
    before = fields.size;
    for (const { field, identity } of texts) if (fields.has(field)) known.add(identity);
    for (const { field, identity, isKey } of texts) if (!isKey && known.has(identity)) fields.add(field);
  }
  const mask = (json: Json): Json => {
    if (typeof json === 'string') return known.has(identityOf(json)) ? masked(json, salt) : json;
    if (Array.isArray(json)) return (json as readonly Json[]).map(mask);
    return isJsonObject(json) ? maskAll(json) : json;
  };
  const maskAll = (record: JsonObject): JsonObject =>
    Object.fromEntries(Object.entries(record).map(([name, value]) => [name, mask(value ?? null)]));
  return { mask, maskAll, fields: [...fields].sort() };
}

interface Text {
  readonly field: string;
  readonly identity: string;
  readonly personal: boolean;
  /** The id of its own record, which stays as it is outside of it. */
  readonly isKey: boolean;
}

function textsIn(
  documents: readonly (readonly [RecordRef, JsonObject])[],
  catalog: Catalog,
): readonly Text[] {
  return documents.flatMap(([{ system, recordType }, record]) => {
    const type = catalog.recordType(system, recordType);
    return watchableFields(type?.fields ?? []).flatMap(({ path, field }): Text[] =>
      textsAt(record, path).map((value) => ({
        field: `${system}/${recordType}/${path}`,
        identity: identityOf(value),
        personal: field.sensitivity !== undefined,
        isKey: path === type?.idField,
      })),
    );
  });
}

/** Returns the texts that stand at a path, several where it leads through a list. */
function textsAt(record: JsonObject, path: string): readonly string[] {
  const texts: string[] = [];
  visitWithin(record, path.split('.'), (json) => {
    if (typeof json === 'string' && json !== '') texts.push(json);
    return true;
  });
  return texts;
}

/** Returns what two ways of writing the same value have in common: the last digits of a number, and otherwise the text. */
function identityOf(text: string): string {
  return tellingOf(text) ?? text.normalize('NFC');
}

/** Returns the digits by which a number is known; undefined for what is no number. */
function tellingOf(text: string): string | undefined {
  const all = text.replace(/\D/g, '');
  const isNumber = all.length >= tellingDigits && /^[+\d\s().\-/]+$/.test(text);
  return isNumber ? all.slice(-tellingDigits) : undefined;
}

function masked(text: string, salt: string): string {
  const telling = tellingOf(text);
  if (telling === undefined) return text.replace(/\p{L}+/gu, (word) => otherWord(word, salt));
  const shown = telling.slice(0, -maskedDigits);
  return withLastDigits(text, movedOn(telling.slice(-maskedDigits), digits, shown + salt));
}

/**
 * Returns a text of the same length, each of whose signs was moved on in their alphabet by as much as what stands before it says. No sign
 * stays, and two texts never become the same: the first sign in which they differ is moved on by as much in both.
 */
function movedOn(text: string, alphabet: string, salt: string): string {
  return [...text]
    .map((sign, at) => {
      const by = 1 + (hash(text.slice(0, at) + salt) % (alphabet.length - 1));
      return alphabet.charAt((alphabet.indexOf(sign) + by) % alphabet.length);
    })
    .join('');
}

/** Returns the same text with other digits at its end, whatever stands between them. */
function withLastDigits(text: string, ending: string): string {
  const left = [...ending];
  return [...text]
    .reverse()
    .map((character) => (/\d/.test(character) && left.length > 0 ? (left.pop() ?? character) : character))
    .reverse()
    .join('');
}

function otherWord(word: string, salt: string): string {
  const small = word.toLowerCase();
  const others =
    word.length <= shortWord && /^[a-z]+$/.test(small)
      ? [...movedOn(small, letters, salt)]
      : [...word].map((_letter, at) => letters.charAt(hash(`${small}${at}${salt}`) % letters.length));
  return [...word]
    .map((letter, at) => {
      const other = others[at] ?? '';
      return letter === letter.toLowerCase() ? other : other.toUpperCase();
    })
    .join('');
}

/** FNV-1a, 32 bits (draft-eastlake-fnv): spreads well and is quick; what it hides is protected by who may see the sample. */
function hash(text: string): number {
  let value = 0x811c9dc5;
  for (let at = 0; at < text.length; at++) value = Math.imul(value ^ text.charCodeAt(at), 0x01000193) >>> 0;
  return value;
}
