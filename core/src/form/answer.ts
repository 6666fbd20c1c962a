import { isBlank } from '../formula/compare';
import { decoderFor } from '../formula/decode';
import { eventInstant } from '../formula/names';
import { encodeFor, type Encoded } from '../formula/encode';
import type { Env } from '../formula/scope';
import { FormulaError } from '../formula/error';
import { isDate, isInstant, isNumberValue } from '../formula/value';
import { isBlankJson } from '../model/equal';
import { writePath, type Json, type JsonObject } from '../model/json';
import { scalarText } from '../model/jsonText';
import { nfc } from '../model/nfc';
import type { Field } from '../model/system';
import { instantIn } from '../model/zoned';
import type { CompiledForm, ReadyItem } from './compileForm';
import type { FormNote, FormQuestion } from './form';

/** Why one question is not answered as it has to be; without a question where it is about the answer as a whole. */
export interface AnswerProblem {
  readonly field?: string;
  readonly because: string;
}

/** What an answer comes to. */
export interface Answered {
  /** The values that were given, as the fields store them. Blank ones are absent. */
  readonly record: JsonObject;
  readonly problems: readonly AnswerProblem[];
  /** The questions and notes that are shown with these answers, by their places. */
  readonly shown: readonly number[];
  /** Names that the form does not ask for. */
  readonly leftOut: readonly string[];
}

/**
 * Reads what was answered, by the names of fields or the labels of questions, with choices by their codes or labels. Goes through the
 * form from top to bottom: what is not shown is not taken, whatever was sent. `time` is the instant of `NOW()`, ISO 8601.
 */
export function answerOf(
  { form, items }: CompiledForm,
  given: JsonObject,
  { time }: { readonly time: string },
): Answered {
  const byName = new Map(Object.keys(given).map((name) => [named(name), name]));
  const used = new Set<string>();
  const problems: AnswerProblem[] = [];
  const shown: number[] = [];
  let record: JsonObject = {};
  for (const ready of items) {
    const { at, item } = ready;
    const name = item.kind === 'question' ? nameOf(ready, given, byName) : undefined;
    if (name !== undefined) used.add(name);
    const holds = isShown(ready, record, time);
    if (typeof holds === 'string') problems.push({ because: holds });
    if (holds !== true) continue;
    shown.push(at);
    if (item.kind === 'note') {
      if (item.stops) problems.push({ because: stopText(item) });
      continue;
    }
    if (ready.field === undefined) continue;
    const read = answered(ready.field, item, name === undefined ? null : (given[name] ?? null), form.zone);
    if (read.problem !== undefined) problems.push({ field: item.field, because: read.problem });
    else if (!isBlankJson(read.json)) record = writePath(record, item.field, read.json);
  }
  return { record, problems, shown, leftOut: Object.keys(given).filter((name) => !used.has(name)) };
}

const stopText = ({ text }: FormNote) => (text.trim() === '' ? 'This cannot be sent.' : text);

const named = (name: string) => nfc(name).trim().toLowerCase();

/** Returns the name under which a question was answered: its field, or its label. */
function nameOf(
  { item, field }: ReadyItem,
  given: JsonObject,
  byName: ReadonlyMap<string, string>,
): string | undefined {
  if (item.kind === 'note') return undefined;
  return Object.hasOwn(given, item.field) ? item.field : field && byName.get(named(field.label));
}

/** Returns whether a question or note is shown; a sentence where its condition fails. */
function isShown({ shown }: ReadyItem, record: JsonObject, time: string): boolean | string {
  if (!shown) return true;
  const env: Env = {
    record,
    before: null,
    target: null,
    found: {},
    changed: new Set(),
    event: { kind: 'form answer', id: '', source: '', time: eventInstant(time) },
  };
  const value = shown.run(env);
  if (value instanceof FormulaError) return `A condition of the form failed: ${value.message}`;
  return value === true;
}

