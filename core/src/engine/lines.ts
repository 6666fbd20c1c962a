import type { FieldEdit } from '../change/recordChange';
import { isBlank } from '../formula/compare';
import { encodeFor } from '../formula/encode';
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
  for (const line of lines) {
    const held = line.read(target);
    const report = runLine(line, held, running);
    reports.push(report);
    if (report.verdict === 'changes' && 'json' in report.value) {
      edits.push(...editsOf(line, held, report.value.json));
    }
  }
  return { reports, edits };
}

function runLine(line: CompiledLine, held: Json | undefined, { env, resolve, shared }: Running): LineReport {
  let value = shared ? shared.of(line.compiled, env) : line.compiled.run(env);
  if (value instanceof FormulaError)
    return reported(line, held, { value: toReported(value), verdict: 'error', because: value.message });
  // Where something stands already, its key need not be looked for.
  const keptAsIs = line.policy === 'target blank' ? keptBecause(line.policy, held, false) : undefined;
  if (keptAsIs) return reported(line, held, { value: toReported(value), verdict: 'kept', because: keptAsIs });
  const resolution = line.resolved && resolve?.(line, value);
  if (resolution) {
    if ('error' in resolution) {
      const { error } = resolution;
      return reported(line, held, { value: toReported(error), verdict: 'error', because: error.message });
    }
    if ('keep' in resolution) {
      const because = 'No record has this key; what is there stays.';
      return reported(line, held, { value: toReported(value), verdict: 'kept', because });
    }
    value = resolution.id;
  }
  const kept = keptBecause(line.policy, held, isBlank(value));
  if (kept) return reported(line, held, { value: blankReported, verdict: 'kept', because: kept });
  const encoded = encodeFor(line.definition, value);
  if ('problem' in encoded)
    return reported(line, held, { value: toReported(value), verdict: 'error', because: encoded.problem });
  const { definition } = line;
  const added = line.policy === 'never clear' ? together(definition, held, encoded.json) : encoded.json;
  const json =
    definition.type === 'object' && isJsonObject(held) ? wholeObject(definition, held, added) : added;
  const verdict = sameValue(definition, held, json) ? 'same' : 'changes';
  return reported(line, held, { value: json === encoded.json ? encoded : { json }, verdict, because: null });
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

/** Returns the edits of a line; those of an object name its fields one by one. */
function editsOf(
  { field, definition }: CompiledLine,
  before: Json | undefined,
  after: Json,
): readonly FieldEdit[] {
  if (definition.type !== 'object' || !definition.fields || !isJsonObject(after))
    return [{ path: field, before, after }];
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
  { value, verdict, because }: Pick<LineReport, 'value' | 'verdict' | 'because'>,
): LineReport {
  return { field: line.field, formula: line.formula, before: held ?? null, value, verdict, because };
}
