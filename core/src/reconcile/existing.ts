import type { CompiledRule } from '../engine/compiled';
import type { ChangeEvent, EventKind, Existing } from '../model/event';
import type { StoredRecord } from '../model/record';
import { triggerKind } from '../model/triggers';
import { orList } from '../model/triggers/words';

/** What a record that exists can be taken as, in the order in which a rule is asked. */
const kindsOfExisting: readonly EventKind[] = ['updated', 'created', 'scheduled', 'requested'];

/** Returns what a record that exists is taken as for a rule. */
export function kindOfExisting(compiled: CompiledRule): EventKind {
  return kindFor(compiled) ?? 'updated';
}

function kindFor({ rule }: CompiledRule): EventKind | undefined {
  return kindsOfExisting.find((kind) => rule.trigger.kinds.includes(kind));
}

/**
 * Returns why a rule says nothing of records that exist, as a sentence: it starts from something that is no longer there, or reads how the
 * record was before; undefined for most rules.
 */
export function whyNotExisting(compiled: CompiledRule): string | undefined {
  const { rule, formulas } = compiled;
  const kind = kindFor(compiled);
  if (!kind) {
    const starts = orList(rule.trigger.kinds.map((each) => triggerKind(each).words));
    return `“${rule.name}” starts only when its record ${starts}; a record that exists is not that.`;
  }
  if (rule.trigger.once) return `“${rule.name}” is done once for all records, and for none by itself.`;
  if (kind === 'requested' && (rule.trigger.inputs ?? []).length > 0)
    return `“${rule.name}” asks a person something for each record; records that exist have no answers.`;
  for (const { at, formula } of formulas) {
    const read = formula.uses.find(({ of }) => of === 'before');
    if (read) {
      const where = at === 'guard' ? 'The guard' : `The formula at ${at}`;
      const name = ['before', read.path].filter((part) => part !== '').join('.');
      return `${where} reads ${name}, and of records that exist nobody knows how they were before: ${formula.source}`;
    }
  }
  return undefined;
}

/** What records are looked at with. */
export interface LookingAt {
  /** The id of the look; with the record it makes the id of the event, so that looking again gives the same. */
  readonly id: string;
  /** When it was asked for, ISO 8601: `NOW()` is this instant. */
  readonly time: string;
  readonly existing: Existing;
}

/** Returns the event that a record is taken as: as if all of what the rule watches had just changed. */
export function existingEvent(
  compiled: CompiledRule,
  { ref, record }: Pick<StoredRecord, 'ref' | 'record'>,
  { id, time, existing }: LookingAt,
): ChangeEvent {
  const { rule, recordType } = compiled;
  const { watched } = rule.trigger;
  return {
    id: `${id}/${ref.id}`,
    source: existingSource,
    kind: kindOfExisting(compiled),
    ref,
    time,
    record,
    changed: watched.length > 0 ? watched : recordType.fields.map(({ name }) => name),
    rule: rule.id,
    existing,
  };
}

/** Where the events of records that exist come from. */
export const existingSource = '/vast-knot/existing';
