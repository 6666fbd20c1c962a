import type { ChangeEvent } from '../model/event';
import { fieldAt, type RecordType } from '../model/system';
import type { Trigger } from '../model/rule';

export type Selection =
  | { readonly fires: true }
  | { readonly fires: false; readonly verdict: 'not this kind' | 'not watched'; readonly because: string };

/** Whether an event of the trigger's record type starts the rule: by its kind, and for updates by what changed. */
export function select(trigger: Trigger, recordType: RecordType, event: ChangeEvent): Selection {
  if (!trigger.kinds.includes(event.kind)) {
    const because = `The ${lower(recordType.label)} was ${event.kind}; the rule starts when it is ${orList(trigger.kinds)}.`;
    return { fires: false, verdict: 'not this kind', because };
  }
  if (event.kind !== 'updated' || trigger.watched.length === 0) return { fires: true };
  if (event.changed.some((path) => isWatched(path, trigger.watched))) return { fires: true };
  const label = (path: string) => fieldAt(recordType.fields, path)?.label ?? path;
  const changed =
    event.changed.length === 0 ? 'Nothing changed' : `Only ${andList(event.changed.map(label))} changed`;
  const because = `${changed}; the rule watches ${andList(trigger.watched.map(label))}.`;
  return { fires: false, verdict: 'not watched', because };
}

/** Whether a changed path is one that is watched, lies inside one, or holds one. */
export function isWatched(changed: string, watched: readonly string[]): boolean {
  return watched.some(
    (path) => changed === path || changed.startsWith(`${path}.`) || path.startsWith(`${changed}.`),
  );
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
