import { fits } from '../../model/wildcard';
import type { FieldEdit } from '../../change/recordChange';
import { encodeFor } from '../../formula/encode';
import type { Formula } from '../../formula/compile';
import { readTaggedText, type HeldTagged } from '../../formats/files/taggedText';
import { FormulaError } from '../../formula/error';
import type { Env } from '../../formula/scope';
import { toText, type Value } from '../../formula/value';
import { isBlankJson, sameValue } from '../../model/equal';
import { readPath, writePath, type Json, type JsonObject } from '../../model/json';
import { fieldAt, type Field, type RecordType } from '../../model/system';
import type { AnyCompiled } from '../compiled';
import { taggedStepText, type CompiledTidy as CompiledTaggedTidy, type TidiedField } from '../tidyTagged';
import type { LineReport } from '../report';
import type { TidyAction } from './tidy';
import type { Cleaning, TidyStep } from './tidySteps';

/** A step ready to run. */
export type CompiledTidyStep = TidyStep & {
  readonly compiled?: Formula;
  readonly definition?: Field;
  /** What tidies a tagged record. */
  readonly tagged?: CompiledTaggedTidy['tidy'];
};

export interface CompiledTidy extends AnyCompiled<TidyAction> {
  readonly steps: readonly CompiledTidyStep[];
}

/** Returns what tidy steps make of one record: a report for each field touched, and the edits that they ask for. */
export function tidied(
  type: RecordType,
  steps: readonly CompiledTidyStep[],
  record: JsonObject,
  env: Env,
): { readonly reports: readonly LineReport[]; readonly edits: readonly FieldEdit[] } {
  const reports: LineReport[] = [];
  let now = record;
  for (const step of steps) {
    for (const report of runStep(type, step, now, { ...env, target: now })) {
      reports.push(report);
      if (report.verdict === 'changes' && 'json' in report.value) {
        now = writePath(now, report.field, report.value.json);
      }
    }
  }
  const touched = [...new Set(reports.map(({ field }) => field))];
  const edits = touched.flatMap((path): FieldEdit[] => {
    const before = readPath(record, path);
    const after = readPath(now, path);
    return sameValue(fieldAt(type.fields, path), before, after) ? [] : [{ path, before, after }];
  });
  return { reports, edits };
}

function runStep(
  type: RecordType,
  step: CompiledTidyStep,
  record: JsonObject,
  env: Env,
): readonly LineReport[] {
  switch (step.do) {
    case 'remove fields':
      return namesFitting(type, record, step.pattern).flatMap((field) => {
        const before = readPath(record, field);
        const cleared = `The name fits ${step.pattern}.`;
        const formula = `remove ${step.pattern}`;
        return isBlankJson(before) ? [] : [line({ field, formula, before, json: null, because: cleared })];
      });
    case 'set when absent': {
      const before = readPath(record, step.field);
      if (!isBlankJson(before)) return [];
      return [computed({ step, before, make: (value) => value, because: 'It held nothing.' }, env)];
    }
    case 'set characters': {
      const before = readPath(record, step.field);
      const from = step.position;
      const make = (value: Value) => replaced(textOf(before), from, toText(value));
      return [computed({ step, before, make, because: `Position ${from} of the code.` }, env)];
    }
    case 'tidy tagged':
      return taggedLines(step, readPath(record, step.field), env);
    case 'clean': {
      const before = readPath(record, step.field);
      if (isBlankJson(before) || typeof before !== 'string') return [];
      const after = cleaned(before, step.how);
      return after === before
        ? []
        : [
            line({
              field: step.field,
              formula: step.how,
              before,
              json: after,
              because: `Put in order: ${step.how}.`,
            }),
          ];
    }
  }
}

