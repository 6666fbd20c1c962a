import {
  ensemble,
  HistoryComparison,
  type HistoryMemory,
  type HistoryView,
  type Json,
  type Rule,
  type RuleBody,
} from '@vast-knot/core';
import type { Pool } from '../db/pool';
import type { JobKind } from '../jobs/runJob';
import type { KeptJob } from '../jobs/repository';
import { listRules } from '../rules/repository';
import { pastPayloads } from '../runs/repository';

/** What is compared: the last so many events, through the rules as they were when it was asked for. */
interface Asked {
  readonly events: number;
  readonly published: readonly Rule[];
  readonly drafts: readonly Rule[];
}

/** Where a comparison stands. */
interface Memory {
  /** The last run that was taken; events go backwards in time. */
  readonly before: string | null;
  readonly comparison: HistoryMemory;
  readonly mistakes: readonly string[];
}

/** Returns what a comparison of the last so many events is asked for: it keeps the rules of this moment. */
export async function askForHistory(pool: Pool, events: number): Promise<Json> {
  const rules = await listRules(pool);
  const asked: Asked = {
    events,
    published: rules.flatMap(({ id, published: now }): Rule[] =>
      now ? [asRule(id, now.version, now.body)] : [],
    ),
    drafts: rules.map(({ id, draft }) => asRule(id, 0, draft)),
  };
  return asked as unknown as Json;
}

/** Events that are taken in one step. */
const atOnce = 50;

/** Takes the last events of the inbox through the rules as published and as edited, newest first. */
export const historyKind: JobKind = {
  kind: 'history comparison',

  async open(asked, memory, { pool, registry }) {
    const { catalog, tables } = await registry.get();
    const surroundings = { catalog, tables, compiled: new Map() };
    // What we kept ourselves has the shape in which we kept it.
    const { events: wanted, published, drafts } = asked as unknown as Asked;
    const known = memory as unknown as Memory | null;
    const then = ensemble(drafts, surroundings);
    const comparison = new HistoryComparison(
      ensemble(published, surroundings),
      then,
      surroundings,
      known?.comparison,
    );
    const mistakes = then.mistakes.map(({ rule }) => rule);
    let before = known?.before ?? null;
    return {
      async step() {
        const { events } = comparison.summary();
        const limit = Math.min(atOnce, wanted - events);
        const page = await pastPayloads(pool, { before, limit });
        for (const { id, event, met } of page) {
          await comparison.take(id, event, met);
          before = id;
          // Others get their turn: the same process takes events and answers.
          await new Promise((done) => setImmediate(done));
        }
        const { events: done } = comparison.summary();
        const kept: Memory = { before, comparison: comparison.memory(), mistakes };
        return {
          memory: kept as unknown as Json,
          done,
          total: wanted,
          ended: page.length < limit || done >= wanted,
        };
      },
    };
  },
};

function asRule(id: string, version: number, body: RuleBody): Rule {
  return { ...body, id, version };
}

/** Returns a comparison as the bench shows it. */
export function historyView({ asked: _asked, memory, ...job }: KeptJob): HistoryView {
  const known = memory as unknown as Memory | null;
  const {
    events = 0,
    differing = 0,
    groups = [],
  } = known ? HistoryComparison.summaryOf(known.comparison) : {};
  return { job, events, differing, groups, mistakes: known?.mistakes ?? [] };
}
