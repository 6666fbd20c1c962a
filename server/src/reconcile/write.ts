import { setTimeout } from 'node:timers/promises';
import { WorkspaceError } from '@vast-knot/core';
import { inTransaction, type Pool } from '../db/pool';
import { takeIn } from '../intake/takeAll';
import { JobEnds, type JobKind } from '../jobs/runJob';
import type { Registry } from '../registry/registry';
import { choose, nextChosen, noteBegun, noteTogether, type Choice } from './choosing';
import { Course, type HandedOver } from './course';
import { manyOf } from './handing';
import { holding } from './holding';
import { judgingRule, type Judging, type JudgingRule } from './judging';
import { readReconcile } from './repository';

/** Records that one run writes: as many as are sent with one request. */
const atOnce = 100;
/** Records that may be under way: more are not begun, so that a pause comes soon, and others come to their turn. */
const mostUnderWay = 800;
/** So long it waits for runs that are under way, */
const waitMs = 25;
/** and so long for those that wait for a system themselves. */
const awayMs = 250;

/** What is asked for: which records of which look, under the id of the job. */
export interface WriteAsked {
  readonly reconcile: string;
  readonly job: string;
  readonly choice: Choice;
}

/**
 * Has records written that were chosen, some at a time in one run for the one rule, so that what is written is told as by other runs. Which of them a run has
 * is noted with them when its event is taken in, so that none is written twice, whatever is killed. What changed since it was looked at is left out by the run.
 */
export const writeKind: JobKind = {
  kind: 'write to what exists',

  async open(asked, memory, { pool, registry }) {
    // What we kept ourselves has the shape in which we kept it.
    const { reconcile: id, job, choice } = asked as unknown as WriteAsked;
    const kept = await readReconcile(pool, id);
    if (!kept) throw new JobEnds('What was looked at is forgotten by now.');
    const { rule, existing, lookedAt } = kept;
    const judging = { id, time: lookedAt.toISOString(), existing };
    if (memory === null) await choose(pool, id, job, choice);
    else await noteBegun(pool, id, job);
    const course = await Course.of(pool, job);
    let after = first;
    const at = () => {
      const { done, total, waits } = course.progress;
      return { memory: { chosen: true }, done, total, ...(waits !== null && { waits }) };
    };
    return {
      step: () =>
        holding(at(), async () => {
          const current = await registry.get();
          const running = current.rules.find((each) => each.rule.id === rule.id);
          if (running?.rule.version !== rule.version)
            throw new JobEnds(noLonger(rule.name, running?.rule.version));
          const ready = judgingRule(current, rule);
          if (!ready.ok) throw new JobEnds(noLonger(rule.name, undefined));
          // What it would begin now would be held, and count as done.
          if (current.paused.has(rule.id)) throw isPaused(rule.name);
          const room = Math.floor((mostUnderWay - course.underWay) / atOnce);
          const chosen = room > 0 ? await nextChosen(pool, job, { after, limit: room * atOnce }) : [];
          course.began(await handOver({ pool, registry: current, ready, judging }, chosen));
          after = chosen.at(-1) ?? after;
          if (chosen.length === 0) await setTimeout(course.progress.waits === null ? waitMs : awayMs);
          // Runs may have given records back.
          if (await course.look()) after = first;
          return { ...at(), ended: course.ended };
        }),
    };
  },
};

interface Handing {
  readonly pool: Pool;
  readonly registry: Registry;
  readonly ready: JudgingRule;
  readonly judging: Judging;
}

/** Before the first place of a look. */
const first = '0';

/** Hands records over, some to each run. */
async function handOver(
  { pool, registry, ready, judging }: Handing,
  chosen: readonly string[],
): Promise<readonly HandedOver[]> {
  if (chosen.length === 0) return [];
  const groups = Array.from({ length: Math.ceil(chosen.length / atOnce) }, (_none, at) =>
    chosen.slice(at * atOnce, (at + 1) * atOnce),
  );
  return inTransaction(pool, async (client) => {
    const taken = await takeIn(
      client,
      registry,
      groups.map((seqs) => manyOf(ready.compiled, seqs, judging)),
    );
    const made = groups.flatMap((seqs, at) => {
      const run = taken[at]?.id;
      return run === undefined ? [] : [{ run, seqs }];
    });
    await noteTogether(client, made);
    return made.map(({ run, seqs }) => ({ run, records: seqs.length }));
  });
}

function isPaused(name: string): WorkspaceError {
  return new WorkspaceError({ code: 'unavailable', message: `“${name}” is paused.`, retry: true });
}

function noLonger(name: string, version: number | undefined): string {
  return version === undefined
    ? `“${name}” is not published any more, or cannot run. Nothing more is written.`
    : `“${name}” was published anew since it was looked at: version ${version} runs now. Nothing more is written; look again.`;
}
