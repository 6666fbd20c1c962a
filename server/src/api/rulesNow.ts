import Joi from 'joi';
import {
  existingEvent,
  whyNotExisting,
  type CompiledRule,
  type RequestPreview,
  type RulesBegun,
  type RulesNow,
  type StoredRecord,
} from '@vast-knot/core';
import { notFound, parsed } from '../http/problem';
import { inTransaction } from '../db/pool';
import { insertEvent } from '../inbox/inbox';
import type { Registry } from '../registry/registry';
import { computed } from './computed';
import { post, type AppParts, type Handle, type Route } from './route';

type At = '/records/:system/:recordType/:id/rules';

const body = Joi.object<{ id: string }>({ id: Joi.string().guid().required() });

/** A rule with the event that the record is for it. */
interface Ready {
  readonly compiled: CompiledRule;
  readonly event: ReturnType<typeof existingEvent>;
}

interface RecordPlace {
  readonly system: string;
  readonly recordType: string;
  readonly id: string;
}

/**
 * Returns the published rules that can be run on a record as it is, each with its event, and those that cannot, with the reason. A record
 * that exists is an event for each rule by itself: as if all that the rule watches had just changed.
 */
async function readyFor({ system, recordType, id }: RecordPlace, press: string, current: Registry) {
  const stored = await current.stores.get(system)?.get(recordType, id);
  if (!stored) throw notFound(`${recordType} ${id}`);
  const about = current.rules.filter(
    ({ rule: { trigger } }) => trigger.system === system && trigger.recordType === recordType,
  );
  const told = about.map((compiled) => ({ compiled, because: whyNot(compiled, current) }));
  return {
    ready: told.flatMap(({ compiled, because }) =>
      because === undefined ? [{ compiled, event: eventFor(compiled, stored, press) }] : [],
    ),
    left: told.flatMap(({ compiled: { rule }, because }) =>
      because === undefined ? [] : [{ rule: rule.id, name: rule.name, because }],
    ),
  };
}

function whyNot(compiled: CompiledRule, { paused }: Registry): string | undefined {
  const { rule } = compiled;
  // Those that ask a person something, or are reviewed, have a form of their own beside the record.
  if (rule.trigger.kinds.every((kind) => kind === 'requested'))
    return `“${rule.name}” is run by a person, with its own button.`;
  if (paused.has(rule.id)) return `“${rule.name}” is paused.`;
  return whyNotExisting(compiled);
}

function eventFor(compiled: CompiledRule, stored: StoredRecord, press: string): Ready['event'] {
  const time = new Date().toISOString();
  return existingEvent(compiled, stored, {
    id: `${press}/${compiled.rule.id}`,
    time,
    existing: 'as its lines say',
  });
}

const preview: Handle<`${At}/preview`> = async (request, response, parts: AppParts) => {
  const { id } = parsed(body, request.body);
  const current = await parts.registry.get();
  const { ready, left } = await readyFor(request.params, id, current);
  const would: { rule: string; name: string; report: RequestPreview['report'] }[] = [];
  for (const { compiled, event } of ready) {
    const { rule } = compiled;
    const made = await computed(parts, 'preview', { rule: rule.id, event }, current);
    if (made) would.push({ rule: rule.id, name: rule.name, report: made.report });
  }
  response.json({ would, left } satisfies RulesNow);
};

const run: Handle<At> = async (request, response, { pool, registry }) => {
  const { id } = parsed(body, request.body);
  const { ready, left } = await readyFor(request.params, id, await registry.get());
  // All of them or none, so that a press that was cut off can be made again.
  const runs = await inTransaction(pool, async (client) => {
    const begun: { rule: string; name: string; run: string | null }[] = [];
    for (const { compiled, event } of ready) {
      const { changed, ...told } = event;
      const id = await insertEvent(client, { ...told, claimed: changed });
      begun.push({ rule: compiled.rule.id, name: compiled.rule.name, run: id ?? null });
    }
    return begun;
  });
  response.status(202).json({ runs, left } satisfies RulesBegun);
};

/** All rules about a record, run on it as it is: what they would do, and doing it. */
export const rulesNowRoutes: readonly Route[] = [
  post('/records/:system/:recordType/:id/rules/preview', 'rules.preview', preview, { body }),
  post('/records/:system/:recordType/:id/rules', 'reconciles.write', run, { body }),
];
