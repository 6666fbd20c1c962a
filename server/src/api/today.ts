import { sameRule, type RuleView, type TodayView } from '@vast-knot/core';
import type { Pool } from '../db/pool';
import { lastId, readQueue } from '../inbox/inbox';
import { countMessages } from '../messages/log';
import { listReconciles, viewsOf } from '../reconcile/repository';
import { listRules } from '../rules/repository';
import { listSources } from '../fileSources/repository';
import { failureGroups } from '../runs/failures';
import { readHappened } from '../runs/happened';
import { readGaps } from '../tables/gaps';
import { listHeld } from '../waits/held';
import { readPaused } from '../systems/installation';
import { readHealth } from '../systems/states';
import { get, type Handle, type Route } from './route';

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
  const [
    { groups },
    health,
    givenUp,
    happened,
    outOfLine,
    paused,
    gaps,
    { waiting },
    last,
    everything,
    sources,
  ] = await Promise.all([
    failureGroups(pool, (id) => names.get(id)),
    readHealth(pool),
    countMessages(pool, 'given up'),
    readHappened(pool, new Date(), shownRules),
    readOutOfLine(pool),
    listHeld(pool),
    readGaps(pool),
    readQueue(pool),
    lastId(pool),
    readPaused(pool),
    listSources(pool),
  ]);
  const open = groups.filter(({ aside }) => aside === null);
  return {
    needs: {
      failures: open.slice(0, shownFailures),
      moreFailures: Math.max(0, open.length - shownFailures),
      away: health
        .filter(({ standing }) => standing === 'away')
        .map(({ system, since, because, waiting }) => ({ system, since, because, waiting })),
      pausedSystems: everything
        ? []
        : health.flatMap(({ system, paused: isPaused, waiting: waits }) =>
            isPaused ? [{ system, waiting: waits }] : [],
          ),
      paused,
      gaps,
      missingFiles: sources.flatMap(({ id, name, missingSince: since }) =>
        since === null ? [] : [{ id, name, since }],
      ),
      givenUp,
      oldDrafts: rules
        .filter(isOldDraft)
        .map(({ id, draft, changedAt }) => ({ id, name: draft.name, changedAt })),
      outOfLine,
    },
    happened: {
      ...happened,
      waiting,
      busiest: happened.busiest.flatMap(({ id, runs }) => {
        const name = names.get(id);
        return name === undefined ? [] : [{ id, name, runs }];
      }),
      published: lastPublished(rules),
    },
    has: {
      systems: health.length > 0,
      rules: rules.some(({ published }) => published !== null),
      runs: last !== '0',
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

/** How things stand, in one answer. */
export const todayRoutes: readonly Route[] = [get('/today', 'runs.read', today)];
