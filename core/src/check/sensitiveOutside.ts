import type { Field } from '../model/system';
import type { Typed } from '../formula/typed';
import { linesOf, listed, type Check, type Finding } from './finding';

function fieldsIn(typed: Typed): readonly Field[] {
  return [...(typed.field ? [typed.field] : []), ...typed.children.flatMap(fieldsIn)];
}

/** Secret and personal values that are written to another system. */
export const sensitiveOutside: Check = {
  kind: 'sensitive outside',
  meaning:
    'A secret or personal value is written to a field of another system that is not marked as holding such values.',
  find: (subject) =>
    linesOf(subject).flatMap(({ action, line, at }): Omit<Finding, 'kind'>[] => {
      if (action.system === subject.rule.trigger.system) return [];
      const fields = fieldsIn(line.compiled.tree);
      const secret = fields.filter(({ sensitivity }) => sensitivity === 'secret');
      const outside = subject.surroundings.catalog.system(action.system)?.name ?? action.system;
      if (secret.length > 0) {
        const message = `${listed(secret.map(({ label }) => label))} is secret and would leave for ${outside}.`;
        return [
          {
            severity: 'error',
            at: `${at}/formula`,
            message,
            fix: { label: 'Remove the line', patch: [{ op: 'remove', path: `/${at}` }] },
          },
        ];
      }
      const personal = fields.filter(({ sensitivity }) => sensitivity === 'personal');
      if (personal.length === 0 || line.definition.sensitivity === 'personal') return [];
      const message = `${listed(personal.map(({ label }) => label))} is personal; “${line.definition.label}” in ${outside} is not marked as holding personal values.`;
      return [{ severity: 'warning', at: `${at}/formula`, message }];
    }),
};
