import { compile } from '../formula/compile';
import type { Scope } from '../formula/scope';
import { any, type Type } from '../formula/type';
import { actionOf, parsePlace } from '../model/place';
import { creates, kindOf, targetName, type Action } from './actions';
import type { RuleBody } from './rule';
import type { Field } from '../model/system';
import type { Surroundings } from './surroundings';
import { createdBefore, targetOf } from './targetOf';

interface ScopePlace {
  /** The finds and the created records that formulas there know by their aliases. */
  readonly known: readonly { readonly alias: string; readonly system: string; readonly recordType: string }[];
  readonly action?: Action;
  /** Whether it is the list of a creating action, which has no target and no item yet. */
  readonly isList: boolean;
}

/** Returns where in a rule a place stands: `guard`, `finds/0`, `finds/0/where`, `actions/1`, `actions/1/each`. */
function placeIn(rule: RuleBody, place: string): ScopePlace {
  const parsed = parsePlace(place);
  // A find sees those before it, its own guard the find itself; actions see all of them.
  if (parsed.of === 'find') {
    const last = parsed.rest[0] === 'where' ? parsed.at + 1 : parsed.at;
    return { known: rule.finds.slice(0, last), isList: false };
  }
  const action = rule.actions[actionOf(parsed) ?? -1];
  if (!action) return { known: [], isList: false };
  return {
    known: [...rule.finds, ...createdBefore(rule, action)],
    action,
    isList: parsed.of === 'action' && parsed.rest[0] === 'each',
  };
}

/** Places with the same key have the same scope, against the same surroundings. */
export function scopeKey(rule: RuleBody, place: string): string {
  const { known, action, isList } = placeIn(rule, place);
  const { system, recordType, inputs, once } = rule.trigger;
  return JSON.stringify([
    system,
    recordType,
    inputs,
    once === true,
    known.map((each) => [each.alias, each.system, each.recordType]),
    isList,
    action && [
      action.kind,
      targetName(action),
      ...(creates(action) ? [action.system, action.recordType, action.each] : []),
    ],
  ]);
}

/** Returns what the names of the formula at a place of a rule can mean; undefined where the rule has no record type to start from. */
export function scopeAt(rule: RuleBody, place: string, surroundings: Surroundings): Scope | undefined {
  const { catalog, tables } = surroundings;
  const recordType = catalog.recordType(rule.trigger.system, rule.trigger.recordType);
  if (!recordType) return undefined;
  const { known, action, isList } = placeIn(rule, place);
  const found = new Map<string, readonly Field[]>();
  for (const { alias, system, recordType: name } of known) {
    const type = catalog.recordType(system, name);
    if (type) found.set(alias, type.fields);
  }
  const { inputs } = rule.trigger;
  const scope: Scope = {
    // A rule that starts from no record reads none.
    record: rule.trigger.once ? [] : recordType.fields,
    found,
    tables,
    referred: (field) => catalog.referred(field),
    ...(inputs && { input: inputs }),
  };
  if (!action || isList) return scope;
  const isAboutNone = kindOf(action).target(action).is === 'none';
  const target = isAboutNone ? undefined : targetOf(rule, action, catalog)?.type.fields;
  const item = creates(action) && action.each ? elementOf(action.each, scope) : undefined;
  return { ...scope, ...(target && { target }), ...(item && { item }) };
}

/** Returns the type of the elements that a list formula gives. */
function elementOf(list: string, scope: Scope): Type {
  const compiled = compile(list, scope);
  const type = compiled.ok ? compiled.formula.type : any;
  return type.kind === 'list' ? type.of : any;
}
