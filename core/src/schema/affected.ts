import { isJsonObject, readPath, type Json } from '../model/json';
import type { Sample } from '../model/sample';
import { watchableFields, type RecordType } from '../model/system';
import type { LookupTable } from '../table/table';

/** Something that people keep and that holds what a system has no more, with why, as a sentence. */
export interface Affected {
  /** The id of a sample, or the name of a table. */
  readonly of: string;
  readonly name: string;
  readonly because: string;
}

/** A field that went, is of another type, or lost options. */
interface Lost {
  readonly type: string;
  readonly path: string;
  /** Values that it can hold no more; undefined where it went as a whole. */
  readonly options: ReadonlySet<string> | undefined;
}

/** What is looked through. */
interface Kept {
  readonly samples: readonly Sample[];
  readonly tables: readonly LookupTable[];
  /** Bodies of rules: their lines say which table is for which field. */
  readonly rules: readonly unknown[];
}

/** Returns the samples and tables that hold what a system has no more in a new schema. */
export function affectedBy(
  system: string,
  [before, after]: readonly [before: readonly RecordType[], after: readonly RecordType[]],
  { samples, tables, rules }: Kept,
): { readonly samples: readonly Affected[]; readonly tables: readonly Affected[] } {
  const lost = lostIn(before, after);
  if (lost.length === 0) return { samples: [], tables: [] };
  return {
    samples: samples.flatMap((sample) => {
      const found = lost.find((each) => holds(sample, system, each));
      return found ? [{ of: sample.id, name: sample.name, because: becauseOf(found) }] : [];
    }),
    tables: tables.flatMap((table) => {
      const lines = linesWith(rules, table.name);
      for (const each of lost.filter(({ path }) => lines.some((line) => isAbout(line, path)))) {
        const value = table.rows.flat().find((cell) => typeof cell === 'string' && each.options?.has(cell));
        if (typeof value === 'string')
          return [
            {
              of: table.name,
              name: table.name,
              because: `It holds “${value}”, which ${each.path} cannot hold any more.`,
            },
          ];
      }
      return [];
    }),
  };
}

const becauseOf = ({ path, options }: Lost) =>
  options
    ? `It holds an option of ${path} that there is no more.`
    : `It holds ${path}, which there is no more, or is of another type.`;

function lostIn(before: readonly RecordType[], after: readonly RecordType[]): readonly Lost[] {
  return before.flatMap((type) => {
    const now = after.find(({ name }) => name === type.name);
    const leaves = new Map(watchableFields(now?.fields ?? []).map(({ path, field }) => [path, field]));
    return watchableFields(type.fields).flatMap(({ path, field }): Lost[] => {
      const anew = leaves.get(path);
      if (!anew || anew.type !== field.type) return [{ type: type.name, path, options: undefined }];
      const left = new Set(anew.options?.map(({ value }) => value));
      const gone = (field.options ?? []).map(({ value }) => value).filter((value) => !left.has(value));
      return anew.options && gone.length > 0 ? [{ type: type.name, path, options: new Set(gone) }] : [];
    });
  });
}

function holds({ event, records, expected }: Sample, system: string, { type, path, options }: Lost): boolean {
  const fits = (value: Json | undefined) =>
    value !== undefined && value !== null && (options === undefined || options.has(String(value)));
  const own =
    event.ref.system === system && event.ref.recordType === type ? [event.record, event.before] : [];
  const met = records.filter(({ ref }) => ref.system === system && ref.recordType === type);
  if ([...own, ...met.map(({ record }) => record)].some((record) => fits(readPath(record, path))))
    return true;
  const wanted = (expected?.records ?? []).filter(({ key }) => key.startsWith(`${system}/${type}/`));
  return wanted.some(({ fields }) => {
    const expectation = fields[path];
    return (
      expectation !== undefined &&
      (options === undefined || (expectation.is === 'equal' && fits(expectation.value)))
    );
  });
}

/** A line of a rule: what it is for, and how its value is made. */
interface Line {
  readonly field: string;
  readonly formula: string;
}

/** Returns the lines of rules that read a table. */
function linesWith(rules: readonly unknown[], table: string): readonly Line[] {
  const found: Line[] = [];
  const walk = (part: unknown) => {
    if (Array.isArray(part)) part.forEach(walk);
    if (!isJsonObject(part)) return;
    const { field, formula } = part;
    if (typeof formula === 'string' && formula.includes(JSON.stringify(table)))
      found.push({ field: typeof field === 'string' ? field : '', formula });
    Object.values(part).forEach(walk);
  };
  rules.forEach(walk);
  return found;
}

/** The last step of a path is what a formula names. */
const isAbout = ({ field, formula }: Line, path: string) =>
  field === path || formula.includes(path.split('.').at(-1) ?? path);
