import { v7 as uuid } from 'uuid';
import {
  existingEvent,
  existingSource,
  kindOfExisting,
  manyRecords,
  type CompiledRule,
  type StoredRecord,
} from '@vast-knot/core';
import type { ReceivedEvent } from '../inbox/inbox';
import type { Judging } from './judging';

/** Returns the event by which one record is written in a run of its own. Its id comes from the look and the record, so that none is written twice. */
export function oneOf(compiled: CompiledRule, stored: StoredRecord, judging: Judging): ReceivedEvent {
  const { changed, ...told } = existingEvent(compiled, stored, judging);
  return { ...told, claimed: changed };
}

/** Returns the event by which many records of a look are written in one run. `records` are their places in the look; that the run has them is noted with them as well. */
export function manyOf(
  compiled: CompiledRule,
  records: readonly string[],
  { id: look, time }: Judging,
): ReceivedEvent {
  const { rule, recordType } = compiled;
  const name = uuid();
  return {
    id: `${look}/${name}`,
    source: existingSource,
    kind: kindOfExisting(compiled),
    ref: { system: rule.trigger.system, recordType: recordType.name, id: manyRecords(name) },
    time,
    record: {},
    claimed: [],
    rule: rule.id,
    brings: { look, records },
  };
}
