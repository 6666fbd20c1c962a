import { kindOf, targetName } from '../engine/actions';
import type { Check, Finding } from './finding';

/** Finds whose records nothing reads or writes. */
export const unusedFind: Check = {
  kind: 'unused find',
  meaning: 'A find fetches records that no formula reads and no action writes.',
  find: (subject) => {
    if (subject.problems.length > 0) return [];
    const used = new Set([
      ...(subject.compiledParts?.formulas ?? []).flatMap(({ formula }) => formula.uses.map(({ of }) => of)),
      ...subject.rule.actions.flatMap((action) => [
        targetName(action),
        ...(kindOf(action).uses?.(action) ?? []),
      ]),
    ]);
    return subject.rule.finds.flatMap((find, at): Omit<Finding, 'kind'>[] =>
      // A find that stops or fails the rule on none is a condition, and has its use.
      used.has(find.alias) || find.none !== 'go on'
        ? []
        : [
            {
              severity: 'note',
              at: `finds/${at}`,
              message: `“${find.alias}” is found and used nowhere.`,
              fix: { label: 'Remove the find', patch: [{ op: 'remove', path: `/finds/${at}` }] },
            },
          ],
    );
  },
};
