import { compile, type Compiled, type Formula } from '../formula/compile';
import { FormulaError } from '../formula/error';
import type { Scope } from '../formula/scope';
import { pathReader, type Json, type JsonObject } from '../model/json';
import { fieldAt, type Catalog, type Field, type RecordType } from '../model/system';
import { targetName } from '../model/rule';
import type { Action, Find, MappingLine, MatchCondition, ReferenceByKey, Rule } from '../model/rule';
import { scopeAt, scopeKey } from './scopes';
import type { Surroundings } from './surroundings';
import { targetOf } from './targetOf';

export interface CompiledCondition extends MatchCondition {
  readonly compiled: Formula;
}

export interface CompiledFind extends Omit<Find, 'match'> {
  readonly match: readonly CompiledCondition[];
}

export interface CompiledLine extends MappingLine {
  /** Its place among the lines of the action. */
  readonly at: number;
  readonly definition: Field;
  /** What a target record holds in the field now. */
  readonly read: (target: JsonObject) => Json | undefined;
  readonly compiled: Formula;
  /** Where the record that a natural key names is looked for. */
  readonly resolved?: ResolvedReference;
}

export interface ResolvedReference {
  readonly system: string;
  readonly type: RecordType;
}

/** An action that writes to a record that there is, or creates one. */
export interface CompiledWrite {
  readonly kind: Action['kind'];
  /** The name of the record that is written: `record`, or an alias. */
  readonly target: string;
  /** Its place among the actions of the rule. */
  readonly at: number;
  readonly recordType: RecordType;
  readonly system: string;
  readonly lines: readonly CompiledLine[];
}

/** A rule ready to run for any number of events. */
export interface CompiledRule {
  readonly rule: Rule;
  readonly recordType: RecordType;
  readonly guard: Formula | undefined;
  readonly finds: readonly CompiledFind[];
  readonly actions: readonly CompiledWrite[];
}

/** A mistake in a rule: where it stands (`actions/0/lines/2/formula`) and what is wrong. */
export interface RuleProblem {
  readonly at: string;
  readonly error: FormulaError;
}

export type RuleCompilation =
  | { readonly ok: true; readonly compiled: CompiledRule }
  | {
      readonly ok: false;
      readonly problems: readonly RuleProblem[];
      /** What has no mistake, for checks that look further; undefined without a record type to start from. */
      readonly sound?: CompiledRule;
    };

const nothingKnown: Scope = { record: [], found: new Map(), tables: new Map() };

/** Most compiled formulas that are kept. */
const mostKept = 4000;

/** Compiles every formula of a rule, or reports every mistake in it. */
export function compileRule(rule: Rule, surroundings: Surroundings): RuleCompilation {
  const { catalog } = surroundings;
  const problems: RuleProblem[] = [];
  const note = (at: string, message: string) =>
    problems.push({ at, error: new FormulaError('name', message) });

  const scopeKeys = new Map<string, string>();
  const compileAt = (at: string, source: string, scope: Scope): Compiled => {
    const { compiled: known } = surroundings;
    if (!known) return compile(source, scope);
    const [part = '', index = ''] = at.split('/');
    const place = `${part}/${index}`;
    const scoped = scopeKeys.get(place) ?? scopeKey(rule, place);
    scopeKeys.set(place, scoped);
    const key = `${scoped} ${source}`;
    const result = known.get(key) ?? compile(source, scope);
    if (known.size > mostKept) known.clear();
    known.set(key, result);
    return result;
  };
  const formulaAt = (at: string, source: string, scope: Scope): Formula | undefined => {
    const result = compileAt(at, source, scope);
    if (result.ok) return result.formula;
    problems.push(...result.errors.map((error) => ({ at, error })));
    return undefined;
  };

  const { system, recordType: typeName } = rule.trigger;
  const recordType = catalog.recordType(system, typeName);
  if (!recordType) {
    note('trigger', `There is no record type “${typeName}” in the system “${system}”.`);
    return { ok: false, problems };
  }
  rule.trigger.watched.forEach((path, at) => {
    if (!fieldAt(recordType.fields, path))
      note(`trigger/watched/${at}`, `${recordType.label} has no field “${path}”.`);
  });

  const scopeOf = (at: string) => scopeAt(rule, at, surroundings) ?? nothingKnown;
  const guard = rule.guard.trim() === '' ? undefined : formulaAt('guard', rule.guard, scopeOf('guard'));
  if (guard && guard.type.kind !== 'boolean' && guard.type.kind !== 'any') {
    problems.push({ at: 'guard', error: new FormulaError('type', 'A guard must give yes or no.') });
  }

  const finds = rule.finds.flatMap((find, at): CompiledFind[] => {
    const type = catalog.recordType(find.system, find.recordType);
    if (!type) {
      note(`finds/${at}`, `There is no record type “${find.recordType}” in the system “${find.system}”.`);
      return [];
    }
    const scope = scopeOf(`finds/${at}`);
    const match = find.match.flatMap((condition, index): CompiledCondition[] => {
      if (!fieldAt(type.fields, condition.field)) {
        note(`finds/${at}/match/${index}/field`, `${type.label} has no field “${condition.field}”.`);
      }
      const compiled = formulaAt(`finds/${at}/match/${index}/formula`, condition.formula, scope);
      return compiled ? [{ ...condition, compiled }] : [];
    });
    return [{ ...find, match }];
  });

  const actions = rule.actions.flatMap((action, at): CompiledWrite[] => {
    const target = targetOf(rule, action, catalog);
    if (!target) {
      note(
        `actions/${at}/target`,
        action.kind === 'create'
          ? `There is no record type “${action.recordType}” in the system “${action.system}”.`
          : `Nothing is found under the name “${action.target}”.`,
      );
      return [];
    }
    const { fields } = target.type;
    const lineScope = scopeOf(`actions/${at}`);
    const lines = action.lines.flatMap((line, index): CompiledLine[] => {
      const path = `actions/${at}/lines/${index}`;
      const definition = fieldAt(fields, line.field);
      if (!definition) note(`${path}/field`, `The target has no field “${line.field}”.`);
      else if (definition.readOnly)
        note(`${path}/field`, `“${definition.label}” is read-only in its system.`);
      const reference = line.reference && resolveReference(line.reference, definition, catalog);
      if (typeof reference === 'string') note(`${path}/reference`, reference);
      const compiled = formulaAt(`${path}/formula`, line.formula, lineScope);
      if (!definition || !compiled || typeof reference === 'string') return [];
      const read = pathReader(line.field);
      return [{ ...line, at: index, definition, compiled, read, ...(reference && { resolved: reference }) }];
    });
    const { kind } = action;
    return [{ kind, at, target: targetName(action), lines, system: target.system, recordType: target.type }];
  });

  const compiled: CompiledRule = { rule, recordType, guard, finds, actions };
  return problems.length > 0 ? { ok: false, problems, sound: compiled } : { ok: true, compiled };
}

/** The record type that a natural key is looked for in, or why it cannot be. */
function resolveReference(
  reference: ReferenceByKey,
  definition: Field | undefined,
  catalog: Catalog,
): ResolvedReference | string | undefined {
  if (!definition) return undefined;
  if (definition.type !== 'reference')
    return `“${definition.label}” is no reference; it takes no key of a record.`;
  const found = catalog.referred(definition).find(({ type }) => type.name === reference.recordType);
  if (!found) return `“${definition.label}” does not point to “${reference.recordType}”.`;
  return fieldAt(found.type.fields, reference.field)
    ? found
    : `${found.type.label} has no field “${reference.field}”.`;
}
