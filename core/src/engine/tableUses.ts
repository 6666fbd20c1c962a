import { FormulaError } from '../formula/error';
import type { Formula } from '../formula/compile';
import { functionNamed } from '../formula/functions';
import type { Env } from '../formula/scope';
import type { Typed } from '../formula/typed';
import { isList, type Value } from '../formula/value';
import type { Json, JsonObject } from '../model/json';
import type { TableIndex } from '../table/tableIndex';
import type { CompiledRule } from './compiled';
import { formulaAtPlace } from './formulasOf';
import { eventInstant } from '../formula/names';
import { possibleValues } from '../formula/possibleValues';
import { toJson } from '../formula/toJson';

/** A place where a rule looks up a table, with the records whose values are the keys. */
export interface TableUse {
  /** The formula that looks up: `actions/0/lines/2/formula`. */
  readonly at: string;
  readonly formula: string;
  readonly system: string;
  readonly recordType: string;
  /** The keys that a record leads to; several where each element of a list is looked up. */
  readonly keysOf: (record: JsonObject) => readonly (readonly Json[])[];
  /** Keys that options could give, whether or not a record has them. */
  readonly possible: readonly (readonly Json[])[];
}

/** Returns every look-up of a table in a rule. Those whose keys come from several records at once are left out. */
export function tableUses(compiled: CompiledRule, index: TableIndex): readonly TableUse[] {
  return compiled.formulas.flatMap(({ at, formula }) =>
    lookUps(formula.tree, index.table.name, []).flatMap((found) =>
      // Behind the keys may stand the day that is asked for.
      useOf({ ...found, keys: found.call.children.slice(0, index.keyCount), at, formula }, compiled),
    ),
  );
}

interface LookUp {
  readonly call: Typed;
  /** The lists that are gone through around it, outermost first. */
  readonly lists: readonly Typed[];
}

function lookUps(typed: Typed, table: string, lists: readonly Typed[]): readonly LookUp[] {
  const { node, children } = typed;
  if (node.kind === 'call') {
    const entry = functionNamed(node.name);
    const [first] = node.args;
    if (
      (entry?.looksUp === 'cell' || entry?.looksUp === 'presence') &&
      first?.kind === 'text' &&
      first.value === table
    ) {
      return [{ call: typed, lists }];
    }
    const [list, ...bodies] = children;
    if (entry?.loops && list) {
      return [
        ...lookUps(list, table, lists),
        ...bodies.flatMap((body) => lookUps(body, table, [...lists, list])),
      ];
    }
  }
  return children.flatMap((child) => lookUps(child, table, lists));
}

/** Returns the names that a part reads, but for `item`. */
function rootsIn(typed: Typed): readonly string[] {
  const { node, children } = typed;
  if (node.kind === 'name') {
    const [first = ''] = node.path;
    return first === 'item' ? [] : [first];
  }
  return children.flatMap(rootsIn);
}

function useOf(
  {
    keys,
    lists,
    at,
    formula,
  }: LookUp & { readonly keys: readonly Typed[]; readonly at: string; readonly formula: Formula },
  { rule, finds }: CompiledRule,
): readonly TableUse[] {
  const [list, ...deeper] = lists;
  // A list inside a list is not followed: its elements are no fields of a record.
  if (deeper.length > 0) return [];
  const names = [...keys, ...(list ? [list] : [])].flatMap(rootsIn);
  const aliases = new Set(names.map((name) => finds.find(({ alias }) => alias === name)?.alias));
  const [alias] = aliases;
  if (aliases.size !== 1) return [];
  const place = alias === undefined ? rule.trigger : finds.find((find) => find.alias === alias);
  if (!place) return [];
  const { system, recordType } = place;
  const env = (record: JsonObject): Env => ({
    record,
    before: null,
    target: record,
    found: alias === undefined ? {} : { [alias]: record },
    changed: new Set(),
    event: { kind: 'updated', id: '', source: '', time: eventInstant('1970-01-01T00:00:00Z') },
  });
  const keysAt = (inner: Env): readonly Json[] => keys.map((child) => keyJson(child.run(inner)));
  const keysOf = (record: JsonObject): readonly (readonly Json[])[] => {
    const outer = env(record);
    formula.begin();
    if (!list) return [keysAt(outer)];
    const items = list.run(outer);
    return isList(items) ? items.map((item) => keysAt({ ...outer, item })) : [];
  };
  const [only, ...others] = keys;
  const values = only && others.length === 0 ? possibleValues(only, new Map()) : undefined;
  return [
    {
      at,
      formula: formulaAtPlace(rule, at) ?? '',
      system,
      recordType,
      keysOf,
      possible: [...(values ?? [])].map((value) => [value]),
    },
  ];
}

function keyJson(value: Value): Json {
  return value instanceof FormulaError ? null : toJson(value);
}
