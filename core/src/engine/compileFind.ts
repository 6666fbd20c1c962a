import { typeOfField } from '../formula/type';
import { fieldAt } from '../model/system';
import type { CompiledCondition, CompiledFind } from './compiled';
import type { Compiling } from './compiling';
import { scopeAt } from './scopes';

/** Compiles the find at a place, or notes what is wrong with it. */
export function compileFind(compiling: Compiling, at: number): CompiledFind | undefined {
  const { rule, surroundings, note, formulaAt, conditionAt } = compiling;
  const find = rule.finds[at];
  if (!find) return undefined;
  const type = surroundings.catalog.recordType(find.system, find.recordType);
  if (!type) {
    note(`finds/${at}`, `There is no record type “${find.recordType}” in the system “${find.system}”.`);
    return undefined;
  }
  const match = find.match.flatMap((condition, index): CompiledCondition[] => {
    const place = `finds/${at}/match/${index}`;
    const definition = fieldAt(type.fields, condition.field);
    if (!definition) note(`${place}/field`, `${type.label} has no field “${condition.field}”.`);
    const compiled = formulaAt(`${place}/formula`, condition.formula);
    const as = condition.as?.trim() ?? '';
    const scope = scopeAt(rule, `finds/${at}`, surroundings);
    const compiledAs =
      as !== '' && definition && scope
        ? formulaAt(`${place}/as`, as, { ...scope, item: typeOfField(definition) })
        : undefined;
    if (!definition || !compiled || (as !== '' && !compiledAs)) return [];
    return [{ ...condition, definition, compiled, ...(compiledAs && { compiledAs }) }];
  });
  if (find.order && !fieldAt(type.fields, find.order.field)) {
    note(`finds/${at}/order`, `${type.label} has no field “${find.order.field}”.`);
  }
  const compiledWhere = conditionAt(`finds/${at}/where`, find.where, 'What is kept of the records found');
  return { ...find, type, match, ...(compiledWhere && { compiledWhere }) };
}
