import { eventKinds } from '../model/event';
import { leafFields, type Field, type RecordType, type System } from '../model/system';

/** What can stand at the cursor in a sample that is written as JSON. */
export interface SampleCompletion {
  /** Where the word at the cursor begins, after its quote. */
  readonly from: number;
  /** Whether the word stands in quotes already. */
  readonly quoted: boolean;
  readonly options: readonly { readonly text: string; readonly detail: string; readonly isKey: boolean }[];
}

/** Keys of the documents that are written by hand, with what each is for. */
const keysOf: Readonly<Record<string, Readonly<Record<string, string>>>> = {
  event: {
    id: 'makes it unique',
    source: 'where it comes from, such as /customer-book',
    kind: 'what happened',
    ref: 'which record',
    time: 'when, with its zone',
    record: 'as it is now',
    before: 'as it was',
    changed: 'fields that differ',
  },
  sample: {
    name: 'how the bench calls it',
    note: 'what it is for',
    tags: 'words to find it by',
    event: 'what comes in',
    records: 'what it meets',
    expected: 'what must come of it',
  },
  ref: { system: 'key of the system', recordType: 'API name of the type', id: 'as the system has it' },
  stored: { ref: 'which record', record: 'what it holds' },
};

/** Where a cursor stands in a JSON text that need not be whole. */
interface Place {
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

function keyOptions({ path }: Place, text: string, at: number, systems: readonly System[]): Options {
  const inRecord = recordPart(path);
  if (inRecord) {
    return fieldsUnder(typeNear(text, at, systems), inRecord).map(({ name, label, type }) => ({
      text: name,
      detail: `${label}, ${type}`,
      isKey: true,
    }));
  }
  const shape = shapeAt(path);
  const kinds = shape === 'top' ? { ...keysOf['event'], ...keysOf['sample'] } : (keysOf[shape] ?? {});
  return Object.entries(kinds).map(([key, detail]) => ({ text: key, detail, isKey: true }));
}

function valueOptions(
  { path, key = '' }: Place,
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

/** The keys below `record` or `before`; undefined elsewhere. */
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
  if (last === 'ref' || last === 'event') return last;
  if (last === '[]') {
    const list = path.at(-2);
    return list === 'records' ? 'stored' : list === 'samples' ? 'sample' : list === undefined ? 'top' : '';
  }
  return last === undefined ? 'top' : '';
}

/** The record type that is named nearest to the cursor: before it if possible. */
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
function placeAt(text: string, at: number): Place | undefined {
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
