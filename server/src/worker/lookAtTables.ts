import type { Logger } from 'pino';
import { WorkspaceError } from '@vast-knot/core';
import { coverageOf } from '../compute/coverageOf';
import { openDoor } from '../compute/door';
import type { Pool } from '../db/pool';
import type { RegistrySource } from '../registry/registry';
import { gapOf, keepGap } from '../tables/gaps';

interface Looking {
  readonly pool: Pool;
  readonly registry: RegistrySource;
  readonly log: Logger;
}

/**
 * Looks, for every table that a rule that runs looks something up in, which keys of the records there have no row. A table whose system does
 * not answer is left as it was found last. Where a table is named, that one alone is looked at.
 */
export async function lookAtTables({ pool, registry, log }: Looking, only?: string): Promise<void> {
  const current = await registry.get();
  const rules = current.rules.map(({ rule: { id, version: _version, ...draft } }) => ({ id, draft }));
  const { pages } = openDoor(current);
  for (const table of current.tables.keys()) {
    if (only !== undefined && table !== only) continue;
    try {
      const views = await coverageOf(table, rules, current, pages);
      await keepGap(pool, gapOf(table, views));
    } catch (thrown) {
      if (!(thrown instanceof WorkspaceError)) throw thrown;
      log.warn({ table, because: thrown.problem.message }, 'the keys of a table could not be looked at');
    }
  }
}
