import { setTimeout } from 'node:timers/promises';
import {
  existingEvent,
  sameJudged,
  type CompiledRule,
  type Judged,
  type StoredRecord,
} from '@vast-knot/core';
import { WorkspaceError } from '@vast-knot/core';
import { gathered } from '../connector/gatheredStore';
import type { ReceivedEvent } from '../inbox/inbox';
import { takeAll } from '../intake/takeAll';
import { JobEnds, type JobKind } from '../jobs/runJob';
import {
  choose,
  nextChosen,
  noteDealt,
  progressOf,
  type Choice,
  type ChosenRecord,
  type Dealt,
} from './choosing';
import { holding } from './holding';
import { judgeAll, judgingRule, type Judging } from './judging';
import { readReconcile } from './repository';

/** Records that are handed over in one step. */
const atOnce = 100;
/** Runs that may be under way: more are not begun, so that a pause comes soon, and others come to their turn. */
const mostUnderWay = 400;
/** So long it waits for runs that are under way. */
const waitMs = 200;

/** What is asked for: which records of which look, under the id of the job. */
export interface WriteAsked {
  readonly reconcile: string;
  readonly job: string;
  readonly choice: Choice;
}

const skipped = {
  gone: 'The record is not there any more.',
  right: 'It is right by now.',
  changed: 'It changed since it was looked at: what would be written now is not what was shown.',
};

/**
 * Has records written that were chosen: each as an event for the one rule, so that what is written is a run as others are. What changed since it
 * was looked at is left out. The id of the event is made from the look and the record, so that none is written twice, whatever is killed.
 */
export const writeKind: JobKind = {
  kind: 'write to what exists',

  async open(asked, memory, { pool, registry }) {
    // What we kept ourselves has the shape in which we kept it.
    const { reconcile: id, job, choice } = asked as unknown as WriteAsked;
    const kept = await readReconcile(pool, id);
    if (!kept) throw new JobEnds('What was looked at is forgotten by now.');
    const { rule, existing, lookedAt } = kept;
    const { system, recordType } = rule.trigger;
    const judging = { id, time: lookedAt.toISOString(), existing };
    if (memory === null) await choose(pool, id, job, choice);
    let progress = await progressOf(pool, job);
    const at = () => ({
      memory: { chosen: true },
      done: progress.begun - progress.underWay,
      total: progress.total,
    });
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
          const room = progress.underWay < mostUnderWay;
          const chosen = room ? await nextChosen(pool, id, job, atOnce) : [];
          const open = chosen.filter(({ begun }) => begun === null);
          const dealt: Dealt[] = chosen.flatMap(({ seq, begun }) =>
            begun === null ? [] : [{ seq, run: begun }],
          );
          const store = current.stores.get(system);
          if (!store) throw new JobEnds(`The records of ${system} cannot be read any more.`);
          const from = gathered(store);
          const found = await Promise.all(open.map(({ recordId }) => from.get(recordType, recordId)));
          const there = found.flatMap((stored) => stored ?? []);
          const judged = await judgeAll(current, ready, there, judging);
          const byId = new Map(there.map((stored, n) => [stored.ref.id, { stored, now: judged[n] }]));
          const toWrite: { readonly seq: string; readonly event: ReceivedEvent }[] = [];
          for (const record of open) {
            const because = whySkipped(record, byId.get(record.recordId)?.now);
            const stored = byId.get(record.recordId)?.stored;
            if (because !== undefined || !stored)
              dealt.push({ seq: record.seq, skipped: because ?? skipped.gone });
            else toWrite.push({ seq: record.seq, event: received(ready.compiled, stored, judging) });
          }
          const taken = await takeAll(
            pool,
            current,
            toWrite.map(({ event }) => event),
          );
          toWrite.forEach(({ seq }, n) => {
            const run = taken[n]?.id;
            // What was taken by a process that was killed since is found with the next step.
            if (run !== undefined) dealt.push({ seq, run });
          });
          await noteDealt(pool, dealt);
          if (chosen.length === 0) await setTimeout(waitMs);
          progress = await progressOf(pool, job);
          return { ...at(), ended: progress.begun >= progress.total && progress.underWay === 0 };
        }),
    };
  },
};

function received(compiled: CompiledRule, stored: StoredRecord, judging: Judging): ReceivedEvent {
  const { changed, ...told } = existingEvent(compiled, stored, judging);
  return { ...told, claimed: changed };
}

function isPaused(name: string): WorkspaceError {
  return new WorkspaceError({ code: 'unavailable', message: `“${name}” is paused.`, retry: true });
}

function noLonger(name: string, version: number | undefined): string {
  return version === undefined
    ? `“${name}” is not published any more, or cannot run. Nothing more is written.`
    : `“${name}” was published anew since it was looked at: version ${version} runs now. Nothing more is written; look again.`;
}

/** Returns why a chosen record is left out, as it is by now; undefined when it comes to what was shown. */
function whySkipped(record: ChosenRecord, now: Judged | undefined): string | undefined {
  if (!now) return skipped.gone;
  if (now.standing === 'right') return skipped.right;
  return sameJudged(record, now) ? undefined : skipped.changed;
}
