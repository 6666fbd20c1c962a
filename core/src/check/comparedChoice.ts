import { literalOf } from '../formula/compile';
import { functionNamed } from '../formula/functions';
import { print } from '../formula/print';
import type { Typed } from '../formula/typed';
import { formulaAtPlace } from '../engine/formulasOf';
import { useNearest, type Check, type Finding } from './finding';
import { conjuncts } from './guardNeverHolds';

interface Comparison {
  readonly typed: Typed;
  readonly name: string;
  readonly value: string;
  readonly options: readonly string[];
}

/** Returns the comparisons of a choice with a text that is none of its options. */
function wrongComparisons(typed: Typed): readonly Comparison[] {
  return [...own(typed), ...typed.children.flatMap(wrongComparisons)];
}

function own(typed: Typed): readonly Comparison[] {
  const { node, children } = typed;
  const equal = node.kind === 'binary' && (node.operator === '=' || node.operator === '<>');
  const among = node.kind === 'call' && functionNamed(node.name)?.says === 'is one of';
  if (!equal && !among) return [];
  const choice = children.find(({ type }) => type.kind === 'choice' && type.options.length > 0);
  if (choice?.type.kind !== 'choice') return [];
  const { options } = choice.type;
  return children
    .filter((child) => child !== choice)
    .flatMap((child) => (child.node.kind === 'list' ? child.children : [child]))
    .flatMap((child): Comparison[] => {
      const value = literalOf(child);
      if (typeof value !== 'string' || value === '' || options.includes(value)) return [];
      return [{ typed, name: print(choice.node), value, options }];
    });
}

/** Conditions that ask a choice for what it cannot be. */
export const comparedChoice: Check = {
  kind: 'compared choice',
  meaning: 'A formula compares a choice with a value that is none of its options.',
  find: ({ compiledParts, rule }) =>
    (compiledParts?.formulas ?? []).flatMap(({ at, formula }): Omit<Finding, 'kind'>[] => {
      // What keeps the whole guard from holding is said there.
      const said = at === 'guard' ? new Set(conjuncts(formula.tree)) : new Set<Typed>();
      return wrongComparisons(formula.tree)
        .filter(
          ({ typed }) => !said.has(typed) || typed.node.kind !== 'binary' || typed.node.operator !== '=',
        )
        .map(({ name, value, options }) => {
          const fix = useNearest(value, options, at, formulaAtPlace(rule, at) ?? '');
          return {
            severity: 'warning' as const,
            at,
            message: `“${name}” has no option “${value}”, and is never equal to it.`,
            ...(fix && { fix }),
          };
        });
    }),
};
