import { kindOf, linesIn } from '../engine/actions';
import { leafFields } from '../model/system';
import { listed, type Check, type Finding } from './finding';

/** Required fields of a record that is created, which no line fills. */
export const missingRequired: Check = {
  kind: 'missing required',
  meaning:
    'A record is created without a line for a field that its system requires; it cannot be created then.',
  find: ({ compiledParts, rule }) =>
    (compiledParts?.actions ?? []).flatMap(({ action, at, recordType }): Omit<Finding, 'kind'>[] => {
      if (!kindOf(action).startsBlank) return [];
      // A line with a mistake is told of by itself.
      const filled = linesIn(rule.actions[at]).map(({ field }) => field);
      const missing = leafFields(recordType.fields).filter(
        ({ field, path }) =>
          field.required &&
          !field.readOnly &&
          !filled.some((field) => path === field || path.startsWith(`${field}.`)),
      );
      if (missing.length === 0) return [];
      const labels = listed(missing.map(({ label }) => label));
      const message = `${labels} of ${recordType.label} ${missing.length === 1 ? 'is' : 'are'} required and ${missing.length === 1 ? 'has' : 'have'} no line; the record cannot be created.`;
      return [{ severity: 'error', at: `actions/${at}`, message }];
    }),
};
