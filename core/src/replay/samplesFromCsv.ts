import { readCsv } from '../formats/csv';
import { isJsonObject, writePath, type Json, type JsonObject } from '../model/json';
import { parseJson, scalarText } from '../model/jsonText';
import { leafFields, type Field, type RecordType } from '../model/system';
import { eventAsIf } from './asIf';
import { namedAfter, type ReadSamples, type SampleDraft } from './readSamples';

/** What stands before the name of a field in the head of a column that tells what the field held before. */
const beforeMark = 'before.';

/** Whose records the rows are, and what no file says: when it happened, and ids for the events. */
export interface CsvRows {
  readonly system: string;
  readonly type: RecordType;
  /** ISO 8601, with its zone. */
  readonly time: string;
  readonly newId: () => string;
}

interface Column {
  readonly path: string;
  readonly field: Field;
  readonly before: boolean;
}

/**
 * Samples from a CSV file (RFC 4180): a record of one type on each line, its columns headed by the names or labels of fields. Where
 * columns such as `before.phone` tell what a field held before, each line is an update of a record that its system completes (`wholeDraft`);
 * else each is a record just created.
 */
export function samplesFromCsv(text: string, rows: CsvRows): ReadSamples {
  const csv = readCsv(text);
  if ('problem' in csv) return { ok: false, problems: [csv.problem] };
  const [head = [], ...lines] = csv.lines;
  const problems: string[] = [];
  const columns = head.map((name, at) => {
    const column = columnNamed(name.trim(), rows.type);
    if (!column) problems.push(`Column ${at + 1}: ${rows.type.label} has no field “${name.trim()}”.`);
    return column;
  });
  if (!columns.some((column) => column && !column.before && column.path === rows.type.idField))
    problems.push(`No column is headed “${rows.type.idField}”, so the records have no id.`);
  const updates = columns.some((column) => column?.before);
  const drafts = lines.flatMap((cells, at): SampleDraft[] => {
    const line = `Line ${at + 2}`;
    if (cells.length > head.length)
      problems.push(`${line} has ${cells.length} values for ${head.length} columns.`);
    let [record, earlier]: [JsonObject, JsonObject] = [{}, {}];
    for (const [place, column] of columns.entries()) {
      if (!column) continue;
      const read = valueIn(cells[place] ?? '', column.field);
      if ('problem' in read) problems.push(`${line}, “${head[place] ?? ''}”: ${read.problem}`);
      else if (column.before) earlier = writePath(earlier, column.path, read.json);
      else record = writePath(record, column.path, read.json);
    }
    const id = record[rows.type.idField];
    if (id === null || id === undefined || id === '') {
      problems.push(`${line}: the record has no ${rows.type.idField}.`);
      return [];
    }
    const ref = { system: rows.system, recordType: rows.type.name, id: scalarText(id) };
    const event = eventAsIf(
      ref,
      rows.type,
      updates ? { kind: 'updated', record, before: merged(record, earlier) } : { kind: 'created', record },
      { id: rows.newId(), time: rows.time },
    );
    return [{ ...namedAfter(event, rows.type.label), event, ...(updates && { partial: true as const }) }];
  });
  if (problems.length === 0 && drafts.length === 0) problems.push('There is no line under the heads.');
  return problems.length > 0 ? { ok: false, problems } : { ok: true, drafts };
}

function columnNamed(head: string, type: RecordType): Column | undefined {
  const before = head.toLowerCase().startsWith(beforeMark);
  const name = before ? head.slice(beforeMark.length) : head;
  const leaves = leafFields(type.fields);
  const leaf =
    leaves.find(({ path }) => path === name) ??
    leaves.find(({ label }) => label.toLowerCase() === name.toLowerCase());
  return leaf && { path: leaf.path, field: leaf.field, before };
}

/** Returns a draft whose record is completed by what its system has of it; as it is where the system has none. */
export function wholeDraft(draft: SampleDraft, held: JsonObject | undefined): SampleDraft {
  const { partial, ...whole } = draft;
  if (!partial || !held) return whole;
  const { event } = whole;
  const { before } = event;
  return {
    ...whole,
    event: {
      ...event,
      record: merged(held, event.record),
      ...(before && { before: merged(held, before) }),
    },
  };
}

/** Returns the record with the values of before in the place of its own. */
function merged(record: JsonObject, earlier: JsonObject): JsonObject {
  return Object.entries(earlier).reduce<JsonObject>((made, [name, value]) => {
    const own = made[name];
    return { ...made, [name]: isObject(value) && isObject(own) ? merged(own, value) : (value ?? null) };
  }, record);
}

function isObject(json: Json | undefined): json is JsonObject {
  return typeof json === 'object' && json !== null && !Array.isArray(json);
}

type Read = { readonly json: Json } | { readonly problem: string };

/** Returns a cell as the field's type has it; an empty one is blank. */
function valueIn(cell: string, field: Field): Read {
  const text = cell.trim();
  if (text === '') return { json: null };
  switch (field.type) {
    case 'integer':
    case 'decimal':
      return /^-?\d+(\.\d+)?$/.test(text) && (field.type === 'decimal' || !text.includes('.'))
        ? { json: numberOf(text) }
        : { problem: `“${text}” is no ${field.type === 'integer' ? 'whole ' : ''}number.` };
    case 'boolean':
      if (/^(true|yes|1)$/i.test(text)) return { json: true };
      return /^(false|no|0)$/i.test(text) ? { json: false } : { problem: `“${text}” is neither yes nor no.` };
    case 'choice':
      return { json: optionFor(text, field) };
    case 'multichoice':
      return { json: text.split(';').map((part) => optionFor(part.trim(), field)) };
    case 'object':
    case 'list':
      return structureIn(text, field);
    default:
      return { json: cell };
  }
}

/** Returns a list or an object, which stands in a cell as JSON text. */
function structureIn(text: string, { type }: Field): Read {
  try {
    const json = parseJson(text);
    if (type === 'list' ? Array.isArray(json) : isJsonObject(json)) return { json };
  } catch {
    // Not JSON: the sentence below says what is wanted.
  }
  return { problem: `“${text.slice(0, 80)}” is not a ${type === 'list' ? 'list' : 'object'} in JSON.` };
}

/** Significant digits that a JSON number is sure to keep (IEEE 754, double precision). */
const keptDigits = 15;

function numberOf(text: string): Json {
  return text.replace(/\D/g, '').length > keptDigits ? text : Number(text);
}

/** Returns the value of an option that is named by its value or its label; what is no option is kept, as an event may hold it. */
function optionFor(text: string, { options = [] }: Field): string {
  return (
    options.find(({ value }) => value === text)?.value ??
    options.find(({ label }) => label === text)?.value ??
    text
  );
}
