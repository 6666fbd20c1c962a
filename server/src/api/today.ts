import { sameRule, type Stretch, type RuleView, type TodayView } from '@vast-knot/core';
import type { Pool } from '../db/pool';
import { listReconciles, viewsOf } from '../reconcile/repository';
import { listRules } from '../rules/repository';
import { failureGroups } from '../runs/failures';
import { outOfOrder } from '../runs/list';
import { readGaps } from '../tables/gaps';
import { listHeld } from '../waits/held';
import { readHealth } from '../systems/states';
import { get, type Handle, type Route } from './route';

/** Events that are looked through for what happened. */
const mostEvents = 20_000;
const shownFailures = 5;
const shownRules = 5;
const weekMs = 7 * 86_400_000;
/** Looks at what exists that are looked through. */
const looksSeen = 10;

const today: Handle<'/today'> = async (_request, response, { pool }) => {
  response.json(await readToday(pool));
};

async function readToday(pool: Pool): Promise<TodayView> {
  const rules = await listRules(pool);
  const names = new Map(rules.map(({ id, draft }) => [id, draft.name]));
  const [{ groups }, health, { rows: givenUp }, happened, outOfLine, paused, gaps] = await Promise.all([
    failureGroups(pool, (id) => names.get(id)),
    readHealth(pool),
    pool.query<{ count: number }>(`SELECT count(*)::integer AS count FROM messages WHERE state = 'given up'`),
    readHappened(pool, names),
    readOutOfLine(pool),
    listHeld(pool),
    readGaps(pool),
  ]);
  const open = groups.filter(({ aside }) => aside === null);
  return {
    needs: {
      failures: open.slice(0, shownFailures),
      moreFailures: Math.max(0, open.length - shownFailures),
      away: health
        .filter(({ standing }) => standing === 'away')
        .map(({ system, since, because, waiting }) => ({ system, since, because, waiting })),
      paused,
      gaps,
      givenUp: givenUp[0]?.count ?? 0,
      oldDrafts: rules
        .filter(isOldDraft)
        .map(({ id, draft, changedAt }) => ({ id, name: draft.name, changedAt })),
      outOfLine,
    },
    happened: { ...happened, published: lastPublished(rules) },
    has: {
      systems: health.length > 0,
      rules: rules.some(({ published }) => published !== null),
      runs: happened.any,
    },
  };
}

function isOldDraft({ draft, published, changedAt }: RuleView): boolean {
  const differs = published === null || !sameRule(published.body, draft);
  return differs && Date.now() - new Date(changedAt).getTime() > weekMs;
}

function lastPublished(rules: readonly RuleView[]): TodayView['happened']['published'] {
  return rules
    .flatMap(({ id, published }) =>
      published
        ? [
            {
              id,
              name: published.body.name,
              version: published.version,
              by: published.by,
              at: published.at,
              note: published.body.note,
            },
          ]
        : [],
    )
    .sort((a, b) => (a.at < b.at ? 1 : -1))
    .slice(0, shownRules);
}

async function readOutOfLine(pool: Pool): Promise<TodayView['needs']['outOfLine']> {
  const looks = await listReconciles(pool, null, looksSeen);
  // Only the last look of a rule says how it stands.
  const last = looks.filter(({ rule }, at) => looks.findIndex((other) => other.rule.id === rule.id) === at);
  return (await viewsOf(pool, last)).flatMap(({ id, ruleName, counts, written, lookedAt, version }) => {
    const records = counts.changes - written;
    return version > 0 && records > 0 ? [{ id, rule: ruleName, records, lookedAt }] : [];
  });
}

interface EventRow {
  readonly at: string;
  readonly result: 'wrote' | 'nothing' | 'failed';
  readonly count: number;
}

