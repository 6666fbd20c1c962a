import { pathReader } from '../model/json';
import {
  creates,
  hasLedger,
  targetName,
  type Action,
  type LedgerAction,
  type ReferenceByKey,
} from '../model/action';
import { fieldAt, type Catalog, type Field, type RecordType } from '../model/system';
import type { CompiledAction, CompiledLine, CompiledRule, CompiledTidy, ResolvedReference } from './compiled';
import type { Compiling } from './compiling';
import { recordNamed, targetOf } from './targetOf';

/** Compiles the rule that an action applies; gives the sentence that says why it cannot. */
export type CompileApplied = (ruleId: string) => CompiledRule | string;

/** Compiles the action at a place, or notes what is wrong with it. */
export function compileAction(
  compiling: Compiling,
  at: number,
  compileApplied: CompileApplied,
): CompiledAction | undefined {
  const { rule, surroundings, note, formulaAt, conditionAt } = compiling;
  const action = rule.actions[at];
  if (!action) return undefined;
  const place = `actions/${at}`;
  const target = targetOf(rule, action, surroundings.catalog);
  if (!target) {
    note(`${place}/target`, nowhere(action));
    return undefined;
  }
  const only = conditionAt(`${place}/only`, action.only, 'The condition of an action');
  const base = {
    at,
    target: targetName(action),
    system: target.system,
    recordType: target.type,
    ...(only && { only }),
  };
  if (hasLedger(action)) {
    checkCreating(compiling, place, action);
    const lines = compileLines(compiling, place, action, target.type);
    const each = creates(action) && action.each ? formulaAt(`${place}/each`, action.each) : undefined;
    return { ...base, kind: action.kind, action, lines, ...(each && { each }) };
  }
  switch (action.kind) {
    case 'remove':
      return { ...base, kind: action.kind, action, lines: [] };
    case 'send': {
      const parts = action.parts.flatMap((part, index) => {
        const compiled = formulaAt(`${place}/parts/${index}/formula`, part.formula);
        return compiled ? [{ ...part, compiled }] : [];
      });
      if (surroundings.endpoints && !surroundings.endpoints.has(action.endpoint))
        note(`${place}/endpoint`, `There is no endpoint “${action.endpoint}”.`);
      return { ...base, kind: action.kind, action, lines: [], parts };
    }
    case 'tidy': {
      const steps = action.steps.flatMap((step, index): CompiledTidy['steps'] => {
        if (step.do === 'remove fields') return [step];
        const where = `${place}/steps/${index}`;
        const definition = fieldAt(target.type.fields, step.field);
        if (!definition) {
          note(`${where}/field`, `${target.type.label} has no field “${step.field}”.`);
          return [];
        }
        if (step.do === 'clean') return [{ ...step, definition }];
        const compiled = formulaAt(`${where}/formula`, step.formula);
        return compiled ? [{ ...step, definition, compiled }] : [];
      });
      return { ...base, kind: action.kind, action, lines: [], steps };
    }
    case 'apply': {
      const applied = compileApplied(action.rule);
      if (typeof applied === 'string') {
        note(`${place}/rule`, applied);
        return undefined;
      }
      const { system, recordType } = applied.rule.trigger;
      if (system !== target.system || recordType !== target.type.name) {
        note(
          `${place}/rule`,
          `“${applied.rule.name}” is about another record type than ${target.type.label}.`,
        );
        return undefined;
      }
      return { ...base, kind: action.kind, action, lines: [], rule: applied };
    }
  }
}

function nowhere(action: Action): string {
  return creates(action)
    ? `There is no record type “${action.recordType}” in the system “${action.system}”.`
    : `Nothing is found under the name “${targetName(action)}”.`;
}

/** What holds for actions that create records beyond their lines. */
function checkCreating({ rule, surroundings, note }: Compiling, place: string, action: LedgerAction): void {
  if (action.kind === 'write') return;
  if (action.review && rule.trigger.kinds.some((kind) => kind !== 'requested')) {
    note(`${place}/review`, 'Only a rule that a person requests can wait for a review.');
  }
  if (action.kind !== 'copy') return;
  const source = recordNamed(rule, action, action.of, surroundings.catalog);
  if (!source) note(`${place}/of`, `Nothing is found under the name “${action.of}”.`);
  else if (source.system !== action.system || source.type.name !== action.recordType) {
    note(`${place}/of`, `“${action.of}” is no ${action.recordType}; a copy is of the same record type.`);
  }
}

function compileLines(
  { surroundings, note, formulaAt }: Compiling,
  place: string,
  action: LedgerAction,
  { fields }: RecordType,
): readonly CompiledLine[] {
  return action.lines.flatMap((line, index): CompiledLine[] => {
    const path = `${place}/lines/${index}`;
    const definition = fieldAt(fields, line.field);
    if (!definition) note(`${path}/field`, `The target has no field “${line.field}”.`);
    else if (definition.readOnly) note(`${path}/field`, `“${definition.label}” is read-only in its system.`);
    const reference = line.reference && resolveReference(line.reference, definition, surroundings.catalog);
    if (typeof reference === 'string') note(`${path}/reference`, reference);
    const compiled = formulaAt(`${path}/formula`, line.formula);
    if (!definition || !compiled || typeof reference === 'string') return [];
    const read = pathReader(line.field);
    return [{ ...line, at: index, definition, compiled, read, ...(reference && { resolved: reference }) }];
  });
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
