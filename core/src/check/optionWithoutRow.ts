import { listed, type Check, type Finding, type Subject } from './finding';
import { possibleValues } from '../formula/possibleValues';
import { functionNamed } from '../formula/functions';
import type { Typed } from '../formula/typed';

/** Look-ups whose key field has options without a row. */
export const optionWithoutRow: Check = {
  kind: 'option without row',
  meaning: 'A field whose options are looked up in a table has options for which the table has no row.',
  find: (subject) =>
    (subject.compiledParts?.formulas ?? []).flatMap(({ at, formula }) =>
      lookUps(formula.tree).flatMap((call) => missing(call, at, subject)),
    ),
};

function lookUps(typed: Typed): Typed[] {
  const own = typed.node.kind === 'call' && functionNamed(typed.node.name)?.looksUp === 'cell' ? [typed] : [];
  return [...own, ...typed.children.flatMap(lookUps)];
}

function missing(call: Typed, at: string, subject: Subject): Omit<Finding, 'kind'>[] {
  const [nameNode] = call.node.kind === 'call' ? call.node.args : [];
  const [key] = call.children;
  if (nameNode?.kind !== 'text' || !key) return [];
  const index = subject.surroundings.tables.get(nameNode.value);
  const values = possibleValues(key, subject.surroundings.tables);
  if (
    !index ||
    index.keyCount > 1 ||
    !values ||
    index.table.onMiss === 'keep' ||
    index.table.onMiss === 'default'
  )
    return [];
  const uncovered = [...values].filter((value) => index.find([value]) === undefined);
  if (uncovered.length === 0) return [];
  const gives = index.table.onMiss === 'stop' ? 'the line fails then' : 'it gives blank then';
  const message = `The table “${index.table.name}” has no row for ${listed(uncovered)}; ${gives}.`;
  return [{ severity: 'warning', at, message, table: index.table.name }];
}
