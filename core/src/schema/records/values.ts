import { isLongNumber } from '../../model/longNumber';
import { isJsonObject, type Json, type JsonObject } from '../../model/json';
import type { Field, FieldType } from '../../model/system';
import type { Reason } from '../proposal';
import { labelOf } from '../words';

/** Records that are looked at for one type. */
export const mostRecords = 1000;
/** Objects in objects that are looked into. */
const deepest = 5;
/** So many different texts may be options, where each comes several times. */
const mostOptions = 12;
/** With fewer values nothing is said of options. */
const enoughForOptions = 20;

/** What was seen of the values of one field. */
interface Seen {
  readonly values: readonly Json[];
  /** Records in which it was blank or absent. */
  readonly blank: number;
}

/** Returns the fields that values have, with what speaks for each. `count` is how many records there are. */
export function fieldsOfValues(
  records: readonly JsonObject[],
  prefix = '',
  depth = 0,
): { readonly fields: readonly Field[]; readonly reasons: readonly Reason[] } {
  const names = [...new Set(records.flatMap((record) => Object.keys(record)))];
  const fields: Field[] = [];
  const reasons: Reason[] = [];
  for (const name of names) {
    if (!/^[^.'"[\]{}()]{1,120}$/u.test(name)) continue;
    const all = records.map((record) => record[name] ?? null);
    const values = all.filter((value) => value !== null && value !== '');
    const seen = { values, blank: all.length - values.length };
    const path = prefix + name;
    const read = fieldOf(name, seen, path, depth);
    if (!read) continue;
    fields.push(read.field);
    reasons.push(...read.reasons);
  }
  return { fields, reasons };
}

function fieldOf(
  name: string,
  { values, blank }: Seen,
  path: string,
  depth: number,
): { readonly field: Field; readonly reasons: readonly Reason[] } | undefined {
  const label = labelOf(name).slice(0, 120);
  const of = `${values.length} ${values.length === 1 ? 'value' : 'values'}`;
  const blanks = blank === 0 ? ', never blank' : `, ${blank} times blank`;
  const simple = (
    type: FieldType,
    because: string,
    sure: Reason['sure'] = values.length < 5 ? 'guess' : 'likely',
    more: Partial<Field> = {},
  ) => ({
    field: { name, label, type, ...more },
    reasons: [{ about: path, because: `${because}${blanks}`, sure }],
  });
  if (values.length === 0) return simple('text', 'it was always blank', 'guess');
  const every = (fits: (value: Json) => boolean) => values.every(fits);
  if (every((value) => typeof value === 'boolean')) return simple('boolean', `${of}, all true or false`);
  if (every(isNumber)) {
    const whole = every((value) => typeof value === 'number' && Number.isInteger(value));
    const numbers = values.filter((value) => typeof value === 'number');
    const range =
      numbers.length > 0
        ? ` from ${numbers.reduce((a, b) => Math.min(a, b))} to ${numbers.reduce((a, b) => Math.max(a, b))}`
        : '';
    return simple(whole ? 'integer' : 'decimal', `${of}, ${whole ? 'whole ' : ''}numbers${range}`);
  }
  if (every((value) => typeof value === 'string'))
    return textField(name, label, values as string[], path, blanks);
  if (every(isJsonObject) && depth < deepest) {
    const inner = fieldsOfValues(values as JsonObject[], `${path}.`, depth + 1);
    if (inner.fields.length === 0) return undefined;
    return { field: { name, label, type: 'object', fields: inner.fields }, reasons: inner.reasons };
  }
  if (every(Array.isArray)) return listField(name, label, values as Json[][], path, blanks, depth);
  return simple('text', `${of} of several kinds`, 'guess');
}

function isNumber(value: Json): boolean {
  return typeof value === 'number' || isLongNumber(value);
}

const isoDate = /^\d{4}-\d\d-\d\d$/;
const isoDateTime = /^\d{4}-\d\d-\d\d[T ]\d\d:\d\d(:\d\d(\.\d+)?)?(Z|[+-]\d\d:?\d\d)?$/i;
/** Other ways of writing a date, which stay text and can be read with a formula. */
const otherDates: readonly (readonly [RegExp, string])[] = [
  [/^\d{1,2}\/\d{1,2}\/\d{4}$/, 'dates with slashes'],
  [/^\d{1,2}\.\d{1,2}\.\d{4}$/, 'dates with dots'],
  [/^\d{8}$/, 'perhaps dates without separators'],
];

function textField(
  name: string,
  label: string,
  texts: readonly string[],
  path: string,
  blanks: string,
): { readonly field: Field; readonly reasons: readonly Reason[] } {
  const sure: Reason['sure'] = texts.length < 5 ? 'guess' : 'likely';
  const made = (type: FieldType, because: string, more: Partial<Field> = {}) => ({
    field: { name, label, type, ...more },
    reasons: [{ about: path, because: `${because}${blanks}`, sure }],
  });
  const of = `${texts.length} ${texts.length === 1 ? 'value' : 'values'}`;
  if (texts.every((text) => isoDate.test(text))) return made('date', `${of}, all dates (ISO 8601)`);
  if (texts.every((text) => isoDateTime.test(text)))
    return made('datetime', `${of}, all date-times (ISO 8601)`);
  const different = new Set(texts);
  const short = texts.every((text) => text.length <= 40 && !/[@/\n]/.test(text));
  if (
    texts.length >= enoughForOptions &&
    different.size <= mostOptions &&
    different.size * 3 <= texts.length &&
    short
  ) {
    const options = [...different]
      .sort()
      .map((value) => ({ value, label: labelOf(value).slice(0, 120) || value }));
    return made('choice', `only ${different.size} different in ${of}`, { options });
  }
  const longest = texts.reduce((most, text) => Math.max(most, [...text].length), 0);
  const [, form] = otherDates.find(([pattern]) => texts.every((text) => pattern.test(text))) ?? [];
  return made('text', `${of}, at most ${longest} characters${form === undefined ? '' : `, ${form}`}`);
}

function listField(
  name: string,
  label: string,
  lists: readonly Json[][],
  path: string,
  blanks: string,
  depth: number,
): { readonly field: Field; readonly reasons: readonly Reason[] } {
  const elements = lists.flat().slice(0, mostRecords);
  const because = `${lists.length} lists with ${elements.length} elements in all${blanks}`;
  const objects = elements.filter(isJsonObject);
  if (elements.length > 0 && objects.length === elements.length && depth < deepest) {
    const inner = fieldsOfValues(objects, `${path}.`, depth + 1);
    const field: Field = {
      name,
      label,
      type: 'list',
      ...(inner.fields.length > 0 && { fields: inner.fields }),
    };
    return { field, reasons: [{ about: path, because, sure: 'likely' }, ...inner.reasons] };
  }
  const texts = elements.filter((element): element is string => typeof element === 'string');
  const different = new Set(texts);
  if (
    texts.length === elements.length &&
    texts.length >= enoughForOptions &&
    different.size <= mostOptions &&
    different.size * 3 <= texts.length
  ) {
    const options = [...different]
      .sort()
      .map((value) => ({ value, label: labelOf(value).slice(0, 120) || value }));
    const field: Field = { name, label, type: 'multichoice', options };
    return {
      field,
      reasons: [{ about: path, because: `${because}, only ${different.size} different`, sure: 'likely' }],
    };
  }
  return { field: { name, label, type: 'list' }, reasons: [{ about: path, because, sure: 'likely' }] };
}
