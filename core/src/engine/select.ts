import { sameValue } from '../model/equal';
import type { ChangeEvent, EventKind } from '../model/event';
import { readPath } from '../model/json';
import { fieldAt, type RecordType } from '../model/system';
import type { Trigger, Turn } from '../model/trigger';

export type Selection =
  | { readonly fires: true }
  | { readonly fires: false; readonly verdict: 'not this kind' | 'not watched'; readonly because: string };

/** The kinds of event as they are said after “when a company …”. */
export const kindWords: Readonly<Record<EventKind, string>> = {
  created: 'is created',
  updated: 'is updated',
  deleted: 'is deleted',
  requested: 'is chosen by a person',
  scheduled: 'is due by the clock',
  'file row': 'comes as a row of a file',
  'form answer': 'comes as the answer of a form',
};

const was: Readonly<Record<EventKind, string>> = {
  created: 'was created',
  updated: 'was updated',
  deleted: 'was deleted',
  requested: 'was chosen by a person for another rule',
  scheduled: 'was due by the clock',
  'file row': 'came as a row of a file',
  'form answer': 'came as the answer of a form',
};

/** Whether an event of the trigger's record type starts the rule: by its kind, and for updates by what changed. */
export function select(trigger: Trigger, recordType: RecordType, event: ChangeEvent): Selection {
  if (!trigger.kinds.includes(event.kind)) {
    const because = `The ${lower(recordType.label)} ${was[event.kind]}; the rule starts when it ${orList(trigger.kinds.map((kind) => kindWords[kind]))}.`;
    return { fires: false, verdict: 'not this kind', because };
  }
  if (event.kind !== 'updated' || trigger.watched.length === 0) return { fires: true };
  const { watched, turns = [] } = trigger;
  const label = (path: string) => fieldAt(recordType.fields, path)?.label ?? path;
  const seen = event.changed.filter((path) => isWatched(path, watched));
  if (seen.length === 0) {
    const changed =
      event.changed.length === 0 ? 'Nothing changed' : `Only ${andList(event.changed.map(label))} changed`;
    const because = `${changed}; the rule watches ${andList(watched.map(label))}.`;
    return { fires: false, verdict: 'not watched', because };
  }
  const counts = (path: string) => {
    const narrowed = turns.filter(({ field }) => isWatched(path, [field]));
    return narrowed.length === 0 || narrowed.some((turn) => isTurn(turn, recordType, event));
  };
  if (seen.some(counts)) return { fires: true };
  const because = `${andList(seen.map((path) => changeText(path, label(path), event)))}; the rule wants ${orList(turns.map((turn) => turnText(turn, label(turn.field))))}.`;
  return { fires: false, verdict: 'not watched', because };
}

/** Whether a changed path is one that is watched, lies inside one, or holds one. */
export function isWatched(changed: string, watched: readonly string[]): boolean {
  return watched.some(
    (path) => changed === path || changed.startsWith(`${path}.`) || path.startsWith(`${changed}.`),
  );
}

/** Whether a field made the change that a turn wants: from its value, to its value, compared by its type. */
function isTurn({ field, from, to }: Turn, recordType: RecordType, event: ChangeEvent): boolean {
  const definition = fieldAt(recordType.fields, field);
  const fits = (record: ChangeEvent['before'], wanted: string | undefined) =>
    wanted === undefined || sameValue(definition, readPath(record, field), wanted);
  return fits(event.before, from) && fits(event.record, to);
}

/** A turn in words: “Status to closed”. */
export function turnText({ from, to }: Turn, label: string): string {
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

function lower(text: string): string {
  return text.charAt(0).toLowerCase() + text.slice(1);
}

function andList(items: readonly string[]): string {
  return items.length <= 1 ? items.join('') : `${items.slice(0, -1).join(', ')} and ${items.at(-1)}`;
}

function orList(items: readonly string[]): string {
  return items.length <= 1 ? items.join('') : `${items.slice(0, -1).join(', ')} or ${items.at(-1)}`;
}
