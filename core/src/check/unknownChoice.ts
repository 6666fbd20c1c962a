import { linesOf, listed, useNearest, type Check, type Finding } from './finding';
import { possibleValues } from '../formula/possibleValues';

/** Options that a formula can give and the target does not know. */
export const unknownChoice: Check = {
  kind: 'unknown choice',
  meaning: 'A formula can give a value that is none of the options of the target field.',
  find: (subject) =>
    linesOf(subject).flatMap(({ line, at }): Omit<Finding, 'kind'>[] => {
      const { options, label, type } = line.definition;
      if ((type !== 'choice' && type !== 'multichoice') || !options) return [];
      const values = possibleValues(line.compiled.tree, subject.surroundings.tables);
      const place = `${at}/formula`;
      if (!values) {
        if (line.compiled.type.kind !== 'text') return [];
        const message = `“${label}” takes one of its ${options.length} options, and the formula can give any text; a table would turn it into an option.`;
        return [{ severity: 'warning', at: place, message }];
      }
      const known = new Set(options.map(({ value }) => value));
      const unknown = [...values].filter((value) => !known.has(value));
      if (unknown.length === 0) return [];
      const [first = ''] = unknown;
      const fix = useNearest(first, [...known], place, line.formula);
      const all = unknown.length === values.size;
      return [
        {
          severity: all ? 'error' : 'warning',
          at: place,
          message: `“${label}” has no option ${listed(unknown)}, which the formula can give.`,
          ...(fix && { fix }),
        },
      ];
    }),
};
