import type Joi from 'joi';
import { changeEventSchema, eventKinds } from '../model/event';
import { refSchema, storedRecordSchema } from '../model/record';
import { newSampleSchema } from '../model/sample';
import { leafFields, type Field, type RecordType, type System } from '../model/system';
import { expectedSchema } from '../model/expected';

/** What can stand at the cursor in a sample that is written as JSON. */
export interface SampleCompletion {
  /** Where the word at the cursor begins, after its quote. */
  readonly from: number;
  /** Whether the word stands in quotes already. */
  readonly quoted: boolean;
  readonly options: readonly { readonly text: string; readonly detail: string; readonly isKey: boolean }[];
}

/** What the keys are for; the keys themselves are those of the schemas. */
const meanings: Readonly<Record<string, string>> = {
  id: 'makes it unique',
  source: 'where it comes from, such as /customer-book',
  kind: 'what happened',
  ref: 'which record',
  time: 'when, with its zone',
  record: 'as it is now',
  before: 'as it was',
  changed: 'fields that differ',
  input: 'what the person was asked',
  rule: 'the one rule that it is for',
  reviewed: 'forms that a person filled in',
  folded: 'changes that were folded into it',
  name: 'how the bench calls it',
  note: 'what it is for',
  tags: 'words to find it by',
  event: 'what comes in',
  records: 'what it meets',
  masked: 'fields whose values are masked',
  expected: 'what must come of it',
  messages: 'what must be sent',
  problems: 'what must go wrong',
  system: 'key of the system',
  recordType: 'API name of the type',
  version: 'of the record, as its system counts',
};

/** The documents that samples are made of, with their schemas. */
const shapes: Readonly<Record<string, readonly Joi.Schema[]>> = {
  top: [changeEventSchema, newSampleSchema],
  event: [changeEventSchema],
  sample: [newSampleSchema],
  ref: [refSchema],
  stored: [storedRecordSchema],
  expected: [expectedSchema],
};

function keysOf(shape: string): readonly string[] {
  return (shapes[shape] ?? []).flatMap((schema) =>
    Object.keys((schema.describe() as { keys?: object }).keys ?? {}),
  );
}

/** Where a cursor stands in a JSON text that need not be whole. */
interface CursorPlace {
  /** Keys from the top to the object at the cursor; the elements of a list are `[]`. */
  readonly path: readonly string[];
  /** The key whose value is at the cursor; absent where a key is. */
  readonly key: string | undefined;
  readonly from: number;
  readonly quoted: boolean;
}

/** Keys and values that can stand at the cursor: from the formats of samples and events, and from the fields of the record type. */
export function completeSample(
  text: string,
  at: number,
  systems: readonly System[],
): SampleCompletion | undefined {
  const place = placeAt(text, at);
  if (!place) return undefined;
  const { from, quoted } = place;
  const options =
    place.key === undefined ? keyOptions(place, text, at, systems) : valueOptions(place, text, at, systems);
  return options.length === 0 ? undefined : { from, quoted, options };
}

type Options = SampleCompletion['options'];

function keyOptions({ path }: CursorPlace, text: string, at: number, systems: readonly System[]): Options {
  const inRecord = recordPart(path);
  if (inRecord) {
    return fieldsUnder(typeNear(text, at, systems), inRecord).map(({ name, label, type }) => ({
      text: name,
      detail: `${label}, ${type}`,
      isKey: true,
    }));
  }
  return keysOf(shapeAt(path)).map((key) => ({ text: key, detail: meanings[key] ?? '', isKey: true }));
}

