import type { Action, RuleBody } from '../model/rule';
import type { Catalog, ReferredType } from '../model/system';

/**
 * The record type that an action is about: that of the trigger, of a find, of a record that an earlier action creates, or
 * of the one that it creates itself.
 */
export function targetOf(rule: RuleBody, action: Action, catalog: Catalog): ReferredType | undefined {
  const place = action.kind === 'create' ? action : placeOf(rule, action);
  const type = place && catalog.recordType(place.system, place.recordType);
  return place && type && { system: place.system, type };
}

function placeOf(rule: RuleBody, action: Extract<Action, { kind: 'write' }>) {
  const { target } = action;
  if (target === 'record') return rule.trigger;
  return (
    rule.finds.find(({ alias }) => alias === target) ??
    createdBefore(rule, action).find(({ alias }) => alias === target)
  );
}

/** The creating actions that come before an action. */
export function createdBefore(
  rule: RuleBody,
  action: Action,
): readonly Extract<Action, { kind: 'create' }>[] {
  return rule.actions
    .slice(0, Math.max(0, rule.actions.indexOf(action)))
    .flatMap((earlier) => (earlier.kind === 'create' ? [earlier] : []));
}
