import { v5 as uuidFrom, v7 as uuid } from 'uuid';
import { quietNow, type TellingWay } from '@vast-knot/core';
import type { Dispatcher } from 'undici';
import { inTransaction, type Pool } from '../db/pool';
import { postTo } from '../endpoints/post';
import type { Registry } from '../registry/registry';
import { raiseAlerts, tellForHours } from './alerts';
import { sendMail, type MailServer } from './mail';
import { noteTold, readTelling } from './settings';

/** Namespace of the ids of what is told: any fixed UUID does. */
const namespace = '6e0c1f5e-7e0a-4b52-8f61-9a1d4c7b2a10';

/** Held while people are told, so that of several processes one does it. */
const tellLock = 4606;

/** Things that one message names; the others are counted. */
const mostNamed = 50;

/** What people are told with. */
export interface Telling {
  readonly pool: Pool;
  readonly registry: Registry;
  readonly dispatcher: Dispatcher;
  readonly allowedOutbound: readonly string[];
  /** Absent where no mail server is set up. */
  readonly mail: MailServer | undefined;
  /** The address of this installation, for links. */
  readonly publicUrl: string;
  readonly now: Date;
}

interface Untold {
  readonly id: string;
  readonly what: string;
  readonly place: string;
  readonly at: Date;
}

/**
 * Looks for what came to need a person, and tells of it by each way that was chosen: one message for all that is not told yet. In quiet
 * hours it is kept for afterwards. What could not be told is told with the next call, for a day.
 */
export async function tellPeople(telling: Telling): Promise<void> {
  const { pool, mail, now } = telling;
  const settings = await readTelling(pool);
  if (!settings) return;
  const { catalog } = telling.registry;
  await raiseAlerts(pool, settings, (system) => catalog.system(system)?.name ?? system);
  if (settings.quiet && quietNow(settings.quiet, now.toISOString())) return;
  const { address, mail: to } = settings;
  if (address !== null) await tellBy('address', telling, (all) => tellAddress(telling, address, all));
  if (mail && to.length > 0) await tellBy('mail', telling, (all) => mailTo(telling, mail, to, all));
}

/** Tells of all that was not told by a way, and keeps that it was. */
async function tellBy(
  way: TellingWay,
  { pool }: Telling,
  send: (all: readonly Untold[]) => Promise<string | null>,
): Promise<void> {
  const column = way === 'address' ? 'address_at' : 'mail_at';
  await inTransaction(pool, async (client) => {
    const { rows: locked } = await client.query<{ mine: boolean }>(
      'SELECT pg_try_advisory_xact_lock($1) AS mine',
      [tellLock],
    );
    if (!locked[0]?.mine) return;
    const { rows } = await client.query<Untold>(
      `SELECT id, what, place, at FROM alerts
       WHERE ${column} IS NULL AND at > now() - interval '${tellForHours} hours' ORDER BY id`,
    );
    if (rows.length === 0) return;
    const problem = await send(rows);
    if (problem === null)
      await client.query(`UPDATE alerts SET ${column} = now() WHERE id = ANY ($1)`, [
        rows.map(({ id }) => id),
      ]);
    await noteTold(client, way, { alerts: rows.length, problem });
  });
}

/** Sends a message that is only a test, by a way. Returns why it could not be sent; null where it was. */
export async function tellTest(telling: Telling, way: TellingWay): Promise<string | null> {
  const settings = await readTelling(telling.pool);
  const test: Untold = { id: uuid(), what: 'This is only a test.', place: '/today', at: telling.now };
  const problem = await (async () => {
    if (way === 'address')
      return settings?.address
        ? tellAddress(telling, settings.address, [test])
        : 'No outside address is chosen.';
    if (!telling.mail) return 'No mail server is set up (SMTP_URL).';
    return settings && settings.mail.length > 0
      ? mailTo(telling, telling.mail, settings.mail, [test])
      : 'Nobody is named.';
  })();
  await noteTold(telling.pool, way, { alerts: 1, problem, test: true });
  return problem;
}

/** The same for the same things, so that whoever is told twice can know. */
const idOf = (all: readonly Untold[]) => uuidFrom(all.map(({ id }) => id).join(' '), namespace);

async function tellAddress(
  { registry, dispatcher, allowedOutbound, publicUrl, now }: Telling,
  key: string,
  all: readonly Untold[],
): Promise<string | null> {
  const endpoint = registry.endpoints.get(key);
  if (!endpoint) return `There is no outside address “${key}”.`;
  const id = idOf(all);
  const body = JSON.stringify({
    specversion: '1.0',
    id,
    source: '/vast-knot',
    type: 'vast-knot.needs-a-person',
    time: now.toISOString(),
    datacontenttype: 'application/json',
    data: {
      count: all.length,
      things: all
        .slice(0, mostNamed)
        .map(({ what, place, at }) => ({ what, at, link: `${publicUrl}${place}` })),
    },
  });
  return (await postTo(endpoint, { id, body, at: now }, { dispatcher, allowedOutbound })).problem;
}

function mailTo(
  { publicUrl }: Telling,
  server: MailServer,
  to: readonly string[],
  all: readonly Untold[],
): Promise<string | null> {
  const [first] = all;
  const subject =
    all.length === 1 && first
      ? oneLine(first.what)
      : `${all.length.toLocaleString('en')} things need a person`;
  const lines = all.slice(0, mostNamed).map(({ what, place }) => `${what}\n  ${publicUrl}${place}`);
  const more = all.length > mostNamed ? [`And ${(all.length - mostNamed).toLocaleString('en')} more.`] : [];
  const text = [...lines, ...more, `How things stand: ${publicUrl}/today`].join('\n\n');
  return sendMail(server, { to, subject: `Vast Knot: ${subject}`, text, id: idOf(all) });
}

function oneLine(text: string): string {
  return text.replaceAll(/\s+/g, ' ').slice(0, 120);
}
