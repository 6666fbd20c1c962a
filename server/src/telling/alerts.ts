import type { AlertKind } from '@vast-knot/core';
import type { Runner } from '../db/pool';
import { failureGroups } from '../runs/failures';
import { listRules } from '../rules/repository';
import type { KeptTelling } from './settings';

/** A system that does not answer for so long is told of: most are back by then. */
const awayMinutes = 2;

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
export async function raiseAlerts(runner: Runner, { kinds, since }: KeptTelling): Promise<number> {
  const found = await Promise.all(kinds.map((kind) => finders[kind](runner, since)));
  const { rowCount } = await runner.query(
    `INSERT INTO alerts (key, kind, what, place)
     SELECT key, kind, what, place FROM json_to_recordset($1::json) AS found (key text, kind text, what text, place text)
     ON CONFLICT (key) DO NOTHING`,
    [JSON.stringify(found.flat())],
  );
  await runner.query(`DELETE FROM alerts WHERE at < now() - interval '30 days'`);
  return rowCount ?? 0;
}

/** What finds the things of a kind that came to need a person since a time. */
const finders: Readonly<Record<AlertKind, (runner: Runner, since: Date) => Promise<readonly Alert[]>>> = {
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
  away: async (runner, since) => {
    const { rows } = await runner.query<{ system: string; name: string; because: string; from: Date }>(
      `SELECT system, definition->>'name' AS name, because, since AS from FROM system_states JOIN systems ON key = system
       WHERE standing = 'away' AND NOT paused AND since < now() - $2 * interval '1 minute' AND since > $1::timestamptz - interval '1 hour'`,
      [since, awayMinutes],
    );
    return rows.map(({ system, name, because, from }) => ({
      key: `away/${system}/${from.toISOString()}`,
      kind: 'away',
      what: `${name} ${because} What is for it waits.`,
      place: `/systems/${system}`,
    }));
  },
  'given up': async (runner, since) => {
    const { rows } = await runner.query<{ id: string; type: string; endpoint: string; problem: string }>(
      `SELECT id, type, endpoint, coalesce(last.problem, '') AS problem FROM messages,
         LATERAL (SELECT at, problem FROM message_attempts WHERE message_id = id ORDER BY attempt DESC LIMIT 1) AS last
       WHERE state = 'given up' AND last.at > $1 ORDER BY seq LIMIT 500`,
      [since],
    );
    return rows.map(({ id, type, endpoint, problem }) => ({
      key: `message/${id}`,
      kind: 'given up',
      what: `The message ${type} to “${endpoint}” was given up. ${problem}`,
      place: `/messages/${id}`,
    }));
  },
  drift: async (runner, since) => {
    const { rows } = await runner.query<{ look: string; name: string; fresh: number; due: Date }>(
      `SELECT reconcile AS look, draft->>'name' AS name, fresh::integer AS fresh, due
       FROM drift_looks JOIN rules ON rules.id = rule_id WHERE fresh > 0 AND due > $1::timestamptz - interval '1 day'`,
      [since],
    );
    return rows.map(({ look, name, fresh }) => ({
      key: `drift/${look}`,
      kind: 'drift',
      what: `${fresh === 1 ? '1 record is' : `${fresh.toLocaleString('en')} records are`} newly out of step with “${name}”.`,
      place: `/reconcile/${look}?standing=changes`,
    }));
  },
};
