import type { ChangeEvent } from '../model/event';
import { readPath } from '../model/json';
import { refKey } from '../model/record';

/**
 * Notices when a cascade comes back to a record with a value it had before. Takes each caused change in turn, with the
 * names of the rules that wrote it. Returns the sentence that names the circle, or undefined.
 */
export function changeRegister(
  first: ChangeEvent,
): (event: ChangeEvent, rules: readonly string[]) => string | undefined {
  const held = new Map<string, Set<string>>();
  const remember = (event: ChangeEvent, path: string, value: unknown): boolean => {
    const key = `${refKey(event.ref)}#${path}`;
    const values = held.get(key) ?? new Set<string>();
    const text = JSON.stringify(value ?? null);
    const seen = values.has(text);
    held.set(key, values.add(text));
    return seen;
  };
  // What stood there before the event is no part of a circle: a rule may put back what somebody changed.
  for (const path of first.changed) remember(first, path, readPath(first.record, path));
  const path: string[] = [];
  return (event, rules) => {
    path.push(...rules.filter((rule) => !path.includes(rule)));
    let circle: string | undefined;
    for (const field of event.changed) {
      remember(event, field, readPath(event.before, field));
      const again = remember(event, field, readPath(event.record, field));
      if (again) {
        circle = `A circle was stopped: “${field}” of ${refKey(event.ref)} came back to a value it had before. Rules in the circle: ${path.join(' → ')}.`;
      }
    }
    return circle;
  };
}
