import { actionOf, parsePlace } from '../model/place';
import { isWatched } from '../model/triggers/updated';
import { linesOf, type Check, type Finding } from './finding';

/** Two lines of one rule for one field: one target takes one source (common practice, no source). */
export const twoLines: Check = {
  kind: 'two lines',
  meaning: 'Two actions of a rule write the same field of the same record; the later one wins.',
  find: (subject) => {
    const earlier: { readonly target: string; readonly field: string; readonly at: string }[] = [];
    return linesOf(subject).flatMap(({ action, line, at }): Omit<Finding, 'kind'>[] => {
      // A line for an object writes all of its fields.
      const rival = earlier.find(
        ({ target, field }) => target === action.target && isWatched(line.field, [field]),
      );
      if (!rival) {
        earlier.push({ target: action.target, field: line.field, at });
        return [];
      }
      return [
        {
          severity: 'error',
          at: `${at}/field`,
          message: `“${line.definition.label}” has a line already, in ${place(rival.at)}.`,
          fix: { label: 'Remove this line', patch: [{ op: 'remove', path: `/${at}` }] },
        },
      ];
    });
  },
};

function place(at: string): string {
  return `action ${(actionOf(parsePlace(at)) ?? 0) + 1}`;
}