function valueOptions(
  { path, key = '' }: CursorPlace,
  text: string,
  at: number,
  systems: readonly System[],
): Options {
  const value = (name: string, detail: string) => ({ text: name, detail, isKey: false });
  const inRecord = recordPart(path);
  if (inRecord) {
    const field = fieldsUnder(typeNear(text, at, systems), inRecord).find(({ name }) => name === key);
    return (field?.options ?? []).map((option) => value(option.value, option.label));
  }
  if (path.at(-1) === 'ref') {
    if (key === 'system') return systems.map((system) => value(system.key, system.name));
    if (key === 'recordType') {
      const named = nearest(text, at, 'system');
      return systems
        .filter((system) => named === undefined || system.key === named)
        .flatMap(({ recordTypes }) => recordTypes.map((type) => value(type.name, type.label)));
    }
    return [];
  }
  if (path.at(-1) === '[]' && path.at(-2) === 'changed')
    return leafFields(typeNear(text, at, systems)?.fields ?? []).map((leaf) => value(leaf.path, leaf.label));
  return key === 'kind' ? eventKinds.map((kind) => value(kind, 'kind of event')) : [];
}

/** Returns the keys below `record` or `before`; undefined elsewhere. */
function recordPart(path: readonly string[]): readonly string[] | undefined {
  const at = path.findIndex((key) => key === 'record' || key === 'before');
  return at === -1 ? undefined : path.slice(at + 1);
}

function fieldsUnder(type: RecordType | undefined, path: readonly string[]): readonly Field[] {
  return path.reduce<readonly Field[]>(
    (fields, key) => fields.find(({ name }) => name === key)?.fields ?? [],
    type?.fields ?? [],
  );
}

function shapeAt(path: readonly string[]): string {
  const last = path.at(-1);
  if (last === 'ref' || last === 'event' || last === 'expected') return last;
  if (last === '[]') {
    const list = path.at(-2);
    return list === 'records' ? 'stored' : list === 'samples' ? 'sample' : list === undefined ? 'top' : '';
  }
  return last === undefined ? 'top' : '';
}

/** Returns the record type that is named nearest to the cursor: before it if possible. */
function typeNear(text: string, at: number, systems: readonly System[]): RecordType | undefined {
  const [system, name] = [nearest(text, at, 'system'), nearest(text, at, 'recordType')];
  return systems
    .filter(({ key }) => system === undefined || key === system)
    .flatMap(({ recordTypes }) => recordTypes)
    .find((type) => type.name === name);
}

function nearest(text: string, at: number, key: string): string | undefined {
  const all = [...text.matchAll(new RegExp(`"${key}"\\s*:\\s*"([^"]*)"`, 'g'))];
  return (all.findLast(({ index }) => index < at) ?? all[0])?.[1];
}

/** Reads the text up to the cursor as far as it is JSON; what comes after does not matter. */
function placeAt(text: string, at: number): CursorPlace | undefined {
  const open: { readonly kind: '{' | '['; key: string | undefined }[] = [];
  let word: { readonly from: number; text: string } | undefined;
  let last = '';
  for (let index = 0; index < at; index++) {
    const character = text[index] ?? '';
    if (word) {
      if (character === '\\') index++;
      else if (character === '"') {
        last = word.text;
        word = undefined;
      } else word.text += character;
      continue;
    }
    const inner = open.at(-1);
    if (character === '"') word = { from: index + 1, text: '' };
    else if (character === '{' || character === '[') open.push({ kind: character, key: undefined });
    else if (character === '}' || character === ']') open.pop();
    else if (character === ':' && inner) inner.key = last;
    else if (character === ',' && inner) inner.key = undefined;
  }
  const inner = open.at(-1);
  if (!inner) return undefined;
  const bare = /[\w-]*$/.exec(text.slice(0, at))?.[0] ?? '';
  const path = open
    .slice(0, -1)
    .map(({ kind, key }) => (kind === '[' ? '[]' : (key ?? '')))
    .concat(inner.kind === '[' ? ['[]'] : []);
  // In a list the values are its elements; in an object a key comes first.
  const key = inner.kind === '[' ? '' : inner.key;
  return { path, key, from: word ? word.from : at - bare.length, quoted: word !== undefined };
}
