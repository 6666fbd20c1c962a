import { creates } from '../engine/actions';
import { isWatched } from '../model/triggers/updated';
import { fieldWithin, labelAt } from '../model/system';
import { listed, linesOf, type Check, type Finding } from './finding';

/** Fields that a line uses and whose change does not start the rule. */
export const unwatchedField: Check = {
  kind: 'unwatched field',
  meaning:
    'A line of a write uses a field of the triggering record that the trigger does not watch: when it changes, nothing is written.',
  find: (subject) => {
    const { rule, compiledParts } = subject;
    const { watched, kinds } = rule.trigger;
    if (!compiledParts || watched.length === 0 || !kinds.includes('updated')) return [];
    // What is created once takes the values of that moment; a later change of one is not meant to create it again.
    const lasting = linesOf(subject).filter(({ action }) => !creates(action.action));
    return lasting.flatMap(({ line, at }): Omit<Finding, 'kind'>[] => {
      const unwatched = [
        ...new Set(
          line.compiled.uses
            .filter(({ of, path }) => of === 'record' && !isWatched(path, watched))
            .map(({ path }) => path),
        ),
      ].filter((path) => {
        const field = fieldWithin(compiledParts.recordType.fields, path);
        // What nobody can write never changes.
        return field !== undefined && !field.readOnly && !field.keptBySystem;
      });
      if (unwatched.length === 0) return [];
      const labels = unwatched.map((path) => labelAt(compiledParts.recordType.fields, path));
      return [
        {
          severity: 'warning',
          at: `${at}/formula`,
          message: `${listed(labels)} ${labels.length === 1 ? 'is' : 'are'} used here and not watched: a change of it alone is not written to “${line.definition.label}”.`,
          fix: {
            label: `Watch ${labels.join(', ')}`,
            patch: unwatched.map((path) => ({ op: 'add' as const, path: '/trigger/watched/-', value: path })),
          },
        },
      ];
    });
  },
};
