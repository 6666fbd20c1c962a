import Joi from 'joi';
import { taggedAddress } from '../formats/files/taggedAddress';
import { isDivided, taggedIn, type TaggedField, type TaggedRecord } from '../formats/files/tagged';
import { compile, type Formula } from '../formula/compile';
import { FormulaError } from '../formula/error';
import { eventInstant } from '../formula/names';
import type { Env, Scope } from '../formula/scope';
import { isDate, toText } from '../formula/value';
import type { JsonObject } from '../model/json';
import { formulaText } from '../model/names';
import { nfc } from '../model/nfc';

/** One thing that is done to each record of a tagged file, where its condition holds. Conditions and texts read places with PLACE. */
export type TaggedStep = {
  /** A formula that gives yes or no; blank: always. */
  readonly only: string;
} & (
  | {
      readonly kind: 'remove';
      /** Tags, in which `*` stands for any one character: `59*`; with a subfield (`954$c`) only that. */
      readonly what: string;
    }
  | {
      readonly kind: 'put';
      /** `007/3` or `leader/9`: from this position on, counted from 0. */
      readonly at: string;
      readonly characters: string;
    }
  | {
      readonly kind: 'add';
      /** A field is added where no other has this tag. */
      readonly tag: string;
      /** Two characters; blanks are written as #. */
      readonly indicators: string;
      /** Codes with their texts; a text that begins with = is a formula. */
      readonly subfields: readonly { readonly code: string; readonly text: string }[];
    }
);

const only = formulaText.required();
const kinds = ['remove', 'put', 'add'] as const;

export const taggedStepSchema = Joi.alternatives<TaggedStep>().conditional('.kind', {
  switch: [
    {
      is: 'remove',
      then: Joi.object({
        kind: Joi.valid('remove').required(),
        only,
        what: Joi.string().allow('').max(40).required(),
      }),
    },
    {
      is: 'put',
      then: Joi.object({
        kind: Joi.valid('put').required(),
        only,
        at: Joi.string().allow('').max(40).required(),
        characters: Joi.string().allow('').max(1000).required(),
      }),
    },
    {
      is: 'add',
      then: Joi.object({
        kind: Joi.valid('add').required(),
        only,
        tag: Joi.string().allow('').max(3).required(),
        indicators: Joi.string().allow('').max(2).required(),
        subfields: Joi.array()
          .items(Joi.object({ code: Joi.string().allow('').max(1).required(), text: formulaText.required() }))
          .max(50)
          .required(),
      }),
    },
  ],
  otherwise: Joi.object({ kind: Joi.valid(...kinds).required() }),
});

/** Returns what a step does, in short: “tagged: remove 59*”. */
export function taggedStepText(step: TaggedStep): string {
  switch (step.kind) {
    case 'remove':
      return `tagged: remove ${step.what}`;
    case 'put':
      return `tagged: put ${step.characters} at ${step.at}`;
    case 'add':
      return `tagged: add ${step.tag}`;
  }
}

/** Why a step cannot be done; `at` is its place among the others, from 0. */
export interface TidyProblem {
  readonly at: number;
  readonly because: string;
}

/** A field as it was, and as it is; one of them is absent where it was added or removed. */
export interface TidiedField {
  readonly tag: string;
  readonly before?: string;
  readonly after?: string;
}

/** What a record became. */
export interface Tidied {
  readonly record: TaggedRecord;
  /** Each field before and after, in their order, the leader first. */
  readonly fields: readonly TidiedField[];
  /** Formulas that failed: their steps were not done. */
  readonly problems: readonly TidyProblem[];
}

/** Steps that are ready for any number of records. */
export interface CompiledTidy {
  readonly problems: readonly TidyProblem[];
  /** `time` is the instant of `NOW()`, ISO 8601. */
  readonly tidy: (value: JsonObject, at: { readonly time: string }) => Tidied;
}

/** A field on its way through the steps, with what it was. */
interface Moving {
  readonly was: TaggedField | undefined;
  readonly is: TaggedField | undefined;
}

interface State {
  readonly leader: string;
  readonly fields: readonly Moving[];
}

