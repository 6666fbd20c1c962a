import { parsePlace, printPlace } from '../model/place';
import { isAboutField, type Check } from './finding';

/** Lines whose target cannot be written: read-only in its system, or not there at all. */
export const readOnlyTarget: Check = {
  kind: 'read-only target',
  meaning: 'A line writes a field that its system does not let anyone write, or that is not there.',
  find: ({ problems }) =>
    problems
      .filter(({ at }) => isAboutField(at))
      .map(({ at, error }) => {
        const place = parsePlace(at);
        return {
          severity: 'error',
          at,
          message: error.message,
          ...(place.of === 'line' && {
            fix: {
              label: 'Remove the line',
              patch: [{ op: 'remove', path: `/${printPlace({ ...place, member: '' })}` }],
            },
          }),
        };
      }),
};
