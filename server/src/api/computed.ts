import type { Finding, Rule } from '@vast-knot/core';
import { BeyondLimits } from '../compute/computer';
import type { TaskKind, Tasks } from '../compute/tasks';
import { HttpProblem } from '../http/problem';
import type { Registry } from '../registry/registry';
import type { AppParts } from './route';

/** Returns what comes of a task; one that goes beyond its limits is answered as what was asked for. */
export async function computed<K extends TaskKind>(
  { computer }: Pick<AppParts, 'computer'>,
  kind: K,
  asked: Tasks[K]['asked'],
  registry: Registry,
): Promise<Tasks[K]['answer']> {
  try {
    return await computer.run(kind, asked, registry);
  } catch (thrown) {
    if (!(thrown instanceof BeyondLimits)) throw thrown;
    throw new HttpProblem(
      422,
      'Too much work',
      `${thrown.message} Make formulas shorter, or the rule narrower.`,
    );
  }
}

/** Returns the findings of every rule, in their order. Where all at once are too much, each is checked for itself. */
export async function findingsOf(
  rules: readonly Rule[],
  known: readonly Rule[],
  registry: Registry,
  { computer }: Pick<AppParts, 'computer'>,
): Promise<readonly (readonly Finding[])[]> {
  try {
    return await computer.run('check', { rules, known }, registry);
  } catch (thrown) {
    if (!(thrown instanceof BeyondLimits)) throw thrown;
    const [only, ...others] = rules;
    if (only && others.length === 0) return [[tooMuch(thrown)]];
    const each: (readonly Finding[])[] = [];
    // One after the other: the threads are for everybody.
    for (const rule of rules) each.push(...(await findingsOf([rule], known, registry, { computer })));
    return each;
  }
}

function tooMuch({ message }: BeyondLimits): Finding {
  return { kind: 'mistake', severity: 'error', at: '', message: `The rule could not be checked. ${message}` };
}
