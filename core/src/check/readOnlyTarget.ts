import type { Check } from './finding';

/** Lines whose target cannot be written: read-only in its system, or not there at all. */
export const readOnlyTarget: Check = {
  kind: 'read-only target',
  meaning: 'A line writes a field that its system does not let anyone write, or that is not there.',
  find: ({ problems }) =>
    problems
      .filter(({ at }) => at.endsWith('/field'))
      .map(({ at, error }) => {
        const line = at.slice(0, -'/field'.length);
        return {
          severity: 'error',
          at,
          message: error.message,
          ...(line.startsWith('actions/') && {
            fix: { label: 'Remove the line', patch: [{ op: 'remove', path: `/${line}` }] },
          }),
        };
      }),
};
