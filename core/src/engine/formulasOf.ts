import { FormulaError } from '../formula/error';
import { functionNamed } from '../formula/functions';
import { parse } from '../formula/parser';
import { childrenOf, type Node } from '../formula/tree';
import { formulasInAction } from './actions';
import type { RuleBody } from './rule';

/** Returns every formula of a rule, with its place: `guard`, `actions/0/lines/2/formula`. */
export function formulasOf(rule: RuleBody): readonly { readonly at: string; readonly formula: string }[] {
  const all = [
    { at: 'guard', formula: rule.guard },
    ...rule.finds.flatMap((find, at) => [
      ...find.match.flatMap(({ as, formula }, index) => [
        { at: `finds/${at}/match/${index}/as`, formula: as },
        { at: `finds/${at}/match/${index}/formula`, formula },
      ]),
      { at: `finds/${at}/where`, formula: find.where },
    ]),
    ...rule.actions.flatMap((action, at) =>
      formulasInAction(action).map(({ at: inside, formula }) => ({ at: `actions/${at}/${inside}`, formula })),
    ),
  ];
  return all.flatMap(({ at, formula }) => (formula === undefined ? [] : [{ at, formula }]));
}

/** Returns the formula at one of these places; undefined where there is none. */
export function formulaAtPlace(rule: RuleBody, place: string): string | undefined {
  return formulasOf(rule).find(({ at }) => at === place)?.formula;
}

/** Returns the names of the lookup tables that a rule reads; formulas that do not parse read none. */
export function tablesReadBy(rule: RuleBody): ReadonlySet<string> {
  return new Set(formulasOf(rule).flatMap(({ formula }) => tablesIn(formula)));
}

/** Returns the places of the formulas that read a table. */
export function tablesReadAt(rule: RuleBody, table: string): readonly string[] {
  return formulasOf(rule)
    .filter(({ formula }) => tablesIn(formula).includes(table))
    .map(({ at }) => at);
}

function tablesIn(formula: string): readonly string[] {
  const tree = parse(formula);
  if (tree instanceof FormulaError) return [];
  const names: string[] = [];
  const visit = (node: Node): void => {
    const [first] = node.kind === 'call' && functionNamed(node.name)?.looksUp ? node.args : [];
    if (first?.kind === 'text') names.push(first.value);
    childrenOf(node).forEach(visit);
  };
  visit(tree);
  return names;
}
