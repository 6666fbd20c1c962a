import { v7 as uuid } from 'uuid';
import { startedRules } from '@vast-knot/core';
import { inTransaction, type Pool } from '../db/pool';
import { insertEvent } from '../inbox/inbox';
import type { Registry } from '../registry/registry';
import { readPayload } from './repository';

/**
 * Takes the payload of a run in again, once for each rule that it started and that is still published, as it is published now.
 * Each goes to its rule alone and with what the payload changed: the record has not changed once more, so that nothing could
 * be derived. The record is read again: what the rules write is made of what it holds by then. Returns the new runs, or nothing where no rule was started.
 */
export async function runAgain(
  pool: Pool,
  registry: Registry,
  runId: string,
  by: string,
): Promise<readonly string[] | undefined> {
  const run = await readPayload(pool, runId);
  if (!run?.report) return undefined;
  const published = new Set(registry.rules.map(({ rule }) => rule.id));
  const rules = [...new Set(startedRules(run.report).map(({ ruleId }) => ruleId))].filter((id) =>
    published.has(id),
  );
  const { changed, ...event } = run.event;
  return inTransaction(pool, async (client) => {
    const made: string[] = [];
    for (const rule of rules) {
      const source = `/vast-knot/again/${encodeURIComponent(by)}`;
      const id = await insertEvent(client, {
        ...event,
        id: uuid(),
        source,
        rule,
        claimed: changed,
        again: true,
      });
      if (id !== undefined) made.push(id);
    }
    return made;
  });
}
