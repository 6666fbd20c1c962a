import { linesOf, replaceFormula, type Check, type Finding } from './finding';
import { numberRange } from '../formula/numberRange';

/** Numbers that may lie outside the limits of their field. */
export const outOfRange: Check = {
  kind: 'out of range',
  meaning: 'A formula can give a number outside the limits of the target field.',
  find: (subject) =>
    linesOf(subject).flatMap(({ line, at }): Omit<Finding, 'kind'>[] => {
      const { min, max, label, type } = line.definition;
      if ((type !== 'integer' && type !== 'decimal') || (min === undefined && max === undefined)) return [];
      const { kind } = line.compiled.type;
      if (kind !== 'integer' && kind !== 'decimal') return [];
      const range = numberRange(line.compiled.tree);
      const below = min !== undefined && (range.min === undefined || range.min < min);
      const above = max !== undefined && (range.max === undefined || range.max > max);
      if (!below && !above) return [];
      const never =
        (below && range.max !== undefined && range.max < min) ||
        (above && range.min !== undefined && range.min > max);
      const limits =
        below && above ? `takes ${min} to ${max}` : below ? `takes ${min} and more` : `takes ${max} at most`;
      const inner = above ? `MIN(${line.formula}, ${max})` : line.formula;
      const formula = below ? `MAX(${inner}, ${min})` : inner;
      return [
        {
          severity: never ? 'error' : 'warning',
          at: `${at}/formula`,
          message: `“${label}” ${limits}, and the formula ${never ? 'always gives' : 'can give'} a number beyond.`,
          fix: replaceFormula('Keep within the limits', `${at}/formula`, formula),
        },
      ];
    }),
};
