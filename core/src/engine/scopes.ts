import type { Scope } from '../formula/scope';
import { targetName, type RuleBody } from '../model/rule';
import type { Field } from '../model/system';
import type { Surroundings } from './surroundings';
import { createdBefore, targetOf } from './targetOf';

/** Places with the same key have the same scope, against the same surroundings. */
export function scopeKey(rule: RuleBody, place: string): string {
  const [part, index] = place.split('/');
  const before = part === 'finds' ? rule.finds.slice(0, Number(index)) : part === 'actions' ? rule.finds : [];
  const action = part === 'actions' ? rule.actions[Number(index)] : undefined;
  const made = action ? [...createdBefore(rule, action), ...(action.kind === 'create' ? [action] : [])] : [];
  const { system, recordType } = rule.trigger;
  return JSON.stringify([
    system,
    recordType,
    [...before, ...made].map((each) => [each.alias, each.system, each.recordType]),
    action && [action.kind, targetName(action)],
  ]);
}

/** What the names of the formula at a place of a rule can mean; undefined where the rule has no record type to start from. */
export function scopeAt(rule: RuleBody, place: string, { catalog, tables }: Surroundings): Scope | undefined {
  const recordType = catalog.recordType(rule.trigger.system, rule.trigger.recordType);
  if (!recordType) return undefined;
  const [part, index] = place.split('/');
  // A find sees those before it; actions see all of them.
  const before = part === 'finds' ? rule.finds.slice(0, Number(index)) : part === 'actions' ? rule.finds : [];
  const found = new Map<string, readonly Field[]>();
  const action = part === 'actions' ? rule.actions[Number(index)] : undefined;
  for (const { alias, system, recordType: name } of [
    ...before,
    ...(action ? createdBefore(rule, action) : []),
  ]) {
    const type = catalog.recordType(system, name);
    if (type) found.set(alias, type.fields);
  }
  const target = action && targetOf(rule, action, catalog)?.type.fields;
  return {
    record: recordType.fields,
    found,
    tables,
    referred: (field) => catalog.referred(field),
    ...(target && { target }),
  };
}
