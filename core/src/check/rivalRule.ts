import { creates } from '../engine/actions';
import type { CompiledRule } from '../engine/compiled';
import { isWatched } from '../model/triggers/updated';
import type { Trigger } from '../model/trigger';
import { linesOf, listed, type Check, type Finding } from './finding';

/** Returns whether one change may start both rules. */
function overlap(a: Trigger, b: Trigger): boolean {
  // Rules for a request, a row or the clock are started one by one.
  if (a.system !== b.system || a.recordType !== b.recordType) return false;
  const kinds = a.kinds.filter((kind) => b.kinds.includes(kind));
  if (kinds.length === 0) return false;
  if (kinds.some((kind) => kind !== 'updated') || a.watched.length === 0 || b.watched.length === 0)
    return true;
  return a.watched.some((path) => isWatched(path, b.watched));
}

function writes(other: CompiledRule, system: string, recordType: string, field: string): boolean {
  return other.actions.some(
    (action) =>
      !creates(action.action) &&
      action.system === system &&
      action.recordType.name === recordType &&
      action.lines.some((line) => line.field === field),
  );
}

/** Other rules that write the same field on the same change. */
export const rivalRule: Check = {
  kind: 'rival rule',
  meaning: 'Another rule, which the same change can start, writes the same target field.',
  find: (subject) =>
    linesOf(subject).flatMap(({ action, line, at }): Omit<Finding, 'kind'>[] => {
      // A record that is created is nobody else's.
      if (creates(action.action)) return [];
      const rivals = subject.others.filter(
        (other) =>
          overlap(subject.rule.trigger, other.rule.trigger) &&
          writes(other, action.system, action.recordType.name, line.field),
      );
      if (rivals.length === 0) return [];
      const names = listed(rivals.map(({ rule }) => rule.name));
      const message = `“${line.definition.label}” is also written by ${names} on the same change; the last rule wins.`;
      return [{ severity: 'warning', at: `${at}/field`, message }];
    }),
};
