import type { ChangeEvent } from '../model/event';
import type { JsonObject } from '../model/json';
import { refKey, type RecordRef } from '../model/record';
import { triggerKind } from '../model/triggers';

/** A record as it stands: undefined once it is gone. */
interface Standing {
  readonly record: JsonObject | undefined;
}

/** How a rule saw a record last, and how many writes to it there had been. */
interface Look extends Standing {
  readonly writes: number;
}

/**
 * What each rule has seen of each record in one event and all that it causes. Rules see the results of those before them, so one
 * change can come to a rule twice: within the event, and as an event of its own. What a rule has seen does not start it again; what
 * came after it does, also where a later write took it back.
 */
export class Sight {
  /** By record, then by rule. */
  private readonly looks = new Map<string, Map<string, Look>>();
  /** The fields that each write to a record changed, in their order. */
  private readonly written = new Map<string, (readonly string[])[]>();

  /** How many writes there have been, to any record. */
  writes = 0;

  /** Keeps that a rule wrote to fields of a record. */
  wrote(ref: RecordRef, fields: readonly string[]): void {
    this.writes++;
    const key = refKey(ref);
    const known = this.written.get(key);
    if (known) known.push(fields);
    else this.written.set(key, [fields]);
  }

  /** Returns how many writes to a record there have been. */
  writesTo(ref: RecordRef): number {
    return this.written.get(refKey(ref))?.length ?? 0;
  }

  /** Keeps that a rule knows a record as it stands: it was offered it, and has written to it what it wanted. */
  saw(rule: string, ref: RecordRef, { record }: Standing): void {
    const key = refKey(ref);
    const looks = this.looks.get(key) ?? new Map<string, Look>();
    this.looks.set(key, looks.set(rule, { record, writes: this.writesTo(ref) }));
  }

  /** Returns how to keep, for one rule after the other, that it knows a record as it stands now. */
  knowing(ref: RecordRef, { record }: Standing): (rule: string) => void {
    const key = refKey(ref);
    const looks = this.looks.get(key) ?? new Map<string, Look>();
    this.looks.set(key, looks);
    const look = { record, writes: this.writesTo(ref) };
    return (rule) => void looks.set(rule, look);
  }

  /** Returns the fields of a record that any write has changed. */
  fieldsOf(ref: RecordRef): readonly string[] {
    return this.changedSince(refKey(ref), 0);
  }

  /**
   * Returns what is new to a rule in an event, given the record as it stands by now; undefined when it has seen all of it. `writes`
   * is how many writes to the record the event tells of.
   */
  newsFor(
    rule: string,
    event: ChangeEvent,
    { record: now }: Standing,
    writes: number,
  ): ChangeEvent | undefined {
    const key = refKey(event.ref);
    const look = this.looks.get(key)?.get(rule);
    const changed = this.changedSince(key, look?.writes ?? writes);
    if (!look) return withRecord(event, now, changed);
    if (!look.record) return undefined;
    if (!now)
      return event.kind === 'deleted' ? { ...event, record: look.record, before: look.record } : undefined;
    return changed.length === 0
      ? undefined
      : { ...event, kind: 'updated', record: now, before: look.record, changed };
  }

  private changedSince(key: string, writes: number): readonly string[] {
    const written = this.written.get(key) ?? none;
    return written.length <= writes ? none : [...new Set(written.slice(writes).flat())];
  }
}

/** Returns an event with the record as it stands after other rules wrote to it. A record that is gone stays as the event knew it. */
function withRecord(
  event: ChangeEvent,
  record: JsonObject | undefined,
  since: readonly string[],
): ChangeEvent {
  if (!record || since.length === 0 || event.kind === 'deleted') return event;
  if (!triggerKind(event.kind).tellsOfChange) return { ...event, record };
  return { ...event, record, changed: [...new Set([...event.changed, ...since])] };
}

const none: readonly never[] = [];
