import { creates, kindOf, type Action } from './actions';
import type { CopyAction } from './actions/copy';
import type { CreateAction } from './actions/create';
import type { RuleBody } from './rule';
import type { Catalog, ReferredType } from '../model/system';

/**
 * Returns the record type that an action is about: that of the trigger, of a find, of a record that an earlier action creates, or
 * of the one that it creates itself.
 */
export function targetOf(rule: RuleBody, action: Action, catalog: Catalog): ReferredType | undefined {
  const target = kindOf(action).target(action);
  switch (target.is) {
    case 'new':
      return typeAt(target, catalog);
    case 'named':
      return recordNamed(rule, action, target.name, catalog);
    case 'none':
      return typeAt(rule.trigger, catalog);
  }
}

/** Returns the record type of a name that an action knows: `record`, the alias of a find, or of an earlier creating action. */
export function recordNamed(
  rule: RuleBody,
  action: Action,
  name: string,
  catalog: Catalog,
): ReferredType | undefined {
  if (name === 'record') return typeAt(rule.trigger, catalog);
  const place =
    rule.finds.find(({ alias }) => alias === name) ??
    createdBefore(rule, action).find(({ alias }) => alias === name);
  return place && typeAt(place, catalog);
}

/** Returns the creating actions that come before an action. */
export function createdBefore(rule: RuleBody, action: Action): readonly (CreateAction | CopyAction)[] {
  return rule.actions.slice(0, Math.max(0, rule.actions.indexOf(action))).filter(creates);
}

function typeAt(
  { system, recordType }: { readonly system: string; readonly recordType: string },
  catalog: Catalog,
): ReferredType | undefined {
  const type = catalog.recordType(system, recordType);
  return type && { system, type };
}
