import {
  AtHandWorkspace,
  type Catalog,
  compileRule,
  existingEvent,
  judge,
  rightAtSight,
  runEvent,
  WorkspaceError,
  type CompiledRule,
  type Existing,
  type Judged,
  type Report,
  type Rule,
  type StoredRecord,
  type Workspace,
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
  const isRight = rightAtSight(compiled, judging);
  const open = records.filter((stored) => !isRight?.(stored));
  const reports = await reportAll(
    { compiled, rules },
    { workspace: new ConnectedWorkspace(registry), catalog: registry.catalog, records: open, judging },
  );
  const judged = new Map(open.map((stored, at) => [stored, judgedBy(reports[at])]));
  return records.map((stored) => judged.get(stored) ?? right);
}

/** What a rule comes to for a record, or why it cannot be computed. */
export type Computed = { readonly report: Report } | { readonly because: string };

/** Returns how a record stands by what was computed of it. */
export function judgedBy(computed: Computed | undefined): Judged {
  if (!computed) return right;
  return 'report' in computed
    ? judge(computed.report)
    : { standing: 'cannot', because: computed.because, differences: [] };
}

/** Records, and what they are computed in. */
export interface Reporting {
  readonly catalog: Catalog;
  readonly workspace: Workspace;
  /** As they were just read from it: a rule that writes to its own record asks for none of them again. */
  readonly records: readonly StoredRecord[];
  readonly judging: Judging;
}

/** Returns what a rule comes to for records that exist, each by itself, in their order. Throws as `judgeAll` does. */
export async function reportAll(
  { compiled, rules }: Pick<JudgingRule, 'compiled' | 'rules'>,
  { catalog, workspace: base, records, judging }: Reporting,
): Promise<readonly Computed[]> {
  const workspace = new AtHandWorkspace(base, records);
  const pause = breath();
  const one = async (stored: StoredRecord): Promise<Computed> => {
    try {
      const event = existingEvent(compiled, stored, judging);
      return await runEvent(event, { catalog, rules, workspace, waits: true, pause });
    } catch (thrown) {
      if (!(thrown instanceof WorkspaceError) || thrown.problem.retry) throw thrown;
      return { because: thrown.problem.message };
    }
  };
  const computed: Computed[] = [];
  for (let from = 0; from < records.length; from += atOnce)
    computed.push(...(await Promise.all(records.slice(from, from + atOnce).map(one))));
  return computed;
}
