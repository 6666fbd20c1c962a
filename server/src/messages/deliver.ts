import type { Dispatcher } from 'undici';
import { printJson, TooManyRows, type WritingTools } from '@vast-knot/core';
import { tell } from '../db/notices';
import { inTransaction, type Pool } from '../db/pool';
import { postTo, type Answer } from '../endpoints/post';
import type { Registry } from '../registry/registry';
import { readPaused } from '../systems/installation';
import { bytesOf, fileIn } from './file';
import { intoFolder } from './intoFolder';
import { nextInOrder, queueMessages, readMessage, type WaitingMessage } from './repository';

interface Delivery {
  readonly pool: Pool;
  readonly registry: Registry;
  readonly dispatcher: Dispatcher;
  readonly allowedOutbound: readonly string[];
  /** The folders that rules may write files into, by name, with their paths. */
  readonly outFolders: Readonly<Record<string, string>>;
  readonly tools: WritingTools;
  /** The clock: it signs the try and sets the time of the next. */
  readonly now: () => Date;
}

/** Tries before a message is given up: with the waits between them, about a day and a half. */
const mostTries = 18;

/** While everything is paused, it is looked so often whether it is still. */
const pausedMs = 5000;

/** Sends a message once, keeps what was answered, and plans the next try where that failed. */
export async function deliverMessage(id: string, delivery: Delivery): Promise<void> {
  const { pool, now } = delivery;
  const message = await readMessage(pool, id);
  if (message?.state !== 'waiting') return;
  if (await readPaused(pool)) return queueMessages(pool, [id], new Date(now().getTime() + pausedMs));
  // Its turn comes when the earlier one is done with.
  if ((await inTransaction(pool, (client) => nextInOrder(client, message))) !== id) return;
  const answer = await tryOnce(message, delivery);
  const attempt = message.attempts + 1;
  const delivered = answer.problem === null;
  const state = delivered ? 'delivered' : attempt >= mostTries ? 'given up' : 'waiting';
  const next = new Date(now().getTime() + waitMs(attempt));
  await inTransaction(pool, async (client) => {
    await client.query(
      `INSERT INTO message_attempts (message_id, attempt, status, answer, problem) VALUES ($1, $2, $3, $4, $5)
       ON CONFLICT DO NOTHING`,
      [id, attempt, answer.status, answer.answer, answer.problem],
    );
    await client.query('UPDATE messages SET state = $2, attempts = $3, next_at = $4 WHERE id = $1', [
      id,
      state,
      attempt,
      next,
    ]);
    const following = await nextInOrder(client, message);
    if (following !== undefined)
      await queueMessages(client, [following], following === id ? next : undefined);
    await tell(client, { kind: 'message', id, state });
  });
}

/** Sends a message, or puts a file where it is to go. Returns what came of it. */
async function tryOnce(
  { id, way, body, endpoint: name }: WaitingMessage,
  delivery: Delivery,
): Promise<Answer> {
  const { registry, tools, outFolders, now } = delivery;
  const wrong = (problem: string): Answer => ({ status: null, answer: null, problem });
  try {
    const data = way === null ? undefined : fileIn(body);
    if (way !== null && !data) return wrong('What it holds is no file.');
    const file = data && (await bytesOf(data, tools));
    if (file && way === 'folder') {
      const folder = Object.hasOwn(outFolders, name) ? outFolders[name] : undefined;
      return folder === undefined
        ? wrong(`There is no folder “${name}” that this server may write to.`)
        : await intoFolder(folder, { id, ...file });
    }
    const endpoint = registry.endpoints.get(name);
    if (!endpoint) return wrong(`There is no endpoint “${name}”.`);
    const sent = file
      ? { body: file.bytes, mediaType: file.mediaType, name: file.name }
      : { body: printJson(body) };
    return await postTo(endpoint, { id, at: now(), ...sent }, delivery);
  } catch (thrown) {
    if (thrown instanceof TooManyRows) return wrong(thrown.message);
    throw thrown;
  }
}

/** Returns how long to wait before the next try: a second, doubled with every try, four hours at most. */
function waitMs(attempt: number): number {
  return Math.min(4 * 3_600_000, 1000 * 2 ** (attempt - 1));
}
