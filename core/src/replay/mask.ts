import { visitWithin } from '../model/elements';
import { isJsonObject, writePath, type Json, type JsonObject } from '../model/json';
import { refOf, type RecordRef, type StoredRecord } from '../model/record';
import type { Sample } from '../model/sample';
import { Catalog, watchableFields, type Field, type LeafField, type System } from '../model/system';
import type { Expectation, Expected } from '../model/expected';
import { identityOf, maskedOf, maskedText, maskedWord, numberLike, type Keyed } from './maskValue';

/** Words of a personal value that are looked for inside longer texts: names have few, and what is shorter is met by chance. */
const mostWords = 4;
const leastLetters = 3;

/**
 * Returns a sample whose personal and secret values cannot be read any more: letters become other letters, the last digits others, days
 * other days, with length, case and punctuation as they were; numbers, options, and yes or no in such fields as well. The same value becomes
 * the same everywhere in the sample, so that keys still meet, and two values stay two, so that what changed still changes. A field in which
 * such a value stands once is masked wherever it stands, and names and numbers are masked inside longer texts too, in what a person typed, and
 * in the name of the sample. The sample keeps which fields these are; the key of `keyed` is not kept with it.
 */
export function maskSample<S extends Omit<Sample, 'id'>>(
  sample: S,
  systems: readonly System[],
  keyed: Keyed,
): S {
  if (sample.masked) return sample;
  const { event, records, expected } = sample;
  const documents: readonly (readonly [RecordRef, JsonObject])[] = [
    [event.ref, event.record],
    ...(event.before ? [[event.ref, event.before] as const] : []),
    ...records.map(({ ref, record }) => [ref, record] as const),
    // What is to be written to a personal field is personal too, wherever it comes from.
    ...(expected?.records ?? []).map(({ key, fields }) => [refOf(key), writtenWith(fields)] as const),
  ];
  const {
    mask,
    maskAll,
    maskField,
    fields: hidden,
  } = maskOf(documents, salted(keyed, event.id), systems, []);
  return {
    ...sample,
    name: mask(sample.name) as string,
    note: mask(sample.note) as string,
    masked: hidden,
    event: {
      ...event,
      record: maskAll(event.ref, event.record),
      ...(event.before && { before: maskAll(event.ref, event.before) }),
      ...(event.input && { input: mask(event.input) as JsonObject }),
      ...(event.reviewed && {
        reviewed: event.reviewed.map((form) => ({ ...form, values: mask(form.values) as JsonObject })),
      }),
    },
    records: records.map((stored) => ({ ...stored, record: maskAll(stored.ref, stored.record) })),
    ...(expected && { expected: maskedExpected(expected, { mask, maskField }) }),
  };
}

function maskedExpected(
  expected: Expected,
  { mask, maskField }: Pick<Masking, 'mask' | 'maskField'>,
): Expected {
  const wanted = (fields: Readonly<Record<string, Expectation>>, ref?: RecordRef) =>
    Object.fromEntries(
      Object.entries(fields).map(([path, one]) => [
        path,
        one.is === 'equal' ? { ...one, value: mask(ref ? maskField(ref, path, one.value) : one.value) } : one,
      ]),
    );
  return {
    ...expected,
    records: expected.records.map((record) => ({
      ...record,
      fields: wanted(record.fields, refOf(record.key)),
    })),
    messages: expected.messages.map((message) => ({ ...message, data: wanted(message.data) })),
  };
}

/**
 * Returns what a masked sample is expected to give, as somebody said it later: a value in a masked field that does not stand in the sample as it
 * is by now was typed as it is in life, and is masked as the sample is.
 */
export function maskExpected(
  expected: Expected,
  sample: Pick<Sample, 'event' | 'masked' | 'records'>,
  systems: readonly System[],
  keyed: Keyed,
): Expected {
  const { event, records, masked: hidden = [] } = sample;
  const there = new Set(
    [event.record, event.before ?? {}, ...records.map(({ record }) => record)].flatMap((record) =>
      textsWithin(record).map(identityOf),
    ),
  );
  const typed = expected.records.map(({ key, fields }): readonly [RecordRef, JsonObject] => [
    refOf(key),
    writtenWith(
      Object.fromEntries(
        Object.entries(fields).filter(
          ([, one]) =>
            one.is === 'equal' && typeof one.value === 'string' && !there.has(identityOf(one.value)),
        ),
      ),
    ),
  ]);
  const { mask } = maskOf(typed, salted(keyed, event.id), systems, hidden);
  return maskedExpected(expected, { mask, maskField: (_ref, _path, json) => json });
}

function textsWithin(json: Json): readonly string[] {
  if (typeof json === 'string') return [json];
  if (Array.isArray(json)) return (json as readonly Json[]).flatMap(textsWithin);
  return isJsonObject(json) ? Object.values(json).flatMap((each) => textsWithin(each ?? null)) : [];
}

/** The same value of another sample becomes another one, so that samples cannot be linked. */
function salted(keyed: Keyed, salt: string): Keyed {
  return (text) => keyed(`${salt}\n${text}`);
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
  keyed: Keyed,
): readonly StoredRecord[] {
  const documents = records.map(({ ref, record }) => [ref, record] as const);
  const { maskAll } = maskOf(documents, salted(keyed, event.id), systems, hidden);
  return records.map((stored) => ({ ...stored, record: maskAll(stored.ref, stored.record) }));
}

