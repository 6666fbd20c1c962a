import { article } from '../model/article';
import { linesOf, type Check, type Finding } from './finding';

/** References that are given something that is no id of a record they may point to. */
export const unresolvedReference: Check = {
  kind: 'unresolved reference',
  meaning: 'A reference gets a value that is not the id of a record it may point to, such as a name.',
  find: (subject) => {
    const { catalog } = subject.surroundings;
    return linesOf(subject).flatMap(({ action, line, at }): Omit<Finding, 'kind'>[] => {
      if (line.definition.type !== 'reference' || line.resolved) return [];
      const types = catalog.referred(line.definition);
      const { field } = line.compiled.tree;
      if (line.compiled.type.kind === 'blank') return [];
      // The id of such a record, or a reference that points to one already.
      const isId = types.some(({ type }) =>
        type.fields.some((each) => each === field && each.name === type.idField),
      );
      const sameReference =
        field?.type === 'reference' &&
        catalog
          .referred(field)
          .some(({ system, type }) => types.some((to) => to.system === system && to.type === type));
      if (isId || sameReference) return [];
      const [first] = types;
      const names = types.map(({ type }) => type.label.toLowerCase()).join(' or ');
      const message = `“${line.definition.label}” wants the id of ${article(names)} ${names || 'record'} in ${catalog.system(action.system)?.name ?? action.system}, and the formula gives ${field ? `“${field.label}”` : 'another value'}.`;
      return [
        {
          severity: 'warning',
          at: `${at}/formula`,
          message,
          ...(first && {
            fix: {
              label: `Look it up by ${fieldLabel(first)}`,
              patch: [
                {
                  op: 'add',
                  path: `/${at}/reference`,
                  value: {
                    recordType: first.type.name,
                    field: first.type.nameField,
                    none: 'fail',
                    several: 'fail',
                  },
                },
              ],
            },
          }),
        },
      ];
    });
  },
};

function fieldLabel({
  type,
}: {
  readonly type: {
    readonly nameField: string;
    readonly fields: readonly { readonly name: string; readonly label: string }[];
  };
}): string {
  const label = type.fields.find(({ name }) => name === type.nameField)?.label;
  return (label ?? type.nameField).toLowerCase();
}