type Done = { readonly ok: true; readonly state: State } | { readonly ok: false; readonly because: string };
type Step = (state: State, env: Env) => Done;

/** Reads and compiles steps once. Those that cannot be read are told, and not done. */
export function compileTidy(steps: readonly TaggedStep[]): CompiledTidy {
  const problems: TidyProblem[] = [];
  const ready = steps.flatMap((step, at) => {
    const read = stepOf(step);
    if (typeof read !== 'string') return [{ at, step: read }];
    problems.push({ at, because: read });
    return [];
  });
  return {
    problems,
    tidy: (value, { time }) => {
      const { leader, fields } = taggedIn(value);
      let state: State = { leader, fields: fields.map((field) => ({ was: field, is: field })) };
      const failed: TidyProblem[] = [];
      for (const { at, step } of ready) {
        const done = step(state, envOf(recordOf(state), time));
        if (done.ok) state = done.state;
        else failed.push({ at, because: done.because });
      }
      return { record: recordOf(state), fields: shownFields(leader, state), problems: failed };
    },
  };
}

const recordOf = ({ leader, fields }: State): TaggedRecord => ({
  leader,
  fields: fields.flatMap(({ is }) => (is ? [is] : [])),
});

function envOf(record: TaggedRecord, time: string): Env {
  return {
    record: {},
    before: null,
    target: null,
    found: {},
    changed: new Set(),
    row: record,
    event: { kind: 'file row', id: '', source: '', time: eventInstant(time) },
  };
}

const scope: Scope = { record: [], found: new Map(), tables: new Map(), places: taggedAddress };

/** Returns a step that is ready, or the sentence that says why it cannot be. */
function stepOf(step: TaggedStep): Step | string {
  const condition = formulaIn(step.only, 'The condition');
  if (typeof condition === 'string') return condition;
  if (condition && condition.type.kind !== 'boolean' && condition.type.kind !== 'any')
    return 'The condition must give yes or no.';
  const act = step.kind === 'remove' ? removing(step) : step.kind === 'put' ? putting(step) : adding(step);
  if (typeof act === 'string') return act;
  return (state, env) => {
    const holds = condition ? condition.run(env) : true;
    if (holds instanceof FormulaError) return { ok: false, because: holds.message };
    return holds === true ? act(state, env) : { ok: true, state };
  };
}

function formulaIn(source: string, what: string): Formula | undefined | string {
  if (source.trim() === '') return undefined;
  const compiled = compile(source, scope);
  return compiled.ok
    ? compiled.formula
    : `${what} cannot be read: ${compiled.errors[0]?.message ?? 'it is no formula.'}`;
}

const removable = /^(?<tag>[0-9A-Za-z*]{3})(?:\$(?<code>.))?$/u;

function removing({ what }: Extract<TaggedStep, { kind: 'remove' }>): Step | string {
  const groups = removable.exec(what.trim())?.groups;
  if (!groups) return `“${what}” names no fields; they are named as 59*, 5**, 024 or 954$c.`;
  const { tag = '', code } = groups;
  const named = (field: TaggedField) => [...tag].every((mark, at) => mark === '*' || mark === field.tag[at]);
  return ({ leader, fields }) => ({
    ok: true,
    state: {
      leader,
      fields: fields.map(({ was, is }) => ({ was, is: is && named(is) ? withoutCode(is, code) : is })),
    },
  });
}

/** Returns a field without a subfield; undefined where nothing of it is left, or all of it goes. */
function withoutCode(field: TaggedField, code: string | undefined): TaggedField | undefined {
  if (code === undefined) return undefined;
  if (!isDivided(field)) return field;
  const subfields = field.subfields.filter(([name]) => name !== code);
  return subfields.length === 0 ? undefined : { ...field, subfields };
}

const position = /^(?<tag>leader|00[0-9A-Za-z])\/(?<from>\d{1,4})$/;
/** What is computed when a record is written: its length, and where its fields begin. */
const computed = [
  [0, 4],
  [12, 16],
] as const;
const leaderLength = 24;

