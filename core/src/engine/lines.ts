import type { FieldEdit } from '../change/recordChange';
import { isBlank } from '../formula/compare';
import { FormulaError } from '../formula/error';
import type { Env } from '../formula/scope';
import type { Value } from '../formula/value';
import type { Formula } from '../formula/compile';
import { isBlankJson, sameValue } from '../model/equal';
import { isJsonObject, readPath, writePath, type Json, type JsonObject } from '../model/json';
import { leafFields, type Field } from '../model/system';
import type { CompiledLine } from './compiled';
import { keptBecause, together } from './policy';
import type { LineReport, Reported } from './report';
import { toReported } from './reported';
import type { ResolveKey } from './resolveKeys';

/** What lines are computed with. */
interface Running {
  readonly env: Env;
  /** Finds the ids of references that are given by natural keys. */
  readonly resolve?: ResolveKey | undefined;
  /** Values that are the same for all records that one event reaches. */
  readonly shared?: SharedValues | undefined;
}

/** Returns what the lines of a ledger give for one target record: a report for each, and the edits that they ask for. */
export function runLines(
  lines: readonly CompiledLine[],
  target: JsonObject,
  running: Running,
): { readonly reports: readonly LineReport[]; readonly edits: readonly FieldEdit[] } {
  const reports: LineReport[] = [];
  const edits: FieldEdit[] = [];
  let inParts = false;
  for (const line of lines) {
    const held = line.read(target);
    const report = runLine(line, held, running);
    reports.push(report);
    if (report.verdict === 'changes' && 'json' in report.value) {
      const { json } = report.value;
      if (line.definition.type === 'object') {
        inParts = true;
        edits.push(...editsOf(line, held, json));
      } else edits.push({ path: line.field, before: held, after: json });
    }
  }
  return { reports, edits: inParts ? laterWins(edits) : edits };
}

/** Returns the edits with each field once: of a line for an object and one for a field of it, the later one holds. */
function laterWins(edits: readonly FieldEdit[]): readonly FieldEdit[] {
  return [...new Map(edits.map((edit) => [edit.path, edit])).values()];
}

function runLine(line: CompiledLine, held: Json | undefined, { env, resolve, shared }: Running): LineReport {
  let value = shared ? shared.of(line.compiled, env) : line.compiled.run(env);
  if (value instanceof FormulaError) return reported(line, held, toReported(value), 'error', value.message);
  // Where something stands already, its key need not be looked for.
  const keptAsIs = line.policy === 'target blank' ? keptBecause(line.policy, held, false) : undefined;
  if (keptAsIs) return reported(line, held, toReported(value), 'kept', keptAsIs);
  const resolution = line.resolved && resolve?.(line, value);
  if (resolution) {
    if ('error' in resolution) {
      const { error } = resolution;
      return reported(line, held, toReported(error), 'error', error.message);
    }
    if ('keep' in resolution) {
      const because = 'No record has this key; what is there stays.';
      return reported(line, held, toReported(value), 'kept', because);
    }
    value = resolution.id;
  }
  const kept = line.policy === 'always' ? undefined : keptBecause(line.policy, held, isBlank(value));
  if (kept) return reported(line, held, blankReported, 'kept', kept);
  const { definition } = line;
  const encoded = line.encode(value);
  if (encoded.json === undefined) return reported(line, held, toReported(value), 'error', encoded.problem);
  // Nothing is put together with a blank, nor text with text.
  if (isBlankJson(held))
    return reported(line, held, encoded, isBlankJson(encoded.json) ? 'same' : 'changes', null);
  if (held === encoded.json) return reported(line, held, encoded, 'same', null);
  const added = line.policy === 'never clear' ? together(definition, held, encoded.json) : encoded.json;
  const json =
    definition.type === 'object' && isJsonObject(held) ? wholeObject(definition, held, added) : added;
  const verdict = sameValue(definition, held, json) ? 'same' : 'changes';
  return reported(line, held, json === encoded.json ? encoded : { json }, verdict, null);
}

/** Returns an object with its known fields as they are written, blank where they are not; what no schema knows stays as it is. */
function wholeObject({ fields = [] }: Field, held: JsonObject, written: Json): Json {
  const values = isJsonObject(written) ? written : {};
  return leafFields(fields).reduce<JsonObject>((made, { path, field }) => {
    if (field.readOnly) return made;
    const value = readPath(values, path);
    return isBlankJson(value) && isBlankJson(readPath(made, path))
      ? made
      : writePath(made, path, value ?? null);
  }, held);
}

/** Returns the edits of a line for an object: its fields one by one. */
function editsOf(
  { field, definition }: CompiledLine,
  before: Json | undefined,
  after: Json,
): readonly FieldEdit[] {
  if (!definition.fields || !isJsonObject(after)) return [{ path: field, before, after }];
  const held = isJsonObject(before) ? before : {};
  return leafFields(definition.fields).flatMap(({ path, field: leaf }): FieldEdit[] => {
    const [was, becomes] = [readPath(held, path), readPath(after, path)];
    return sameValue(leaf, was, becomes)
      ? []
      : [{ path: `${field}.${path}`, before: was, after: becomes ?? null }];
  });
}

/**
 * Values of formulas that read nothing but the triggering record, computed once however many records they are written to.
 */
export class SharedValues {
  private readonly values = new Map<Formula, { readonly record: JsonObject; readonly value: Value }>();

  of(formula: Formula, env: Env): Value {
    if (!formula.uses.every(({ of }) => sharedRoots.has(of)) || formula.follows.length > 0)
      return formula.run(env);
    const known = this.values.get(formula);
    if (known?.record === env.record) return known.value;
    const value = formula.run(env);
    this.values.set(formula, { record: env.record, value });
    return value;
  }
}

/** What is the same for all records that one event reaches. */
const sharedRoots: ReadonlySet<string> = new Set(['record', 'before', 'event', 'input']);

const blankReported: Reported = { json: null };

/** Returns a report. All come from this one literal: objects of one shape are what keeps a ledger over many records fast. */
function reported(
  line: CompiledLine,
  held: Json | undefined,
  value: Reported,
  verdict: LineReport['verdict'],
  because: string | null,
): LineReport {
  return { field: line.field, formula: line.formula, before: held ?? null, value, verdict, because };
}
