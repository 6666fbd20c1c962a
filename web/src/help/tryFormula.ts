import { Temporal } from 'temporal-polyfill';
import { compile, toReported, type Env, type Reported, type Scope } from '@vast-knot/core';

const nothing: Pick<Scope, 'record' | 'found'> = { record: [], found: new Map() };

/** What a formula gives that stands by itself, without a record: its value, or the sentence that says why there is none. */
export function tryFormula(text: string, tables: Scope['tables'], now: string): Reported {
  const compiled = compile(text, { ...nothing, tables });
  if (!compiled.ok) return { error: compiled.errors[0]?.message ?? 'It cannot be read.' };
  const env: Env = {
    record: {},
    before: null,
    target: null,
    found: {},
    changed: new Set(),
    event: { kind: 'updated', id: 'tried', source: '/reference', time: Temporal.Instant.from(now) },
  };
  compiled.formula.begin();
  return toReported(compiled.formula.run(env));
}