async function readHappened(
  pool: Pool,
  names: ReadonlyMap<string, string>,
): Promise<Omit<TodayView['happened'], 'published'> & { readonly any: boolean }> {
  // By their ids, so that no statement goes through more than the last day.
  const lastDay = `inbox.id >= (SELECT run_at(now() - interval '24 hours')) - ${outOfOrder} AND received_at > now() - interval '24 hours'`;
  const latest = `SELECT id, received_at, result, state FROM inbox WHERE ${lastDay} AND result IS DISTINCT FROM 'own write' ORDER BY id DESC LIMIT ${mostEvents}`;
  const [{ rows: hours }, { rows: times }, { rows: busiest }, { rows: waiting }] = await Promise.all([
    pool.query<EventRow>(
      `SELECT to_char(date_trunc('hour', received_at AT TIME ZONE 'UTC'), 'YYYY-MM-DD"T"HH24:MI:SS"Z"') AS at,
         CASE WHEN result = 'wrote' THEN 'wrote' WHEN result IN ('failed', 'partly failed') OR state IN ('malformed', 'refused') THEN 'failed'
           ELSE 'nothing' END AS result, count(*)::integer AS count
       FROM (${latest}) AS latest WHERE state <> 'waiting' GROUP BY 1, 2 ORDER BY 1`,
    ),
    pool.query<{ median: number | null; percentile95: number | null }>(
      `SELECT percentile_cont(0.5) WITHIN GROUP (ORDER BY ms) AS median, percentile_cont(0.95) WITHIN GROUP (ORDER BY ms) AS "percentile95"
       FROM (SELECT extract(epoch FROM runs.finished_at - inbox.received_at) * 1000 AS ms FROM inbox JOIN runs USING (id)
         WHERE inbox.result = 'wrote' AND ${lastDay} ORDER BY inbox.id DESC LIMIT 1000) AS last`,
    ),
    pool.query<{ id: string; runs: number }>(
      `SELECT rule AS id, count(*)::integer AS runs
       FROM (SELECT id FROM inbox WHERE result = 'wrote' AND ${lastDay} ORDER BY id DESC LIMIT 5000) AS latest
         JOIN runs USING (id), unnest(rules_fired) AS rule
       GROUP BY 1 ORDER BY 2 DESC LIMIT ${shownRules}`,
    ),
    pool.query<{ count: number }>(`SELECT count(*)::integer AS count FROM inbox WHERE state = 'waiting'`),
  ]);
  const byHour = new Map<string, Stretch>();
  for (const at of lastHours()) byHour.set(at, { at, wrote: 0, nothing: 0, failed: 0 });
  for (const { at, result, count } of hours) {
    const known = byHour.get(at) ?? { at, wrote: 0, nothing: 0, failed: 0 };
    byHour.set(at, { ...known, [result]: known[result] + count });
  }
  const [time] = times;
  const { median = null, percentile95 = null } = time ?? {};
  return {
    since: hours[0]?.at ?? new Date().toISOString(),
    hours: [...byHour.values()].sort((a, b) => (a.at < b.at ? -1 : 1)),
    milliseconds:
      median === null || percentile95 === null
        ? null
        : { median: Number(median), percentile95: Number(percentile95) },
    waiting: waiting[0]?.count ?? 0,
    busiest: busiest.flatMap(({ id, runs }) => {
      const name = names.get(id);
      return name === undefined ? [] : [{ id, name, runs }];
    }),
    any: hours.length > 0 || (await anyRun(pool)),
  };
}

/** The hours of the last day, as the database writes them. */
function lastHours(): readonly string[] {
  const hourMs = 3_600_000;
  const now = Math.floor(Date.now() / hourMs) * hourMs;
  return Array.from({ length: 24 }, (_none, at) =>
    new Date(now - (23 - at) * hourMs).toISOString().replace('.000', ''),
  );
}

async function anyRun(pool: Pool): Promise<boolean> {
  const { rowCount } = await pool.query('SELECT 1 FROM inbox LIMIT 1');
  return rowCount !== 0;
}

/** How things stand, in one answer. */
export const todayRoutes: readonly Route[] = [get('/today', 'runs.read', today)];
