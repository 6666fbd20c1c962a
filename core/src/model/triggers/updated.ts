import { sameValue } from '../equal';
import type { ChangeEvent } from '../event';
import { readPath } from '../json';
import { fieldWithin, labelAt, type RecordType } from '../system';
import type { ValueChange, Trigger } from '../trigger';
import type { Selection, TriggerKind } from './kind';
import { andList, orList } from './words';

export const updated: TriggerKind<'updated'> = {
  kind: 'updated',
  words: 'is updated',
  past: 'was updated',
  tellsOfChange: true,
  members: ['watched', 'turns', 'wait'],
  select: selectUpdate,
};

/** Returns whether an update starts a rule: one of its watched fields changed, and made a change that counts. */
function selectUpdate(trigger: Trigger, recordType: RecordType, event: ChangeEvent): Selection {
  if (trigger.watched.length === 0) return { fires: true };
  const { watched, turns = [] } = trigger;
  const label = (path: string) => labelAt(recordType.fields, path);
  const seen = event.changed.filter((path) => isWatched(path, watched));
  if (seen.length === 0) {
    const changed =
      event.changed.length === 0 ? 'Nothing changed' : `Only ${andList(event.changed.map(label))} changed`;
    const because = `${changed}; the rule watches ${andList(watched.map(label))}.`;
    return { fires: false, verdict: 'not watched', because };
  }
  const counts = (path: string) => {
    const narrowed = turns.filter(({ field }) => isWatched(path, [field]));
    return narrowed.length === 0 || narrowed.some((wanted) => makesChange(wanted, recordType, event));
  };
  if (seen.some(counts)) return { fires: true };
  const because = `${andList(seen.map((path) => changeText(path, label(path), event)))}; the rule wants ${orList(turns.map((wanted) => valueChangeText(wanted, label(wanted.field))))}.`;
  return { fires: false, verdict: 'not watched', because };
}

/** Returns whether a changed path is one that is watched, lies inside one, or holds one. */
export function isWatched(changed: string, watched: readonly string[]): boolean {
  return watched.some(
    (path) => changed === path || changed.startsWith(`${path}.`) || path.startsWith(`${changed}.`),
  );
}

/** Returns whether a field made the change that is wanted: from its value, to its value, compared by its type. */
function makesChange({ field, from, to }: ValueChange, recordType: RecordType, event: ChangeEvent): boolean {
  const definition = fieldWithin(recordType.fields, field);
  const fits = (record: ChangeEvent['before'], wanted: string | undefined) =>
    wanted === undefined || sameValue(definition, readPath(record, field), wanted);
  // Of a record that exists nobody knows how it was.
  return (event.existing !== undefined || fits(event.before, from)) && fits(event.record, to);
}

/** Returns a wanted change in words: “Status to closed”. */
export function valueChangeText({ from, to }: ValueChange, label: string): string {
  return [
    label,
    ...(from === undefined ? [] : [`from ${from || 'blank'}`]),
    ...(to === undefined ? [] : [`to ${to || 'blank'}`]),
  ].join(' ');
}

function changeText(path: string, label: string, { before, record }: ChangeEvent): string {
  const text = (of: ChangeEvent['before']) => String(readPath(of, path) ?? '') || 'blank';
  return `${label} changed from ${text(before)} to ${text(record)}`;
}
