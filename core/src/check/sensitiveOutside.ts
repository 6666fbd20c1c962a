import type { Field } from '../model/system';
import { functionNamed } from '../formula/functions';
import type { Type } from '../formula/type';
import type { Typed } from '../formula/typed';
import { creates, kindOf } from '../engine/actions';
import { parsePlace } from '../model/place';
import { linesOf, listed, type Check, type Finding, type Subject } from './finding';

/** Returns the fields whose values a formula passes on; of an object or a list that is passed as it is, all that is within. */
function fieldsIn(typed: Typed, whole = true): readonly Field[] {
  const { node, type, field, children } = typed;
  const entry = node.kind === 'call' ? functionNamed(node.name) : undefined;
  // A list that is gone through is not passed on; what is computed of its elements is.
  const given = entry?.loops ? (entry.gives?.(children) ?? children) : children;
  return [
    ...(field ? [field] : []),
    ...(whole && node.kind === 'name' ? fieldsOfType(type).flatMap(withInner) : []),
    ...children.flatMap((child) => fieldsIn(child, whole && given.includes(child))),
  ];
}

function fieldsOfType(type: Type): readonly Field[] {
  if (type.kind === 'list') return fieldsOfType(type.of);
  return type.kind === 'object' ? type.fields : [];
}

const withInner = (field: Field): readonly Field[] => [field, ...(field.fields ?? []).flatMap(withInner)];

/** Returns what a message tells of secret and personal values: whoever listens to its endpoint gets them. */
function inMessages({ compiledParts, rule }: Subject): readonly Omit<Finding, 'kind'>[] {
  return (compiledParts?.formulas ?? []).flatMap(({ at, formula }): Omit<Finding, 'kind'>[] => {
    const place = parsePlace(at);
    // What decides whether it is sent is not sent.
    const action = place.of === 'action' && place.rest[0] !== 'only' ? rule.actions[place.at] : undefined;
    if (!action || kindOf(action).target(action).is !== 'none') return [];
    return sensitiveFields(formula.tree).map(({ label, sensitivity }) => ({
      severity: sensitivity === 'secret' ? 'error' : 'warning',
      at,
      message: `“${label}” is ${sensitivity} and would be told to whoever gets the ${action.kind === 'file' ? 'file' : 'message'}.`,
    }));
  });
}

/** Returns the lines that show a secret value on the form that a person looks at before a record is created. */
function onForms(subject: Subject): readonly Omit<Finding, 'kind'>[] {
  return linesOf(subject).flatMap(({ action, line, at }): Omit<Finding, 'kind'>[] => {
    if (!creates(action.action) || action.action.review !== true) return [];
    return sensitiveFields(line.compiled.tree)
      .filter(({ sensitivity }) => sensitivity === 'secret')
      .map(({ label }) => ({
        severity: 'error',
        at: `${at}/formula`,
        message: `“${label}” is secret and would stand on the form that whoever runs the rule looks at.`,
      }));
  });
}

function sensitiveFields(typed: Typed): readonly Field[] {
  const fields = fieldsIn(typed).filter(({ sensitivity }) => sensitivity !== undefined);
  return [...new Map(fields.map((field) => [field.label, field])).values()];
}

/** Secret and personal values that leave: written to another system, told in a message, or shown on a form. */
export const sensitiveOutside: Check = {
  kind: 'sensitive outside',
  meaning:
    'A secret or personal value is written to a field of another system that is not marked as holding such values, told in a message, or shown on a form.',
  find: (subject) => [
    ...inMessages(subject),
    ...onForms(subject),
    ...linesOf(subject).flatMap(({ action, line, at }): Omit<Finding, 'kind'>[] => {
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
  ],
};
