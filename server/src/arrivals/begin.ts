import { v7 as uuid } from 'uuid';
import type { Json } from '@vast-knot/core';
import type { Client, Pool } from '../db/pool';
import { HttpProblem } from '../http/problem';
import { beginJobIn } from '../jobs/repository';
import type { Registry } from '../registry/registry';
import { alone } from './alone';
import { applyFileKind, type ApplyAsked } from './apply';
import { countChosen, type RowChoice } from './choosing';
import { lookAtFileKind, type LookAsked } from './look';
import { isAppliedElsewhere, noteApplying, noteLook, type KeptArrival } from './repository';
import { readyArrival, type ReadyArrival } from './rows';

/** Returns a file ready to be laid out. Throws a 422 that says why it is not. */
export function readyOrWhy(arrival: KeptArrival, registry: Registry): ReadyArrival {
  const found = readyArrival(arrival, registry);
  if (!found.ok) throw new HttpProblem(422, 'Not ready', found.because);
  return found.ready;
}

/** Begins to look at a file. Returns the job. */
export async function beginLook(pool: Pool, registry: Registry, id: string, by: string): Promise<string> {
  return alone(pool, id, (client, arrival) => {
    readyOrWhy(arrival, registry);
    return looking(client, arrival, by);
  });
}

/**
 * Begins to look at a file that a program sent, and has what can be applied applied then: unless it is not ready, or the same content was applied or is to
 * be. Then it waits for a person.
 */
export async function beginByItself(pool: Pool, registry: Registry, id: string, by: string): Promise<void> {
  await alone(pool, id, async (client, arrival) => {
    if (!readyArrival(arrival, registry).ok) return;
    const job = (await isAppliedElsewhere(client, arrival)) ? undefined : uuid();
    if (job !== undefined) await noteApplying(client, id, job);
    await looking(client, arrival, by, job);
  });
}

async function looking(client: Client, { id, revision }: KeptArrival, by: string, applying?: string) {
  const job = uuid();
  const asked: LookAsked = { arrival: id, ...(applying !== undefined && { apply: { job: applying, by } }) };
  await noteLook(client, id, job, revision);
  await beginJobIn(client, { id: job, kind: lookAtFileKind.kind, asked: asked as unknown as Json, by });
  return job;
}

/** Which rows of a file are applied, and in whose name. */
interface Applied {
  readonly choice: RowChoice;
  readonly by: string;
}

/** Begins to apply rows of a file that were looked at. Returns the job, and how many there are. */
export async function beginApply(
  pool: Pool,
  registry: Registry,
  id: string,
  { choice, by }: Applied,
): Promise<{ readonly job: string; readonly count: number }> {
  return alone(pool, id, async (client, arrival) => {
    readyOrWhy(arrival, registry);
    const { lookedRevision, revision } = arrival;
    if (lookedRevision === null)
      throw new HttpProblem(409, 'Not looked at', 'Look at what its rows would do first.');
    if (lookedRevision !== revision)
      throw new HttpProblem(
        409,
        'Laid out otherwise',
        'How the file is laid out was changed since it was looked at. Look again.',
      );
    const count = await countChosen(client, id, choice);
    if (count === 0)
      throw new HttpProblem(
        409,
        'Nothing to apply',
        'None of these rows would do anything, or all of them were applied.',
      );
    const job = uuid();
    const asked: ApplyAsked = { arrival: id, job, choice };
    await noteApplying(client, id, job);
    await beginJobIn(client, { id: job, kind: applyFileKind.kind, asked: asked as unknown as Json, by });
    return { job, count };
  });
}