function putting({ at, characters }: Extract<TaggedStep, { kind: 'put' }>): Step | string {
  const groups = position.exec(at.trim())?.groups;
  if (!groups) return `“${at}” is no position of a fixed field; one is written as 007/3 or leader/9.`;
  if (characters === '') return 'It is not said which characters are put there.';
  const { tag = '', from: written = '' } = groups;
  const from = Number(written);
  const put = (text: string) => {
    const before = [...text];
    while (before.length < from) before.push(' ');
    before.splice(from, [...characters].length, ...characters);
    return before.join('');
  };
  if (tag === 'leader') {
    const to = from + characters.length - 1;
    if (!/^[\x20-\x7e]+$/.test(characters))
      return 'The leader takes letters, digits and signs of ASCII alone.';
    if (to >= leaderLength) return 'The leader has the positions 0 to 23.';
    if (computed.some(([first, last]) => from <= last && to >= first))
      return 'The positions 0 to 4 and 12 to 16 of the leader are lengths, which are computed.';
    return ({ leader, fields }) => ({ ok: true, state: { leader: put(leader), fields } });
  }
  return ({ leader, fields }) => ({
    ok: true,
    state: {
      leader,
      fields: fields.map(({ was, is }) => ({
        was,
        is: is && is.tag === tag && !isDivided(is) ? { ...is, data: put(is.data) } : is,
      })),
    },
  });
}

function adding({ tag, indicators, subfields }: Extract<TaggedStep, { kind: 'add' }>): Step | string {
  if (!/^[0-9A-Za-z]{3}$/.test(tag)) return `“${tag}” is no tag: a tag has three letters or digits.`;
  if (tag.startsWith('00'))
    return 'Fields whose tags begin with 00 have no subfields, and cannot be added so.';
  if (!/^[\x20-\x7e]{2}$/.test(indicators))
    return 'Two indicators are written: digits, letters, or # for a blank.';
  if (subfields.length === 0) return 'It is not said which subfields are added.';
  const wrong = subfields.find(({ code }) => !/^[\x21-\x7e]$/.test(code));
  if (wrong) return `“${wrong.code}” is no code of a subfield: it has one letter, digit or sign.`;
  const parts: { readonly code: string; readonly text: string | Formula }[] = [];
  for (const { code, text } of subfields) {
    const formula = text.trimStart().startsWith('=')
      ? formulaIn(text.trimStart().slice(1), `The text of $${code}`)
      : nfc(text);
    if (typeof formula === 'string' && formula !== nfc(text)) return formula;
    parts.push({ code, text: formula ?? '' });
  }
  return ({ leader, fields }, env) => {
    const present = fields.some(({ is }) => is?.tag === tag);
    if (present) return { ok: true, state: { leader, fields } };
    const filled: [string, string][] = [];
    for (const { code, text } of parts) {
      const value = typeof text === 'string' ? text : text.run(env);
      if (value instanceof FormulaError) return { ok: false, because: `$${code}: ${value.message}` };
      const written = value === null ? '' : isDate(value) ? value.toString() : toText(value);
      if (written !== '') filled.push([code, written]);
    }
    if (filled.length === 0) return { ok: true, state: { leader, fields } };
    const field: TaggedField = { tag, indicators: indicators.replaceAll('#', ' '), subfields: filled };
    // Behind the fields of smaller tags, in whose order records are written (common practice, no source).
    const after = fields.findLastIndex(({ was, is }) => (is ?? was ?? { tag: '' }).tag <= tag);
    return {
      ok: true,
      state: { leader, fields: fields.toSpliced(after + 1, 0, { was: undefined, is: field }) },
    };
  };
}

function shownFields(before: string, { leader, fields }: State): readonly TidiedField[] {
  return [
    { tag: 'leader', before, after: leader },
    ...fields.map(({ was, is }) => ({
      tag: (is ?? was)?.tag ?? '',
      ...(was && { before: shownText(was) }),
      ...(is && { after: shownText(is) }),
    })),
  ];
}

/** Returns a field as those who work with tagged records read it: indicators with # for blanks, subfields with their codes. */
function shownText(field: TaggedField): string {
  if (!isDivided(field)) return field.data;
  return `${field.indicators.replaceAll(' ', '#')} ${field.subfields.map(([code, text]) => `$${code}${text}`).join(' ')}`;
}
