import {
  AtHandWorkspace,
  compileRule,
  existingEvent,
  judge,
  rightAtSight,
  runEvent,
  WorkspaceError,
  type CompiledRule,
  type Existing,
  type Judged,
  type Rule,
  type StoredRecord,
} from '@vast-knot/core';
import { breath } from '../compute/breath';
import { ConnectedWorkspace } from '../registry/connectedWorkspace';
import type { Registry } from '../registry/registry';

/** A rule compiled for records that exist, among the published ones that its writes start. */
export interface JudgingRule {
  readonly ok: true;
  readonly compiled: CompiledRule;
  readonly rules: readonly CompiledRule[];
}

/** Compiles a rule as it was looked at, in the place of the one that runs. */
export function judgingRule(
  registry: Registry,
  rule: Rule,
): JudgingRule | { readonly ok: false; readonly because: string } {
  const { catalog, tables, endpoints } = registry;
  const known = new Map([...registry.rules.map((each) => each.rule), rule].map((each) => [each.id, each]));
  const result = compileRule(rule, { catalog, tables, endpoints: new Set(endpoints.keys()), rules: known });
  if (!result.ok) return { ok: false, because: result.problems[0]?.error.message ?? 'it has mistakes.' };
  const { compiled } = result;
  const others = registry.rules.filter((each) => each.rule.id !== rule.id);
  return { ok: true, compiled, rules: [...others, compiled] };
}

/** Records that are judged side by side: what they ask of a system in the same moment is asked once. */
const atOnce = 100;

const right: Judged = { standing: 'right', because: '', differences: [] };

/** How records are looked at. */
export interface Judging {
  readonly id: string;
  readonly time: string;
  readonly existing: Existing;
}

/**
 * Returns how records stand beside a rule, in their order. Throws a WorkspaceError where a system cannot be asked now; what is refused for
 * one record is its own.
 */
export async function judgeAll(
  registry: Registry,
  { compiled, rules }: JudgingRule,
  records: readonly StoredRecord[],
  judging: Judging,
): Promise<readonly Judged[]> {
  const { catalog } = registry;
  // They were read with their page: a rule that writes to its own record asks for none of them again.
  const workspace = new AtHandWorkspace(new ConnectedWorkspace(registry), records);
  const pause = breath();
  const isRight = rightAtSight(compiled, judging);
  const one = async (stored: StoredRecord): Promise<Judged> => {
    try {
      const event = existingEvent(compiled, stored, judging);
      return judge((await runEvent(event, { catalog, rules, workspace, waits: true, pause })).report);
    } catch (thrown) {
      if (!(thrown instanceof WorkspaceError) || thrown.problem.retry) throw thrown;
      return { standing: 'cannot', because: thrown.problem.message, differences: [] };
    }
  };
  const judged = records.map((stored) => (isRight?.(stored) ? right : undefined));
  const open = judged.flatMap((known, at) => (known ? [] : [at]));
  for (let from = 0; from < open.length; from += atOnce)
    await Promise.all(
      open.slice(from, from + atOnce).map(async (at) => {
        const stored = records[at];
        if (stored) judged[at] = await one(stored);
      }),
    );
  return judged.map((known) => known ?? right);
}
