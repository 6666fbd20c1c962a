import Joi from 'joi';
import { recordAfter } from '../change/fields';
import { changeToJsonPatch } from '../change/recordChange';
import type { Report, RuleReport } from '../engine/report';
import type { Deed } from '../model/expected';
import { documentSchema, type Json, type JsonObject } from '../model/json';
import { refSchema, type RecordRef } from '../model/record';
import { deedOf, outcomeOf, type MessageOutcome, type RecordOutcome } from './outcome';

/** One record as it is or would be left: what changes, the documents, and the change as a JSON Patch (RFC 6902). */
interface DescribedRecord {
  readonly key: string;
  readonly ref: RecordRef;
  readonly deed: Deed;
  readonly changes: readonly { readonly path: string; readonly before: Json; readonly after: Json }[];
  readonly before: JsonObject | null;
  readonly after: JsonObject | null;
  readonly patch: readonly Json[];
  readonly rules: readonly string[];
}

/** Everything that an event leaves behind, as plain JSON. */
interface DescribedOutcome {
  readonly records: readonly DescribedRecord[];
  readonly messages: readonly (Omit<MessageOutcome, 'rule'> & { readonly rule: string })[];
  readonly problems: readonly string[];
  /** What each rule did, step by step. */
  readonly trace: readonly RuleReport[];
}

/** Returns the outcome of a report with whole documents, for people and programs that read JSON. */
export function describeOutcome(report: Report): DescribedOutcome {
  const { records, messages, problems } = outcomeOf(report);
  return {
    records: records.map(describeRecord),
    messages: messages.map((message) => ({ ...message, rule: message.rule.name })),
    problems,
    trace: report.rules,
  };
}

/** Returns a record's documents before and after, and the change between them. */
export function describeRecord({ key, change, before, fields, rules }: RecordOutcome): DescribedRecord {
  const created = change.kind === 'create';
  const { ref } = change;
  return {
    key,
    ref: created ? { ...ref, id: key.slice(key.lastIndexOf('/') + 1) } : ref,
    deed: deedOf(change),
    changes: fields,
    before: created ? null : before,
    after: recordAfter({ change, before }) ?? null,
    patch: changeToJsonPatch(change) as unknown as readonly Json[],
    rules: rules.map(({ name }) => name),
  };
}

const change = Joi.object({
  path: Joi.string().required(),
  before: Joi.any().required(),
  after: Joi.any().required(),
});

/** The format of a described outcome; the trace is for people and may grow. */
export const describedOutcomeSchema = Joi.object<DescribedOutcome>({
  records: Joi.array()
    .items(
      Joi.object({
        key: Joi.string().required(),
        ref: refSchema.required(),
        deed: Joi.valid('write', 'create', 'remove').required(),
        changes: Joi.array().items(change).required(),
        before: documentSchema.allow(null).required(),
        after: documentSchema.allow(null).required(),
        patch: Joi.array()
          .items(
            Joi.object({
              op: Joi.valid('add', 'remove', 'replace', 'test').required(),
              path: Joi.string().allow('').required(),
              value: Joi.any(),
            }),
          )
          .required(),
        rules: Joi.array().items(Joi.string()).required(),
      }),
    )
    .required(),
  messages: Joi.array()
    .items(
      Joi.object({
        key: Joi.string().required(),
        endpoint: Joi.string().required(),
        type: Joi.string().required(),
        about: Joi.string().required(),
        data: documentSchema.required(),
        rule: Joi.string().required(),
      }),
    )
    .required(),
  problems: Joi.array().items(Joi.string()).required(),
  trace: Joi.array().items(Joi.object().unknown()).required(),
});
