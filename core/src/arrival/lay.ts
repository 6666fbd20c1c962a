import { fileFormat } from '../formats/files';
import type { Address } from '../formats/files/format';
import { compile, type Formula } from '../formula/compile';
import { encodeFor } from '../formula/encode';
import { eventInstant } from '../formula/names';
import { nearestName } from '../formula/nearest';
import type { Scope } from '../formula/scope';
import { typedReader } from '../formula/typedIn';
import { isBlankJson } from '../model/equal';
import { writePath, type Json, type JsonObject } from '../model/json';
import { scalarText } from '../model/jsonText';
import { leafFields, type Field, type LeafField, type RecordType } from '../model/system';
import type { TableIndex } from '../table/tableIndex';
import { formulaOf, type Layout } from './layout';
import { compileTidy, type TidyProblem } from '../engine/tidyTagged';

/** Why a line cannot be, or why it gives no value. */
export interface LineProblem {
  /** The field that it fills; blank for what is tidied before. */
  readonly field: string;
  readonly because: string;
}

/** A record that a record of a file became. Fields that could not be filled are named; the others hold their values. */
export interface Laid {
  readonly record: JsonObject;
  readonly problems: readonly LineProblem[];
}

/** When a file came: `NOW()` is this instant, ISO 8601. */
export interface LaidAt {
  readonly time: string;
}

/** A layout ready for any number of records. */
export interface CompiledLayout {
  /** Lines that fill nothing, each with the reason. */
  readonly problems: readonly LineProblem[];
  /** Fields that a record must have, and that no line fills. */
  readonly missing: readonly LeafField[];
  readonly lay: (value: JsonObject, at: LaidAt) => Laid;
}

interface ReadyLine {
  readonly leaf: LeafField;
  readonly address: Address;
}

interface ReadyFormula {
  readonly leaf: LeafField;
  readonly formula: Formula;
}

/** Reads and compiles a layout for records of a type; formulas may look values up in tables. */
export function compileLayout(
  layout: Layout,
  type: RecordType,
  tables: ReadonlyMap<string, TableIndex>,
): CompiledLayout {
  const format = fileFormat(layout.file);
  const leaves = leafFields(type.fields);
  const byPath = new Map(leaves.map((leaf) => [leaf.path, leaf]));
  const scope: Scope = { record: type.fields, found: new Map(), tables, places: format.address };
  const problems: LineProblem[] = [];
  const places: ReadyLine[] = [];
  const formulas: ReadyFormula[] = [];
  const filled = new Set<string>();
  for (const line of layout.lines) {
    const { field } = line;
    if (line.from.trim() === '') continue;
    const leaf = byPath.get(field);
    if (!leaf) {
      problems.push({ field, because: unknownField(type, field, [...byPath.keys()]) });
      continue;
    }
    if (filled.has(field)) problems.push({ field, because: `“${leaf.label}” is filled by two lines.` });
    filled.add(field);
    const formula = formulaOf(line);
    if (formula === undefined) {
      const read = format.address(line.from);
      if (read.ok) places.push({ leaf, address: read.address });
      else problems.push({ field, because: read.because });
    } else {
      const compiled = compile(formula, scope);
      if (compiled.ok) formulas.push({ leaf, formula: compiled.formula });
      else problems.push({ field, because: compiled.errors[0]?.message ?? 'The formula cannot be read.' });
    }
  }
  const missing = leaves.filter(({ path, field }) => field.required === true && !filled.has(path));
  const lay = layer(places, formulas);
  if (layout.file.kind !== 'tagged' || !layout.tidy?.length) return { problems, missing, lay };
  const { tidy, problems: unready } = compileTidy(layout.tidy);
  const told = ({ at, because }: TidyProblem): LineProblem => ({
    field: '',
    because: `Step ${at + 1} of what is tidied: ${because}`,
  });
  return {
    problems: [...problems, ...unready.map(told)],
    missing,
    lay: (value, at) => {
      const { record, problems: failed } = tidy(value, at);
      const laid = lay(record, at);
      // A record of which a step failed is not what it was to be.
      return failed.length === 0 ? laid : { ...laid, problems: [...laid.problems, ...failed.map(told)] };
    },
  };
}

/** Returns why a record type has no such field, with the name that comes near. */
export function unknownField({ label }: RecordType, field: string, known: readonly string[]): string {
  const near = nearestName(field, known);
  return `${label} has no field “${field}”.${near === undefined ? '' : ` Did you mean “${near}”?`}`;
}

function tooMany({ label }: Field, count: number, place: string): string {
  return `“${label}” holds one value, and there are ${count} at ${place}; name one of them, or join them with a formula: =TEXTJOIN(", ", TRUE, PLACE("${place}"))`;
}

function layer(places: readonly ReadyLine[], formulas: readonly ReadyFormula[]): CompiledLayout['lay'] {
  const readers = places.map(({ leaf: { path, field }, address }) => ({
    path,
    field,
    address,
    typed: typedReader(field),
    holdsMany: field.type === 'multichoice' || field.type === 'list',
  }));
  // Most fields stand in no object: they are put where they belong without a copy of the record.
  const isFlat = [...places, ...formulas].every(
    ({ leaf }) => !leaf.path.includes('.') && leaf.path !== '__proto__',
  );
  return (value, { time }) => {
    let record: Record<string, Json> = {};
    const problems: LineProblem[] = [];
    for (const { path, field, address, typed, holdsMany } of readers) {
      const found = address.read(value);
      if (Array.isArray(found) && !holdsMany) {
        problems.push({ field: path, because: tooMany(field, found.length, address.text) });
        continue;
      }
      const { json, problem } = typed(found);
      if (problem !== undefined) problems.push({ field: path, because: problem });
      else record = put(record, path, json, isFlat);
    }
    if (formulas.length > 0) {
      const event = { kind: 'file row', id: '', source: '', time: eventInstant(time) } as const;
      const env = {
        record,
        before: null,
        target: null,
        found: {},
        changed: new Set<string>(),
        row: value,
        event,
      };
      // Formulas see what places gave, and not one another, so that their order does not matter.
      const given = formulas.map(({ leaf, formula }) => ({
        path: leaf.path,
        ...encodeFor(leaf.field, formula.run(env)),
      }));
      for (const { path, json, problem } of given) {
        if (problem !== undefined) problems.push({ field: path, because: problem });
        else record = put(record, path, json, isFlat);
      }
    }
    return { record, problems };
  };
}

/** Puts a value into a record where it is not blank. A record without objects is changed in place. */
function put(
  record: Record<string, Json>,
  path: string,
  json: Json | undefined,
  isFlat: boolean,
): Record<string, Json> {
  if (json === undefined || isBlankJson(json)) return record;
  if (!isFlat) return { ...writePath(record, path, json) } as Record<string, Json>;
  record[path] = json;
  return record;
}

/** Returns the problems of a record as one sentence. */
export function problemText(problems: readonly LineProblem[]): string {
  return problems.map(({ because }) => because).join(' ');
}

/** Returns by which value a record is known within its file; undefined where it has none. */
export function rowKey(type: RecordType, record: JsonObject): string | undefined {
  const key = record[type.idField];
  return isBlankJson(key) ? undefined : scalarText(key).slice(0, 200);
}
