import {
  AtHandWorkspace,
  atSight,
  type Catalog,
  compileRule,
  existingEvent,
  judge,
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

type Compiling = JudgingRule | { readonly ok: false; readonly because: string };

/** Rules that are kept compiled: more than are looked at in the same moment, as a rule. */
const mostCompiled = 20;
/** What was compiled among the rules that run; forgotten with them. */
const compiledAmong = new WeakMap<Registry, Map<string, Compiling>>();

/** Compiles a rule as it was looked at, in the place of the one that runs; once for all runs that write together. */
export function judgingRule(registry: Registry, rule: Rule): Compiling {
  const among = compiledAmong.get(registry) ?? new Map<string, Compiling>();
  compiledAmong.set(registry, among);
  const key = JSON.stringify(rule);
  const known = among.get(key) ?? compileAmong(registry, rule);
  if (among.size >= mostCompiled) among.clear();
  among.set(key, known);
  return known;
}

function compileAmong(registry: Registry, rule: Rule): Compiling {
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
  const sees = atSight(compiled, rules, judging);
  return withEngine(records, {
    atSight: (stored) => sees?.judge(stored),
    others: async (open) => {
      const workspace = new ConnectedWorkspace(registry);
      const { catalog } = registry;
      const computed = await runAll({ compiled, rules }, { workspace, catalog, records: open, judging });
      return computed.map(judgedBy);
    },
  });
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
  reporting: Reporting,
): Promise<readonly Computed[]> {
  const sees = atSight(compiled, rules, reporting.judging);
  return withEngine<Computed>(reporting.records, {
    atSight: (stored) => {
      const report = sees?.report(stored);
      return report && { report };
    },
    others: (records) => runAll({ compiled, rules }, { ...reporting, records }),
  });
}

/** Returns what is told of records at sight, and of those of which nothing is what the engine comes to; in their order. */
async function withEngine<T>(
  records: readonly StoredRecord[],
  told: {
    readonly atSight: (stored: StoredRecord) => T | undefined;
    readonly others: (records: readonly StoredRecord[]) => Promise<readonly T[]>;
  },
): Promise<readonly T[]> {
  const pause = breath();
  const all: (T | undefined)[] = [];
  const open: { readonly at: number; readonly stored: StoredRecord }[] = [];
  for (const [at, stored] of records.entries()) {
    const waits = pause();
    if (waits) await waits;
    all.push(told.atSight(stored));
    if (all[at] === undefined) open.push({ at, stored });
  }
  const others = open.length === 0 ? [] : await told.others(open.map(({ stored }) => stored));
  open.forEach(({ at }, nth) => (all[at] = others[nth]));
  return all.flatMap((one) => (one === undefined ? [] : [one]));
}

/** Runs the engine for each of the records. */
async function runAll(
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
