import { linesIn } from '../engine/actions';
import { recordNamed, targetOf } from '../engine/targetOf';
import { parsePlace } from '../model/place';
import { fieldAt } from '../model/system';
import { isAboutField, replaceFormula, type Check, type Fix, type Subject } from './finding';
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

/** Returns a fix that takes the id of a record where a reference is given the record itself. */
function idOfRecord(at: string, { rule, surroundings: { catalog } }: Subject): Fix | undefined {
  const place = parsePlace(at);
  if (place.of !== 'line' || place.member !== 'formula') return undefined;
  const action = rule.actions[place.at];
  const line = linesIn(action)[place.line];
  const target = action && targetOf(rule, action, catalog);
  const field = line && target && fieldAt(target.type.fields, line.field);
  const name = line?.formula.trim() ?? '';
  const record = action && recordNamed(rule, action, name, catalog);
  if (field?.type !== 'reference' || !record || !field.refersTo?.includes(record.type.name)) return undefined;
  const id = `${name}.${record.type.idField}`;
  return replaceFormula(`Use ${id}`, at, id);
}

/** Formulas that cannot be read or typed, names that nothing has, places that are not there. */
export const mistake: Check = {
  kind: 'mistake',
  meaning: 'A formula that cannot be computed: its text, a name in it, or the types of its parts are wrong.',
  find: (subject) =>
    subject.problems
      .filter(({ at }) => !isAboutField(at))
      .map((problem) => {
        const fix = fixOf(problem, subject.rule) ?? idOfRecord(problem.at, subject);
        return {
          severity: 'error',
          at: problem.at,
          message: problem.error.message,
          ...(fix && { fix }),
        };
      }),
};
