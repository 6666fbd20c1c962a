import Joi from 'joi';
import { eventKinds, type HeardEvent } from '@vast-knot/core';
import type { Runner } from '../db/pool';
import { lastId } from '../inbox/inbox';
import { firstRunAfter, lastRunStarting } from '../runs/repository';

interface Listening {
  readonly system: string;
  readonly recordType: string;
  readonly kind?: string;
  /** The last event that had come in when the listening began. */
  readonly after?: string;
}

export const listening = Joi.object<Listening>({
  system: Joi.string().max(80).required(),
  recordType: Joi.string().max(80).required(),
  kind: Joi.valid(...eventKinds),
  after: Joi.string().pattern(/^\d{1,18}$/),
});

/**
 * Returns the first event of a kind that came in after another one and was dealt with; our own writes that came back are none. Without
 * `after` it is told where the inbox stands, to listen from there.
 */
export async function nextEvent(
  runner: Runner,
  { system, recordType, kind, after }: Listening,
): Promise<HeardEvent> {
  if (after === undefined) return { after: await lastId(runner), run: null };
  return { after, run: await firstRunAfter(runner, after, { system, recordType, kind: kind ?? null }) };
}

/** A list in an address: its parts behind commas. */
const listed = Joi.string().allow('').max(4000).default('');

export const starting = Joi.object<{
  readonly system: string;
  readonly recordType: string;
  readonly kinds: string;
  readonly watched: string;
}>({
  system: Joi.string().max(80).required(),
  recordType: Joi.string().max(80).required(),
  kinds: listed,
  watched: listed,
});

/** Returns the run of the newest event that would start a rule with such a trigger; null where none came in lately. */
export async function lastStarting(
  runner: Runner,
  {
    system,
    recordType,
    kinds,
    watched,
  }: { system: string; recordType: string; kinds: string; watched: string },
): Promise<{ readonly run: string | null }> {
  const parts = (text: string) => text.split(',').filter((part) => part !== '');
  return {
    run: await lastRunStarting(runner, { system, recordType, kinds: parts(kinds), watched: parts(watched) }),
  };
}