interface Masking {
  /** Texts and days, wherever they stand. */
  readonly mask: (json: Json) => Json;
  /** A record as a whole, with what is no text in its personal fields. */
  readonly maskAll: (ref: RecordRef, record: JsonObject) => JsonObject;
  /** What is no text, of one field. */
  readonly maskField: (ref: RecordRef, path: string, json: Json) => Json;
  /** The fields whose values are hidden, as `system/type/path`. */
  readonly fields: readonly string[];
}

/** Returns how the values of personal fields, and of those that are hidden already, are masked, wherever they stand. */
function maskOf(
  documents: readonly (readonly [RecordRef, JsonObject])[],
  keyed: Keyed,
  systems: readonly System[],
  hidden: readonly string[],
): Masking {
  const catalog = new Catalog(systems);
  const texts = textsIn(documents, catalog);
  const others = personalOthers(systems);
  const fields = new Set([...hidden, ...texts.filter(({ personal }) => personal).map(({ field }) => field)]);
  const known = new Set<string>();
  const words = new Set<string>();
  // Until no further field is found: each round adds a field or is the last.
  for (let before = -1; before < fields.size;) {
    before = fields.size;
    for (const { field, identity, text } of texts) {
      if (!fields.has(field)) continue;
      known.add(identity);
      for (const word of wordsOfName(text)) words.add(word);
    }
    for (const { field, identity, isKey } of texts) if (!isKey && known.has(identity)) fields.add(field);
  }
  const maskText = (text: string): string => {
    if (known.has(identityOf(text))) return maskedText(text, keyed);
    return /\s/.test(text) ? maskedWithin(text, known, words, keyed) : text;
  };
  const mask = (json: Json): Json => {
    if (typeof json === 'string') return maskText(json);
    if (Array.isArray(json)) return (json as readonly Json[]).map(mask);
    return isJsonObject(json)
      ? Object.fromEntries(Object.entries(json).map(([name, value]) => [name, mask(value ?? null)]))
      : json;
  };
  const othersOf = ({ system, recordType }: RecordRef) => others.get(`${system}/${recordType}`) ?? [];
  const maskAll = (ref: RecordRef, record: JsonObject): JsonObject =>
    othersOf(ref).reduce(
      (made, { path, field }) =>
        changedWithin(made, path.split('.'), (json) => maskedOf(json, field, keyed)) as JsonObject,
      mask(record) as JsonObject,
    );
  const maskField = (ref: RecordRef, path: string, json: Json): Json => {
    const other = othersOf(ref).find((each) => each.path === path);
    return other ? maskedOf(json, other.field, keyed) : json;
  };
  for (const [type, list] of others)
    for (const { path } of list)
      if (documents.some(([{ system, recordType }]) => `${system}/${recordType}` === type))
        fields.add(`${type}/${path}`);
  return { mask, maskAll, maskField, fields: [...fields].sort() };
}

/** Returns the words of a short personal value, such as a name; those of a longer one are words that everybody uses. */
function wordsOfName(text: string): readonly string[] {
  const local = text.split('@')[0] ?? '';
  if (local.trim().split(/\s+/).length > mostWords) return [];
  return (local.match(/\p{L}+/gu) ?? [])
    .filter((word) => word.length >= leastLetters)
    .map((word) => word.toLowerCase());
}

/** Returns a longer text in which names, numbers and days that are personal elsewhere are masked. */
function maskedWithin(
  text: string,
  known: ReadonlySet<string>,
  words: ReadonlySet<string>,
  keyed: Keyed,
): string {
  return text
    .replace(numberLike, (part) => (known.has(identityOf(part)) ? maskedText(part, keyed) : part))
    .replace(/\p{L}+/gu, (word) => (words.has(word.toLowerCase()) ? maskedWord(word, keyed) : word));
}

/** Fields that are personal and hold no text: by record type, as `system/type`. */
function personalOthers(systems: readonly System[]): ReadonlyMap<string, readonly LeafField[]> {
  return new Map(
    systems.flatMap(({ key, recordTypes }) =>
      recordTypes.map(
        ({ name, fields, idField }) =>
          [
            `${key}/${name}`,
            watchableFields(fields).filter(
              ({ path, field }) =>
                field.sensitivity !== undefined &&
                path !== idField &&
                (isOther(field) || (field.options ?? []).length > 1),
            ),
          ] as const,
      ),
    ),
  );
}

const isOther = ({ type }: Field) => ['integer', 'decimal', 'number', 'boolean'].includes(type);

/** Returns JSON with the values at a path changed, several where it leads through a list. */
function changedWithin(json: Json, path: readonly string[], change: (json: Json) => Json): Json {
  const [step, ...rest] = path;
  if (Array.isArray(json)) return (json as readonly Json[]).map((each) => changedWithin(each, path, change));
  if (step === undefined) return json === null ? json : change(json);
  if (!isJsonObject(json) || !Object.hasOwn(json, step)) return json;
  return { ...json, [step]: changedWithin(json[step] ?? null, rest, change) };
}

interface Text {
  readonly field: string;
  readonly text: string;
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
      // A code is one of a few, and is masked as one of these.
      (field.options ?? []).length > 1
        ? []
        : textsAt(record, path).map((value) => ({
            field: `${system}/${recordType}/${path}`,
            text: value,
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
