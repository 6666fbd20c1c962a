import type { Request } from 'express';
import Joi from 'joi';
import {
  noRecord,
  refSchema,
  reviewedSchema,
  typedIn,
  wantsReview,
  type ChangeEvent,
  type CompiledRule,
  type Field,
  type Json,
  type JsonObject,
  type RuleRequest,
} from '@vast-knot/core';
import { HttpProblem, notFound, parsed } from '../http/problem';
import { accept } from '../inbox/inbox';
import type { Registry } from '../registry/registry';
import { computed } from './computed';
import { personOf, post, type AppParts, type Handle, type Route } from './route';

const body = Joi.object<RuleRequest>({
  ref: refSchema.required(),
  input: Joi.object().pattern(Joi.string().max(120), Joi.any()).required(),
  id: Joi.string().guid().required(),
  reviewed: reviewedSchema,
});

/** Reads a request for a rule: what is asked, the rule, and the event that it would be. */
async function prepared(ruleId: string, request: Request, { registry }: AppParts) {
  const asked = parsed(body, request.body);
  const current = await registry.get();
  const compiled = current.rules.find(({ rule }) => rule.id === ruleId);
  if (!compiled) throw notFound('such published rule');
  return { asked, current, compiled, event: await eventOf(current, compiled, asked, personOf(request)) };
}

const preview: Handle<'/rules/:id/preview'> = async (request, response, parts) => {
  const { current, compiled, event } = await prepared(request.params.id, request, parts);
  const would = await computed(parts, 'preview', { rule: compiled.rule.id, event }, current);
  if (!would) throw notFound('such published rule');
  response.json(would);
};

const request: Handle<'/rules/:id/requests'> = async (asking, response, parts) => {
  const { asked, compiled, event } = await prepared(asking.params.id, asking, parts);
  if (wantsReview(compiled) && !asked.reviewed) {
    throw new HttpProblem(422, 'To be reviewed', 'The rule creates nothing before its forms are reviewed.');
  }
  const { changed, ...told } = event;
  const run = await accept(parts.pool, { ...told, claimed: changed });
  response.status(202).json({ run: run ?? null });
};

/** Returns the request as an event, with the record as it is now. */
async function eventOf(
  registry: Registry,
  { rule }: CompiledRule,
  { ref, input, id, reviewed }: RuleRequest,
  by: string,
): Promise<ChangeEvent> {
  const { trigger } = rule;
  if (!trigger.kinds.includes('requested'))
    throw new HttpProblem(422, 'Not requested', `“${rule.name}” is not one that a person runs.`);
  if (ref.system !== trigger.system || ref.recordType !== trigger.recordType)
    throw new HttpProblem(422, 'Not valid', `“${rule.name}” is about another record type.`);
  const answers = answersTo(trigger.inputs ?? [], input);
  if (trigger.once !== (ref.id === noRecord || undefined))
    throw new HttpProblem(
      422,
      'Not valid',
      trigger.once
        ? `“${rule.name}” is done once for all records: its record is called “${noRecord}”.`
        : `“${rule.name}” is done for one record, and “${noRecord}” is none.`,
    );
  const stored = trigger.once
    ? { record: {} }
    : await registry.stores.get(ref.system)?.get(ref.recordType, ref.id);
  if (!stored) throw notFound(`${ref.recordType} ${ref.id}`);
  return {
    id,
    source: `/vast-knot/requests/${encodeURIComponent(by)}`,
    kind: 'requested',
    ref,
    time: new Date().toISOString(),
    record: stored.record,
    changed: [],
    rule: rule.id,
    input: answers,
    ...(reviewed && { reviewed }),
  };
}

/** Returns what the person answered, as the fields of the questions hold it. */
function answersTo(inputs: readonly Field[], given: RuleRequest['input']): JsonObject {
  const unknown = Object.keys(given).find((name) => !inputs.some((input) => input.name === name));
  if (unknown !== undefined)
    throw new HttpProblem(422, 'Not valid', `The rule does not ask for “${unknown}”.`);
  return Object.fromEntries(
    inputs.map((input): [string, Json] => {
      const typed = typedIn(input, given[input.name]);
      if (typed.problem !== undefined) throw new HttpProblem(422, 'Not valid', typed.problem);
      return [input.name, typed.json];
    }),
  );
}

/** Rules that a person runs on a record: what they would do, and doing it. */
export const requestRoutes: readonly Route[] = [
  post('/rules/:id/preview', 'rules.preview', preview, { body }),
  post('/rules/:id/requests', 'rules.request', request, { body }),
];
