import { isAboutField, replaceFormula, type Check, type Fix } from './finding';
import type { RuleProblem } from '../engine/compiling';
import type { RuleBody } from '../engine/rule';
import { formulasOf } from '../engine/formulasOf';

/** Puts the nearest name in the place of a misspelt one. */
function fixOf({ at, error }: RuleProblem, rule: RuleBody): Fix | undefined {
  const { suggestion, place } = error;
  const formula = formulasOf(rule).find((each) => each.at === at)?.formula;
  if (!suggestion || !place || formula === undefined) return undefined;
  const { wrong, right } = suggestion;
  const start = formula.toLowerCase().indexOf(wrong.toLowerCase(), place.start);
  if (start < 0) return undefined;
  const mended = formula.slice(0, start) + right + formula.slice(start + wrong.length);
  return replaceFormula(`Use ${right}`, at, mended);
}

/** Formulas that cannot be read or typed, names that nothing has, places that are not there. */
export const mistake: Check = {
  kind: 'mistake',
  meaning: 'A formula that cannot be computed: its text, a name in it, or the types of its parts are wrong.',
  find: ({ problems, rule }) =>
    problems
      .filter(({ at }) => !isAboutField(at))
      .map((problem) => {
        const fix = fixOf(problem, rule);
        return {
          severity: 'error',
          at: problem.at,
          message: problem.error.message,
          ...(fix && { fix }),
        };
      }),
};
