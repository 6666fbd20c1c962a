import { FormulaError } from '../formula/error';
import { parse } from '../formula/parser';
import { childrenOf, type Node } from '../formula/tree';
import type { RuleBody } from '../model/rule';

/** Every formula of a rule, with its place: `guard`, `actions/0/lines/2/formula`. */
export function formulasOf(rule: RuleBody): readonly { readonly at: string; readonly formula: string }[] {
  return [
    { at: 'guard', formula: rule.guard },
    ...rule.finds.flatMap((find, at) =>
      find.match.map(({ formula }, index) => ({ at: `finds/${at}/match/${index}/formula`, formula })),
    ),
    ...rule.actions.flatMap((action, at) =>
      action.lines.map(({ formula }, index) => ({ at: `actions/${at}/lines/${index}/formula`, formula })),
    ),
  ];
}

/** The names of the lookup tables that a rule reads; formulas that do not parse read none. */
export function tablesReadBy(rule: RuleBody): ReadonlySet<string> {
  return new Set(formulasOf(rule).flatMap(({ formula }) => tablesIn(formula)));
}

/** The places of the formulas that read a table. */
export function tablesReadAt(rule: RuleBody, table: string): readonly string[] {
  return formulasOf(rule)
    .filter(({ formula }) => tablesIn(formula).includes(table))
    .map(({ at }) => at);
}

const lookUps = new Set(['TABLE', 'TABLEKEY', 'INTABLE']);

function tablesIn(formula: string): readonly string[] {
  const tree = parse(formula);
  if (tree instanceof FormulaError) return [];
  const names: string[] = [];
  const visit = (node: Node): void => {
    const [first] = node.kind === 'call' && lookUps.has(node.name) ? node.args : [];
    if (first?.kind === 'text') names.push(first.value);
    childrenOf(node).forEach(visit);
  };
  visit(tree);
  return names;
}
