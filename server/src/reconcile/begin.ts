import { whyNotExisting, type Existing, type Rule, type RuleView } from '@vast-knot/core';
import type { Pool } from '../db/pool';
import { beginJob } from '../jobs/repository';
import type { Registry } from '../registry/registry';
import { judgingRule } from './judging';
import { lookKind } from './look';
import { insertReconcile } from './repository';

/** Why a rule cannot be held beside the records that exist, as a title and a sentence. */
export interface NotLooked {
  readonly title: string;
  readonly because: string;
}

/** Which look is to be begun. */
export interface LookAsked {
  readonly id: string;
  readonly rule: Rule;
  readonly existing: Existing;
  readonly by: string;
}

/** Returns a rule as it runs; undefined where it is not published. */
export function asItRuns({ id, published }: RuleView): Rule | undefined {
  return published ? { ...published.body, id, version: published.version } : undefined;
}

/** Begins to hold a rule beside all records of its type. Returns why that cannot be done, where it cannot. */
export async function beginLook(
  pool: Pool,
  registry: Registry,
  { id, rule, existing, by }: LookAsked,
): Promise<NotLooked | undefined> {
  const ready = judgingRule(registry, rule);
  if (!ready.ok) return { title: 'Not ready', because: `“${rule.name}” cannot run: ${ready.because}` };
  const why = whyNotExisting(ready.compiled);
  if (why !== undefined) return { title: 'Not for what exists', because: why };
  const { system, recordType } = rule.trigger;
  if (!registry.stores.has(system))
    return {
      title: 'Not listed',
      because: `${system} only tells of its ${recordType}; they cannot be listed.`,
    };
  await insertReconcile(pool, { id, rule, existing, askedBy: by });
  await beginJob(pool, { id, kind: lookKind.kind, asked: { reconcile: id }, by });
  return undefined;
}
