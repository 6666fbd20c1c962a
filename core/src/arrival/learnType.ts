import { fileFormat, type FileSettings } from '../formats/files';
import { isoDate } from '../model/isoDate';
import type { Json, JsonObject } from '../model/json';
import { scalarText } from '../model/jsonText';
import { isBlankJson } from '../model/equal';
import type { Field, FieldType, RecordType } from '../model/system';
import type { LayoutLine } from './layout';
import { knownPlaces } from './suggestLayout';

/** A file of which the records are to become records of a type of their own. */
interface LearntFrom {
  readonly file: FileSettings;
  /** Some of its records. */
  readonly values: readonly JsonObject[];
  readonly name: string;
  readonly label: string;
}

/** A record type that was learnt from a file, and how the file fills it. */
export interface TypeOfFile {
  readonly type: RecordType;
  readonly lines: readonly LayoutLine[];
}

/** Fields of a type that is learnt; what stands at further places is left out. */
const mostFields = 300;
/** The field by which a record is known where no place of the file can be it. */
const ownId = 'row';

/**
 * Proposes a record type from some records of a file: a field for each place, of the type that all its values have; known by the first
 * place that has another value in each record.
 */
export function learnType({ file, values, name, label }: LearntFrom): TypeOfFile {
  const format = fileFormat(file);
  const names = new Set<string>([ownId]);
  const learnt = knownPlaces(format, values)
    .slice(0, mostFields)
    .flatMap((place) => {
      const read = format.address(place.address);
      if (!read.ok) return [];
      const found = values.map((value) => read.address.read(value) ?? null);
      const field: Field = {
        name: nameFor(place.label, names),
        label: place.label.slice(0, 120),
        ...kindOf(found),
      };
      names.add(field.name);
      return [{ field, from: place.address, found }];
    });
  const key = learnt.find(({ field, found }) => canBeKey(field, found));
  const idField = key?.field.name ?? ownId;
  const own: Field = { name: ownId, label: 'Row', type: 'text', readOnly: true };
  const fields = learnt.map(({ field }) => field);
  return {
    type: {
      name,
      label,
      plural: label,
      idField,
      nameField: fields.find((field) => field.type === 'text' && field.name !== idField)?.name ?? idField,
      fields: key ? fields : [own, ...fields],
    },
    lines: learnt.map(({ field, from }) => ({ field: field.name, from })),
  };
}

function canBeKey({ type }: Field, found: readonly Json[]): boolean {
  if ((type !== 'text' && type !== 'integer') || found.some(isBlankJson)) return false;
  const texts = new Set(found.map((value) => (typeof value === 'object' ? '' : scalarText(value))));
  return found.length > 1 && texts.size === found.length;
}

const whole = /^-?(0|[1-9]\d{0,14})$/;
const fraction = /^-?(0|[1-9]\d{0,14})\.\d+$/;

/** Returns the type that all values have; numbers that begin with 0 are codes. */
function kindOf(found: readonly Json[]): { readonly type: FieldType } {
  const values = found.filter((value) => !isBlankJson(value));
  if (values.some(Array.isArray)) return { type: 'multichoice' };
  const all = (fits: (text: string) => boolean) =>
    values.length > 0 && values.every((value) => typeof value !== 'object' && fits(scalarText(value)));
  if (values.length > 0 && values.every((value) => typeof value === 'boolean')) return { type: 'boolean' };
  if (all((text) => whole.test(text))) return { type: 'integer' };
  if (all((text) => whole.test(text) || fraction.test(text))) return { type: 'decimal' };
  return { type: all(isDay) ? 'date' : 'text' };
}

function isDay(text: string): boolean {
  if (!/^\d{4}-\d\d-\d\d$/.test(text)) return false;
  try {
    isoDate(text);
    return true;
  } catch {
    return false;
  }
}

/** Returns a name for formulas after what a place is called, which no other field has. */
function nameFor(label: string, taken: ReadonlySet<string>): string {
  const words =
    label
      .replaceAll('ß', 'ss')
      .normalize('NFKD')
      .replace(/\p{M}/gu, '')
      .match(/[A-Za-z0-9]+/g) ?? [];
  const joined = words
    .map((word, at) =>
      at === 0 ? word.toLowerCase() : word.charAt(0).toUpperCase() + word.slice(1).toLowerCase(),
    )
    .join('')
    .slice(0, 60);
  const base = /^[a-z]/.test(joined) ? joined : `field${joined}`;
  let name = base;
  for (let at = 2; taken.has(name); at++) name = `${base}${at}`;
  return name;
}
