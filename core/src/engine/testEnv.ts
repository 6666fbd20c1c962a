import { eventInstant } from '../formula/names';
import type { Env } from '../formula/scope';
import type { ChangeEvent } from '../model/event';

/** What the names of a formula hold when an event comes in and nothing has been found. */
export function envOf({ id, source, kind, time, record, before, changed }: ChangeEvent): Env {
  return {
    record,
    before: before ?? null,
    target: null,
    found: {},
    changed: new Set(changed),
    event: { id, source, kind, time: eventInstant(time) },
  };
}
