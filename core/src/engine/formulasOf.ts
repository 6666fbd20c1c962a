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
  const names = new Set<string>();
  const visit = (node: Node): void => {
    const [first] = node.kind === 'call' && node.name === 'TABLE' ? node.args : [];
    if (first?.kind === 'text') names.add(first.value);
    childrenOf(node).forEach(visit);
  };
  for (const { formula } of formulasOf(rule)) {
    const tree = parse(formula);
    if (!(tree instanceof FormulaError)) visit(tree);
  }
  return names;
}
