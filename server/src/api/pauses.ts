import type { PausesView, RuleView, WentOn } from '@vast-knot/core';
import { inTransaction } from '../db/pool';
import { tell } from '../db/notices';
import { notFound, parsed } from '../http/problem';
import { readQueue } from '../inbox/inbox';
import { goOnWith } from '../pauses/goOn';
import { pauseRule, readRule } from '../rules/repository';
import { pauseEverything, readPaused, systemsAtWork } from '../systems/installation';
import { letRuleGoOn, listHeld } from '../waits/held';
import { goingOnBody, uuidOf } from './params';
import { get, personOf, post, type Handle, type Route } from './route';

const list: Handle<'/pauses'> = async (_request, response, { pool }) => {
  const [everything, rules, { waiting }] = await Promise.all([
    readPaused(pool),
    listHeld(pool),
    readQueue(pool),
  ]);
  response.json({ everything: everything ?? null, rules, waiting } satisfies PausesView);
};

/** Pauses everything: no system is asked and no message sent; what comes in waits, in order. */
const pauseAll: Handle<'/pauses/everything'> = async (request, response, { pool }) => {
  await inTransaction(pool, async (client) => {
    await pauseEverything(client, personOf(request));
    await tell(client, { kind: 'registry', of: 'systems' });
  });
  response.status(202).json({});
};

/** Lets everything go on that is not paused by itself: with what waited, or without. */
const goOn: Handle<'/pauses/everything/go-on'> = async (request, response, { pool }) => {
  const { drop } = parsed(goingOnBody, request.body ?? {});
  const count = await inTransaction(pool, async (client) => {
    // What waits for something else than the pause is not dropped by a second press.
    if (!(await readPaused(client))) return 0;
    await pauseEverything(client, null);
    await tell(client, { kind: 'registry', of: 'systems' });
    return goOnWith(client, await systemsAtWork(client), drop ? personOf(request) : null);
  });
  response.status(202).json({ count } satisfies WentOn);
};

/** Pauses a rule: what would start it is held, in order; every other rule goes on. */
const pauseOne: Handle<'/rules/:id/pause'> = async (request, response, { pool }) => {
  const id = uuidOf(request.params.id, 'rule');
  if (!(await pauseRule(pool, id, personOf(request)))) throw notFound('such rule');
  response.json((await readRule(pool, id)) satisfies RuleView | undefined);
};

/** Lets a rule go on: with what was held for it, in order, or without. */
const goOnOne: Handle<'/rules/:id/go-on'> = async (request, response, { pool }) => {
  const id = uuidOf(request.params.id, 'rule');
  const { drop } = parsed(goingOnBody, request.body ?? {});
  const count = await letRuleGoOn(pool, id, drop ? personOf(request) : null);
  if (count === undefined) throw notFound('such rule');
  response.json({ count } satisfies WentOn);
};

/** What is paused, and pausing everything or a rule; a system is paused where it is connected. */
export const pauseRoutes: readonly Route[] = [
  get('/pauses', 'runs.read', list),
  post('/pauses/everything', 'runs.pause', pauseAll),
  post('/pauses/everything/go-on', 'runs.pause', goOn, { body: goingOnBody }),
  post('/rules/:id/pause', 'runs.pause', pauseOne),
  post('/rules/:id/go-on', 'runs.pause', goOnOne, { body: goingOnBody }),
];
