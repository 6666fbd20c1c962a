import type { Logger } from 'pino';
import { refreshed, schemaChanges, WorkspaceError } from '@vast-knot/core';
import { here } from '../compute/computer';
import type { Pool } from '../db/pool';
import { learnTypes, type LearningParts } from '../drafts/learning';
import { HttpProblem } from '../http/problem';
import type { Outside, RegistrySource } from '../registry/registry';
import { noteSchemaLook } from '../systems/states';

interface Looking {
  readonly pool: Pool;
  readonly registry: RegistrySource;
  readonly outside: Outside;
  readonly log: Logger;
}

/**
 * Asks every system that describes itself what it says of its record types by now, and notes how much that differs from what is known here.
 * Nothing is changed: a person looks at it and takes it. One that does not answer holds up no other.
 */
export async function lookAtSchemas({ pool, registry, outside, log }: Looking): Promise<void> {
  const { connectors, catalog } = await registry.get();
  // At night a document is read where the work is done.
  const parts: LearningParts = { computer: here, registry, outside };
  for (const [key, connector] of connectors) {
    const known = catalog.system(key);
    if (!known || !connector.describes) continue;
    try {
      const now = refreshed(known.recordTypes, await learnTypes(connector, parts));
      await noteSchemaLook(pool, key, {
        changes: schemaChanges(known.recordTypes, now).length,
        problem: null,
      });
    } catch (thrown) {
      if (!(thrown instanceof WorkspaceError) && !(thrown instanceof HttpProblem)) throw thrown;
      const problem = thrown instanceof WorkspaceError ? thrown.problem.message : thrown.detail;
      log.warn({ system: key, because: problem }, 'what a system says of its fields was not read');
      await noteSchemaLook(pool, key, { changes: 0, problem });
    }
  }
}
