import { actionOf, parsePlace } from '../model/place';
import { linesOf, type Check, type Finding } from './finding';

/** Two lines of one rule for one field: one target takes one source (common practice, no source). */
export const twoLines: Check = {
  kind: 'two lines',
  meaning: 'Two actions of a rule write the same field of the same record; the later one wins.',
  find: (subject) => {
    const first = new Map<string, string>();
    return linesOf(subject).flatMap(({ action, line, at }): Omit<Finding, 'kind'>[] => {
      const target = `${action.target}/${line.field}`;
      const earlier = first.get(target);
      if (earlier === undefined) {
        first.set(target, at);
        return [];
      }
      return [
        {
          severity: 'error',
          at: `${at}/field`,
          message: `“${line.definition.label}” has a line already, in ${place(earlier)}.`,
          fix: { label: 'Remove this line', patch: [{ op: 'remove', path: `/${at}` }] },
        },
      ];
    });
  },
};

function place(at: string): string {
  return `action ${(actionOf(parsePlace(at)) ?? 0) + 1}`;
}
