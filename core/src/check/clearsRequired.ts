import { linesOf, type Check, type Finding } from './finding';
import { mayBeBlank } from '../formula/mayBeBlank';

/** Required targets that a blank source would leave empty. */
export const clearsRequired: Check = {
  kind: 'clears required',
  meaning: 'A line can give blank for a field that its system requires; it fails then.',
  find: (subject) =>
    linesOf(subject).flatMap(({ line, at }): Omit<Finding, 'kind'>[] => {
      if (!line.definition.required || line.policy === 'value present' || line.policy === 'never clear')
        return [];
      if (!mayBeBlank(line.compiled.tree)) return [];
      return [
        {
          severity: 'warning',
          at: `${at}/formula`,
          message: `“${line.definition.label}” is required, and the formula can give blank; the line fails then.`,
          fix: {
            label: 'Write it unless blank',
            patch: [{ op: 'replace', path: `/${at}/policy`, value: 'value present' }],
          },
        },
      ];
    }),
};
