import { linesOf, type Check, type Finding } from './finding';
import type { Typed } from '../formula/typed';

/** Whether a formula may give blank: a name whose field is not required, and what passes its blank on. */
function mayBeBlank({ node, field, children }: Typed): boolean {
  if (field) return !field.required && !field.readOnly;
  if (node.kind === 'text') return node.value === '';
  if (node.kind === 'binary' && node.operator === '&') return children.every(mayBeBlank);
  if (node.kind === 'call' && (node.name === 'COALESCE' || node.name === 'TEXTJOIN')) {
    return children.every(mayBeBlank);
  }
  if (node.kind === 'call' && node.name === 'IF')
    return children.length < 3 || children.slice(1).some(mayBeBlank);
  return children.some(mayBeBlank);
}

/** Required targets that a blank source would leave empty. */
export const clearsRequired: Check = {
  kind: 'clears required',
  meaning: 'A line can give blank for a field that its system requires; it fails then.',
  find: (subject) =>
    linesOf(subject).flatMap(({ line, at }): Omit<Finding, 'kind'>[] => {
      if (!line.definition.required || line.policy === 'value present' || line.policy === 'never clear')
        return [];
      if (!mayBeBlank(line.compiled.tree)) return [];
      return [
        {
          severity: 'warning',
          at: `${at}/formula`,
          message: `“${line.definition.label}” is required, and the formula can give blank; the line fails then.`,
          fix: {
            label: 'Write it unless blank',
            patch: [{ op: 'replace', path: `/${at}/policy`, value: 'value present' }],
          },
        },
      ];
    }),
};
