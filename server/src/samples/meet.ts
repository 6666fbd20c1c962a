import {
  ensemble,
  runEvent,
  withOwnRecord,
  type ChangeEvent,
  type Rule,
  type StoredRecord,
} from '@vast-knot/core';
import type { Runner } from '../db/pool';
import { listRules } from '../rules/repository';
import type { Registry } from '../registry/registry';
import { ConnectedWorkspace } from '../registry/connectedWorkspace';
import { metKept } from '../runs/repository';

/** Returns the records that an event meets in the systems as they are now, whichever rules as edited look at them; nothing is written. */
export async function recordsMet(
  runner: Runner,
  registry: Registry,
  event: ChangeEvent,
): Promise<readonly StoredRecord[]> {
  const { catalog, tables } = registry;
  const rules = (await listRules(runner)).map(({ id, draft }): Rule => ({ ...draft, id, version: 0 }));
  const { compiled } = ensemble(rules, { catalog, tables, compiled: new Map() });
  const workspace = new ConnectedWorkspace(registry);
  const { met } = await runEvent(event, { catalog, rules: compiled, workspace });
  return withOwnRecord(event, met).slice(0, metKept);
}
