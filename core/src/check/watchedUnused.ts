import { kindOf } from '../engine/actions';
import { isWatched } from '../model/triggers/updated';
import { fieldWithin } from '../model/system';
import type { Check, Finding } from './finding';

/** Watched fields that nothing in the rule uses: their change starts it for nothing. */
export const watchedUnused: Check = {
  kind: 'watched and unused',
  meaning: 'The trigger watches a field that neither a formula of the rule nor a change it starts at uses.',
  find: (subject) => {
    const { compiledParts, rule } = subject;
    if (!compiledParts) return [];
    const used = (subject.compiledParts?.formulas ?? []).flatMap(({ formula }) =>
      formula.uses.filter(({ of }) => of === 'record' || of === 'before').map(({ path }) => path),
    );
    // A rule with mistakes may use the field in a formula that does not compile.
    if (subject.problems.length > 0 || used.length === 0) return [];
    // Copies take every field, and what another rule reads of the record is not looked at here.
    if (rule.actions.some((action) => kindOf(action).takesAll)) return [];
    // A change from or to a value is what the rule starts at, whether or not a formula reads it.
    const asked = (rule.trigger.turns ?? []).map((turn) => turn.field);
    return rule.trigger.watched.flatMap((path, at): Omit<Finding, 'kind'>[] => {
      const field = fieldWithin(compiledParts.recordType.fields, path);
      if (!field || [...used, ...asked].some((one) => isWatched(one, [path]))) return [];
      return [
        {
          severity: 'note',
          at: `trigger/watched/${at}`,
          message: `“${field.label}” is watched and used nowhere: its change starts the rule for nothing.`,
          fix: {
            label: 'Do not watch it',
            patch: [{ op: 'remove', path: `/trigger/watched/${at}` }],
          },
        },
      ];
    });
  },
};
