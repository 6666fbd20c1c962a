import { compile } from '../compile';
import { FormulaError } from '../error';
import { exampleEnv, exampleScope } from '../testScope';
import { toText, type Value } from '../value';

/** What a formula gives for the example record. */
export function give(source: string, scope = exampleScope): Value {
  const compiled = compile(source, scope);
  if (!compiled.ok) throw new Error(`${source}: ${compiled.errors.map(({ message }) => message).join(' ')}`);
  return compiled.formula.run(exampleEnv);
}

/** What a formula gives, as text: `blank`, `error: value`, or the value. */
export function shown(source: string, scope = exampleScope): string {
  const value = give(source, scope);
  if (value === null) return 'blank';
  return value instanceof FormulaError ? `error: ${value.code}` : toText(value);
}