/** Returns what a step makes of the tagged record in a field: another text, or why it cannot be done. */
function taggedLines(
  { field, definition, tagged, step }: Extract<CompiledTidyStep, { do: 'tidy tagged' }>,
  before: Json | undefined,
  env: Env,
): readonly LineReport[] {
  if (isBlankJson(before) || !tagged) return [];
  const formula = taggedStepText(step);
  const held: HeldTagged =
    typeof before === 'string' ? readTaggedText(before) : { ok: false, because: 'It is no text.' };
  if (!held.ok) return [failed(field, formula, before, `It holds no tagged record: ${held.because}`)];
  const { record, fields, problems } = tagged(held.record, { time: env.event.time.toString() });
  const [problem] = problems;
  if (problem) return [failed(field, formula, before, problem.because)];
  const changed = fields.filter((each) => each.before !== each.after);
  if (changed.length === 0) return [];
  const made = held.write(record);
  if ('because' in made) return [failed(field, formula, before, made.because)];
  const encoded = definition ? encodeFor(definition, made.text) : { problem: 'There is no such field.' };
  if (encoded.problem !== undefined) return [failed(field, formula, before, encoded.problem)];
  const because = changed.map(fieldText).join(' · ');
  return [{ ...line({ field, formula, before, json: encoded.json, because }), within: changed }];
}

/** `500 ## $aOld → gone`, `007 cr → co`, `856 new: 40 $uhttps://…` */
function fieldText({ tag, before, after }: TidiedField): string {
  if (after === undefined) return `${tag} ${before ?? ''} → gone`;
  return before === undefined ? `${tag} new: ${after}` : `${tag} ${before} → ${after}`;
}

/** A step whose formula gives a value, and what is made of that. */
interface Computing {
  readonly step: Extract<CompiledTidyStep, { field: string; formula: string }>;
  readonly before: Json | undefined;
  readonly make: (value: Value) => Value;
  readonly because: string;
}

function computed({ step, before, make, because }: Computing, env: Env): LineReport {
  const { compiled, definition, field, formula } = step;
  const value = compiled?.run(env) ?? null;
  const made = value instanceof FormulaError || value === null ? value : make(value);
  if (made instanceof FormulaError) return failed(field, formula, before, made.message);
  if (made === null)
    return {
      ...line({ field, formula, before, json: null, because: 'The formula gave blank.' }),
      verdict: 'kept',
    };
  const encoded = definition ? encodeFor(definition, made) : { problem: 'There is no such field.' };
  if (encoded.problem !== undefined) return failed(field, formula, before, encoded.problem);
  const same = sameValue(definition, before, encoded.json);
  return {
    ...line({ field, formula, before, json: encoded.json, because: same ? null : because }),
    verdict: same ? 'same' : 'changes',
  };
}

/** A field that gets another value. */
interface Changed {
  readonly field: string;
  readonly formula: string;
  readonly before: Json | undefined;
  readonly json: Json;
  readonly because: string | null;
}

function line({ field, formula, before, json, because }: Changed): LineReport {
  return { field, formula, before: before ?? null, value: { json }, verdict: 'changes', because };
}

function failed(field: string, formula: string, before: Json | undefined, because: string): LineReport {
  return { field, formula, before: before ?? null, value: { error: because }, verdict: 'error', because };
}

/** Returns the text with other characters from a position on; a shorter text is filled up with spaces. Counts code points. */
export function replaced(text: string, position: number, characters: string): string {
  const code = [...text.padEnd(position - 1)];
  while (code.length < position - 1) code.push(' ');
  const put = [...characters];
  code.splice(position - 1, put.length, ...put);
  return code.join('');
}

/** Returns a text put in order. */
function cleaned(text: string, how: Cleaning): string {
  switch (how) {
    case 'trim':
      return text.trim();
    case 'single spaces':
      return text.trim().replace(/\s+/g, ' ');
    case 'lower case':
      return text.toLowerCase();
    case 'upper case':
      return text.toUpperCase();
  }
}

/** Returns the fields of a record whose names fit a pattern in which `*` stands for any characters; those that may be written. */
function namesFitting(type: RecordType, record: JsonObject, pattern: string): readonly string[] {
  const names = new Set([...Object.keys(record), ...type.fields.map(({ name }) => name)]);
  return [...names].filter((name) => {
    const field = type.fields.find((each) => each.name === name);
    const fixed = name === type.idField || field?.readOnly || field?.required || field?.keptBySystem;
    return !fixed && fits(name, pattern);
  });
}

function textOf(value: Json | undefined): string {
  return value === null || value === undefined ? '' : String(value);
}
