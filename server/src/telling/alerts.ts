import type { AlertKind } from '@vast-knot/core';
import type { Runner } from '../db/pool';
import { listSources } from '../fileSources/repository';
import { failureGroups } from '../runs/failures';
import { givenUpSince } from '../messages/log';
import { newlyOutSince } from '../reconcile/drift';
import { listRules } from '../rules/repository';
import { readHealth } from '../systems/states';
import type { KeptTelling } from './settings';

const hourMs = 3_600_000;
/** A system that does not answer for so long is told of: most are back by then. */
const awayMs = 120_000;

/** Things that need a person and are older are not told any more. */
export const tellForHours = 24;

interface Alert {
  /** The same for the same thing, so that it is told once. */
  readonly key: string;
  readonly kind: AlertKind;
  readonly what: string;
  readonly place: string;
}

/** Keeps what came to need a person since people are told, each thing once. Returns how many things are new. */
export async function raiseAlerts(
  runner: Runner,
  { kinds, since }: KeptTelling,
  nameOf: (system: string) => string,
): Promise<number> {
  const found = await Promise.all(kinds.map((kind) => finders[kind](runner, since, nameOf)));
  const { rowCount } = await runner.query(
    `INSERT INTO alerts (key, kind, what, place)
     SELECT key, kind, what, place FROM json_to_recordset($1::json) AS found (key text, kind text, what text, place text)
     ON CONFLICT (key) DO NOTHING`,
    [JSON.stringify(found.flat())],
  );
  await runner.query(`DELETE FROM alerts WHERE at < now() - interval '30 days'`);
  return rowCount ?? 0;
}

/** Returns the things that came to need a person since a time; names of systems by their keys. */
type Finder = (runner: Runner, since: Date, nameOf: (system: string) => string) => Promise<readonly Alert[]>;

/** What finds the things of a kind that came to need a person since a time. */
const finders: Readonly<Record<AlertKind, Finder>> = {
  failure: async (runner, since) => {
    const names = new Map((await listRules(runner)).map(({ id, draft }) => [id, draft.name]));
    const { groups } = await failureGroups(runner, (id) => names.get(id));
    return groups
      .filter(({ aside, lastAt }) => aside === null && new Date(lastAt) > since)
      .map(({ cause, because, runs, rules, lastAt }) => ({
        // A cause that goes on is told of once a day.
        key: `failure/${lastAt.slice(0, 10)}/${cause}`.slice(0, 2000),
        kind: 'failure',
        what: `${runs === 1 ? 'A run' : `${runs.toLocaleString('en')} runs`}${rules[0] === undefined ? '' : ` of “${rules[0]}”`} failed: ${because}`,
        place: '/failures',
      }));
  },
  away: async (runner, since, nameOf) => {
    const health = await readHealth(runner);
    const from = since.getTime() - hourMs;
    const until = Date.now() - awayMs;
    return health.flatMap(({ system, standing, paused, since: at, because }): Alert[] => {
      const away = standing === 'away' && !paused && at !== null;
      const began = new Date(at ?? 0);
      if (!away || began.getTime() > until || began.getTime() < from) return [];
      return [
        {
          key: `away/${system}/${began.toISOString()}`,
          kind: 'away',
          what: `${nameOf(system)} ${because} What is for it waits.`,
          place: `/systems/${system}`,
        },
      ];
    });
  },
  'given up': async (runner, since) =>
    (await givenUpSince(runner, since)).map(({ id, type, endpoint, problem }) => ({
      key: `message/${id}`,
      kind: 'given up',
      what: `The message ${type} to “${endpoint}” was given up. ${problem}`,
      place: `/messages/${id}`,
    })),
  'missing file': async (runner) =>
    (await listSources(runner)).flatMap(({ id, name, missingSince }): Alert[] =>
      missingSince === null
        ? []
        : [
            {
              key: `missing file/${id}/${missingSince}`,
              kind: 'missing file',
              what: `No file has come from “${name}”, by when one was expected.`,
              place: '/arrivals/sources',
            },
          ],
    ),
  // A look that was due before may end after people are told.
  drift: async (runner, since) =>
    (await newlyOutSince(runner, new Date(since.getTime() - 24 * hourMs))).map(({ look, rule, fresh }) => ({
      key: `drift/${look}`,
      kind: 'drift',
      what: `${fresh === 1 ? '1 record is' : `${fresh.toLocaleString('en')} records are`} newly out of step with “${rule}”.`,
      place: `/reconcile/${look}?standing=changes`,
    })),
};
