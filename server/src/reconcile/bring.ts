import {
  sameJudged,
  together,
  type Brings,
  type ChangeEvent,
  type EngineResult,
  type ForOne,
  type PlannedWrite,
  type RuleReport,
  type StoredRecord,
  type Workspace,
} from '@vast-knot/core';
import { inTransaction, type Pool } from '../db/pool';
import { takeIn } from '../intake/takeAll';
import type { Registry } from '../registry/registry';
import { giveBack, noteDealt, recordsTogether, writtenFor, type ChosenRecord, type Dealt } from './choosing';
import { judgedBy, judgingRule, reportAll, type Computed, type Judging, type JudgingRule } from './judging';
import { readReconcile } from './repository';
import { oneOf } from './handing';

/** Why a record that was chosen is left out. */
const leftOut = {
  gone: 'The record is not there any more.',
  right: 'It is right by now.',
  changed: 'It changed since it was looked at: what would be written now is not what was shown.',
  partly:
    'It changed while it was being written: what was shown is written in part. Look again to see what is left.',
};

/** What records are written together with. */
interface Bringing {
  readonly pool: Pool;
  readonly registry: Registry;
  /** The systems; of a run that is computed anew, as they were before it. */
  readonly workspace: Workspace;
}

/**
 * Computes the run that writes many records of a look. Each is read and computed anew, by itself; what comes to something else than was shown is left
 * out, and what one run cannot write for many gets a run of its own. Where the rule does not run as it was looked at, the job gets all of them back.
 * All of that is noted before anything is planned, so that a worker that takes over finds only what is still to be done.
 *
 * @throws WorkspaceError when a record cannot be read now.
 */
export async function bringIntoLine(
  { pool, registry, workspace }: Bringing,
  run: string,
  event: ChangeEvent,
  brings: Brings,
): Promise<EngineResult> {
  const { look } = brings;
  const kept = await readReconcile(pool, look);
  if (!kept)
    return came(event, { problems: ['What was looked at is forgotten by now. Nothing is written.'] });
  const { rule, existing, lookedAt } = kept;
  const running = registry.rules.find((each) => each.rule.id === rule.id);
  const ready = judgingRule(registry, rule);
  if (running?.rule.version !== rule.version || registry.paused.has(rule.id) || !ready.ok)
    return came(event, { back: await giveBack(pool, run, brings) });
  const records = await recordsTogether(pool, run, brings);
  const judging: Judging = { id: look, time: lookedAt.toISOString(), existing };
  const { system, recordType } = rule.trigger;
  const found = await Promise.all(
    records.map(({ recordId: id }) => workspace.get({ system, recordType, id })),
  );
  const there = found.flatMap((stored) => stored ?? []);
  const computed = await reportAll(ready, {
    catalog: registry.catalog,
    workspace,
    records: there,
    judging,
  });
  const byId = new Map(there.map((stored, at) => [stored.ref.id, { stored, computed: computed[at] }]));
  const leftOutOf: { readonly record: ChosenRecord; readonly because: string }[] = [];
  const asShown: ForOne[] = [];
  for (const record of records) {
    const now = byId.get(record.recordId);
    const because = whyLeftOut(record, now?.computed);
    if (because !== undefined) leftOutOf.push({ record, because });
    else if (now?.computed && 'report' in now.computed)
      asShown.push({ ref: now.stored.ref, report: now.computed.report });
  }
  // What an earlier try of this run has written for one stays with the run, so that it can be taken back; one for which that was all is done.
  const written: ReadonlyMap<string, boolean> =
    leftOutOf.length > 0 ? await writtenFor(pool, run) : new Map();
  const left = leftOutOf.flatMap(({ record: { seq, recordId }, because }): Dealt[] => {
    const all = written.get(recordId);
    if (all === undefined) return [{ seq, skipped: because }];
    return all ? [] : [{ seq, run, skipped: leftOut.partly }];
  });
  const { rules, writes, apart } = together(asShown.map((each) => heldBack(each, registry.paused)));
  const alone = new Set(apart.map(({ id }) => id));
  await handApart(
    { pool, registry, ready, judging },
    records.filter(({ recordId }) => alone.has(recordId)),
    there,
    left,
  );
  return came(event, { rules, writes, left: left.length, apart: apart.length });
}

/** Returns why a chosen record is left out, as it is by now; undefined when it comes to what was shown. */
function whyLeftOut(record: ChosenRecord, computed: Computed | undefined): string | undefined {
  if (!computed) return leftOut.gone;
  const now = judgedBy(computed);
  if (now.standing === 'right') return leftOut.right;
  return sameJudged(record, now) ? undefined : leftOut.changed;
}

/** What a rule that is paused would do is held by a run of its own. */
function heldBack({ ref, report }: ForOne, paused: Registry['paused']): ForOne {
  const held = report.rules.find(({ ruleId }) => paused.has(ruleId));
  if (!held) return { ref, report };
  return { ref, report: { ...report, problems: [`“${held.ruleName}” is paused.`] } };
}

interface Apart {
  readonly pool: Pool;
  readonly registry: Registry;
  readonly ready: JudgingRule;
  readonly judging: Judging;
}

/** Hands over records that want runs of their own, and notes what is left out, at once. */
async function handApart(
  { pool, registry, ready, judging }: Apart,
  records: readonly ChosenRecord[],
  there: readonly StoredRecord[],
  left: readonly Dealt[],
): Promise<void> {
  if (records.length === 0) return noteDealt(pool, left);
  const byId = new Map(there.map((stored) => [stored.ref.id, stored]));
  await inTransaction(pool, async (client) => {
    const own = records.flatMap(({ seq, recordId }) => {
      const stored = byId.get(recordId);
      return stored ? [{ seq, event: oneOf(ready.compiled, stored, judging) }] : [];
    });
    const taken = await takeIn(
      client,
      registry,
      own.map(({ event }) => event),
    );
    const begun = own.flatMap(({ seq }, at): Dealt[] => {
      const run = taken[at]?.id;
      return run === undefined ? [] : [{ seq, run }];
    });
    await noteDealt(client, [...left, ...begun]);
  });
}

interface Came {
  readonly rules: readonly RuleReport[];
  readonly writes: readonly PlannedWrite[];
  readonly problems: readonly string[];
  readonly left: number;
  readonly apart: number;
  readonly back: number;
}

/** Returns what came of the event. */
function came(
  event: ChangeEvent,
  { rules = [], writes = [], problems = [], left = 0, apart = 0, back = 0 }: Partial<Came>,
): EngineResult {
  const brought = { left, apart, back };
  return { report: { event, rules, writes, messages: [], waiting: [], problems, brought }, met: [] };
}
