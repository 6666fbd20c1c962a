import type { Logger } from 'pino';
import { WorkspaceError, type Listening } from '@vast-knot/core';
import type { Pool } from '../db/pool';
import { askSince, compareAll, type Found, type Looking } from '../intake/catchUp';
import type { Registry } from '../registry/registry';
import { queueListening } from '../systems/connecting';
import { takeNotedIfPossible } from './takeNoted';
import { noteLook, noteLookProblem, readHeard, type Heard } from '../systems/listening';

/** What is worked with. */
export interface ListeningParts {
  readonly pool: Pool;
  readonly registry: Registry;
  readonly log: Logger;
  readonly now: Date;
}

/** Pause before a system that did not answer is asked again. */
const againMs = 30_000;

/** What a system noted is fetched so often where nobody hears that it did. */
const notedMs = 60_000;

/** How changes of a type are to be looked for now; undefined where it is not time yet. */
type Due = 'asked' | 'compared' | undefined;

/** Returns how a record type is to be looked through at a moment. */
export function dueNow({ asked, compared }: Listening, heard: Heard | undefined, now: Date): Due {
  const passed = (at: Date | null | undefined, seconds: number) =>
    !at || now.getTime() - at.getTime() >= seconds * 1000;
  if (compared && passed(heard?.comparedAt, compared.everySeconds)) return 'compared';
  // Without a mark nothing says since when: everything is compared once.
  if (asked && heard?.mark === undefined) return 'compared';
  if (asked && heard?.mark === null)
    return passed(heard.comparedAt, asked.everySeconds) ? 'compared' : undefined;
  return asked && passed(heard?.askedAt, asked.everySeconds) ? 'asked' : undefined;
}

/** Returns when a record type is to be looked through next; undefined where it is not looked through at all. */
export function nextLook({ asked, compared }: Listening, now: Date): Date | undefined {
  const seconds = Math.min(asked?.everySeconds ?? Infinity, compared?.everySeconds ?? Infinity);
  return seconds === Infinity ? undefined : new Date(now.getTime() + seconds * 1000);
}

/**
 * Looks for changes in those record types of a system that are to be asked for or compared by now, and asks to be called again when the
 * next is due. One that cannot be looked through is tried again, and holds up no other.
 */
export async function listenToSystem(system: string, parts: ListeningParts): Promise<void> {
  const { pool, registry, log, now } = parts;
  const connector = registry.connectors.get(system);
  if (!connector?.records) return;
  const heard = await readHeard(pool, system);
  const next: Date[] = [];
  if (connector.noted) {
    next.push(new Date(now.getTime() + notedMs));
    try {
      await takeNotedIfPossible(pool, registry, system, log);
    } catch (thrown) {
      if (!(thrown instanceof WorkspaceError)) throw thrown;
      log.warn({ system, because: thrown.problem.message }, 'noted changes were not fetched');
      next.push(new Date(Math.max(now.getTime() + againMs, thrown.problem.waits?.until ?? 0)));
    }
  }
  for (const { name: recordType } of registry.catalog.system(system)?.recordTypes ?? []) {
    const listening = connector.listeningOf(recordType);
    const then = nextLook(listening, now);
    if (!then) continue;
    const how = dueNow(listening, heard.get(recordType), now);
    try {
      if (how) {
        const why = how === 'asked' ? 'asking' : 'comparing';
        const { taken } = await look({ system, recordType, why, now }, how, parts, heard.get(recordType));
        if (taken > 0) log.info({ system, recordType, taken }, `changes were found by ${why}`);
      }
      next.push(then);
    } catch (thrown) {
      if (!(thrown instanceof WorkspaceError)) throw thrown;
      const { message, waits } = thrown.problem;
      await noteLookProblem(pool, system, recordType, message);
      next.push(new Date(Math.max(now.getTime() + againMs, waits?.until ?? 0)));
    }
  }
  const [soonest] = next.sort((a, b) => a.getTime() - b.getTime());
  if (soonest) await queueListening(pool, system, soonest);
}

/** Looks for the changes of a type, and keeps how far that came. */
export async function look(
  looking: Looking,
  how: 'asked' | 'compared',
  { pool, registry, now }: ListeningParts,
  heard: Heard | undefined,
): Promise<Found> {
  const { system, recordType } = looking;
  const mark = heard?.mark ?? undefined;
  const asks = how === 'asked' && mark !== undefined;
  const found = asks
    ? await askSince(pool, registry, looking, mark)
    : // A look that failed has learnt nothing.
      await compareAll(pool, registry, looking, !heard?.comparedAt);
  await noteLook(pool, {
    system,
    recordType,
    how: asks ? 'asked' : 'compared',
    found: found.taken,
    mark: found.mark,
    at: now,
  });
  return found;
}