/** Returns one answer as its field stores it, or the sentence that says to whoever answers what is not right. */
function answered(field: Field, question: FormQuestion, raw: Json, zone: string): Encoded {
  const { label, type } = field;
  const value = type === 'multichoice' ? choicesIn(raw) : typeof raw === 'string' ? nfc(raw).trim() : raw;
  if (isNothing(value)) {
    const wanted = question.few ?? (field.required ? 1 : 0);
    if (wanted === 0) return { json: null };
    return { problem: type === 'multichoice' ? chooseMore(label, wanted) : `Please answer “${label}”.` };
  }
  switch (type) {
    case 'choice':
      return chosenAll(field, [value], ([first]) => ({ json: first ?? null }));
    case 'multichoice':
      return chosenAll(field, Array.isArray(value) ? value : [value], (codes) => {
        if (codes.length < (question.few ?? 0)) return { problem: chooseMore(label, question.few ?? 0) };
        if (codes.length > (question.most ?? Infinity))
          return {
            problem: `Please choose ${question.most} of “${label}” at most; ${codes.length} are chosen.`,
          };
        return { json: codes };
      });
    case 'boolean':
      return yesOrNo(label, value);
    case 'datetime':
      return typed(field, typeof value === 'string' ? (instantIn(zone, value) ?? value) : value);
    default:
      return typed(field, value);
  }
}

const isNothing = (value: Json) => isBlankJson(value) || (Array.isArray(value) && value.length === 0);

const chooseMore = (label: string, few: number) =>
  few === 1 ? `Please choose at least one of “${label}”.` : `Please choose at least ${few} of “${label}”.`;

/** Other forms send several choices as a list, or one by itself. */
function choicesIn(raw: Json): Json {
  const all = Array.isArray(raw) ? raw : [raw];
  return all.filter((each) => !isBlankJson(each));
}

function chosenAll(
  { label, options = [] }: Field,
  values: readonly Json[],
  done: (codes: string[]) => Encoded,
): Encoded {
  const codes: string[] = [];
  for (const value of values) {
    const text = typeof value === 'object' ? '' : nfc(scalarText(value)).trim();
    const found =
      options.find((option) => option.value === text) ??
      options.find((option) => named(option.label) === named(text));
    if (!found) return { problem: `“${text.slice(0, 80)}” is none of the choices of “${label}”.` };
    if (!codes.includes(found.value)) codes.push(found.value);
  }
  return done(codes);
}

const yeses = new Set(['yes', 'true', 'on', '1']);
const noes = new Set(['no', 'false', 'off', '0']);

/** As boxes and other forms say it (common practice, no source). */
function yesOrNo(label: string, value: Json): Encoded {
  if (typeof value === 'boolean') return { json: value };
  const text = typeof value === 'object' ? '' : named(scalarText(value));
  if (yeses.has(text)) return { json: true };
  return noes.has(text) ? { json: false } : { problem: `Please answer “${label}” with yes or no.` };
}

function typed(field: Field, value: Json): Encoded {
  const decoded = decoderFor(field)(value);
  const { label, type } = field;
  if (!isBlank(decoded)) {
    if ((type === 'integer' || type === 'decimal') && !isNumberValue(decoded))
      return { problem: `“${label}” takes a number, such as 250.` };
    if (type === 'date' && !isDate(decoded))
      return { problem: `“${label}” takes a day, such as 2026-03-09.` };
    if (type === 'datetime' && !isInstant(decoded))
      return { problem: `“${label}” takes a day and a time, such as 2026-03-09 14:30.` };
    if (type === 'text' && typeof value === 'object') return { problem: `“${label}” takes one text.` };
  }
  return encodeFor(field, decoded);
}

/** Returns whether an answer leads to questions that whoever answered had not been asked; `asked` are the places of those that were. */
export function leadsFurther(
  { items }: CompiledForm,
  { shown }: Answered,
  asked: ReadonlySet<number>,
): boolean {
  return items.some(({ at, item }) => item.kind === 'question' && shown.includes(at) && !asked.has(at));
}
