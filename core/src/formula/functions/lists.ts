import { canonicalJson } from '../../model/canonical';
import type { Budget } from '../budget';
import { compareValues, equalValues, isBlank } from '../compare';
import { FormulaError } from '../error';
import { withItem, type Env } from '../scope';
import type { Node } from '../tree';
import { any, boolean, integer, type Type } from '../type';
import type { Typed, TypingContext } from '../typed';
import { toJson } from '../toJson';
import { isList, typeName, type Value } from '../value';
import { boundedList } from './bounded';
import { conditionAt, needs, requireCondition } from './conditions';
import { anyParam, define, defineForm, integerParam, listParam } from './define';

type Call = Extract<Node, { kind: 'call' }>;

/** Returns the list that a call goes through and the parts that are computed for each element, with `item` in scope. */
function typeLoop(
  call: Call,
  context: TypingContext,
): { readonly list: Typed; readonly bodies: readonly Typed[] } | FormulaError {
  const [listNode, ...bodyNodes] = call.args;
  if (!listNode) return new FormulaError('syntax', 'A part is missing.', call.place);
  const list = context.type(listNode);
  if (list.type.kind === 'object') {
    return new FormulaError(
      'type',
      `${call.name} goes through a list, and this is an object.`,
      listNode.place,
    );
  }
  const item: Type = list.type.kind === 'list' ? list.type.of : list.type;
  const inner: TypingContext = {
    ...context,
    scope: { ...context.scope, item },
    type: (node) => context.typeIn(node, inner),
  };
  return { list, bodies: bodyNodes.map(inner.type) };
}

/** Goes through a list, counting every element against the steps that one computation may take. */
function loop(
  list: Typed,
  env: Env,
  budget: Budget,
  visit: (item: Value, inner: Env) => Value | undefined,
): Value {
  const value = list.run(env);
  if (value === null || value instanceof FormulaError) return value;
  const items = isList(value) ? value : [value];
  for (const item of items) {
    const stop = budget.step() ?? visit(item, withItem(env, item));
    if (stop !== undefined) return stop;
  }
  return null;
}

const sameList = (types: readonly Type[]): Type => {
  const [first] = types;
  return first?.kind === 'list' ? first : { kind: 'list', of: first ?? any };
};

export const listFunctions = [
  define({
    name: 'ONEOF',
    family: 'lists',
    meaning: 'Whether a value is among others, or in a list; nothing is in a blank list.',
    params: [anyParam('value')],
    rest: anyParam('among'),
    result: boolean,
    seesBlanks: true,
    blank: ([value], mayBeBlank) => value !== undefined && mayBeBlank(value),
    examples: [
      { formula: 'ONEOF("open", "open", "confirmed")', gives: 'TRUE' },
      { formula: 'ONEOF(3, {1, 2})', gives: 'FALSE' },
    ],
    flow: 0,
    says: 'is one of',
    source: 'own',
    call: ([value, ...among]) => {
      if (isBlank(value)) return null;
      const flat = (among as Value[]).flatMap((item) => (isList(item) ? item : [item]));
      return flat.some((item) => equalValues(value, item) === true);
    },
  }),
  defineForm({
    name: 'EACH',
    family: 'lists',
    meaning:
      'The list with a formula computed for each element, which is called item; blank results are left out.',
    parts: 'list, formula',
    examples: [
      { formula: 'EACH({"a", "b"}, UPPER(item))', gives: '{"A", "B"}' },
      { formula: 'EACH({1, 2, 3}, IF(item > 1, item * 10))', gives: '{20, 30}' },
    ],
    flow: 0,
    gives: (parts) => parts.slice(1),
    loops: true,
    begins: () => ['item'],
    source: 'own',
    type: (call, context) => {
      const wrong = needs(call, 2, 2, 'list, formula');
      const typed = wrong ?? typeLoop(call, context);
      if (typed instanceof FormulaError) return typed;
      const { list, bodies } = typed;
      const [body] = bodies;
      if (!body) return new FormulaError('syntax', 'A part is missing.', call.place);
      const run = (env: Env): Value => {
        const results: Value[] = [];
        const stopped = loop(list, env, context.budget, (_item, inner) => {
          const result = body.run(inner);
          if (result instanceof FormulaError) return result;
          if (!isBlank(result)) results.push(result);
          return undefined;
        });
        return stopped ?? (results.length === 0 ? null : boundedList(results));
      };
      return { node: call, type: { kind: 'list', of: body.type }, children: [list, body], run };
    },
  }),
  defineForm({
    name: 'KEEP',
    family: 'lists',
    meaning: 'The elements of a list for which a condition holds; the element is called item.',
    parts: 'list, condition',
    examples: [
      { formula: 'KEEP({1, 5, 9}, item > 4)', gives: '{5, 9}' },
      { formula: 'KEEP({"a"}, item = "b")', gives: 'blank' },
    ],
    flow: 0,
    gives: (parts) => parts.slice(0, 1),
    loops: true,
    // Its condition may hold for none.
    blank: () => true,
    begins: () => ['item <> ""'],
    source: 'own',
    type: (call, context) => {
      const wrong = needs(call, 2, 2, 'list, condition');
      const typed = wrong ?? typeLoop(call, context);
      if (typed instanceof FormulaError) return typed;
      const { list, bodies } = typed;
      const [condition] = bodies;
      if (!condition) return new FormulaError('syntax', 'A part is missing.', call.place);
      requireCondition(condition, context);
      const run = (env: Env): Value => {
        const results: Value[] = [];
        const stopped = loop(list, env, context.budget, (item, inner) => {
          const holds = conditionAt(condition, inner);
          if (holds instanceof FormulaError) return holds;
          if (holds) results.push(item);
          return undefined;
        });
        return stopped ?? (results.length === 0 ? null : results);
      };
      return { node: call, type: sameList([list.type]), children: [list, condition], run };
    },
  }),
  defineForm({
    name: 'FIRST',
    family: 'lists',
    meaning:
      'The first element of a list for which a condition holds, or what a formula gives for it; blank when it holds for none. The element is called item.',
    parts: 'list, condition, [formula]',
    examples: [
      { formula: 'FIRST({1, 5, 9}, item > 4)', gives: '5' },
      { formula: 'FIRST({1, 5, 9}, item > 4, item * 10)', gives: '50' },
    ],
    flow: 0,
    gives: (parts) => (parts.length > 2 ? parts.slice(2) : parts.slice(0, 1)),
    loops: true,
    // Its condition may hold for none.
    blank: () => true,
    begins: () => ['item <> ""'],
    source: 'own',
    type: (call, context) => {
      const wrong = needs(call, 2, 3, 'list, condition, [formula]');
      const typed = wrong ?? typeLoop(call, context);
      if (typed instanceof FormulaError) return typed;
      const { list, bodies } = typed;
      const [condition, body] = bodies;
      if (!condition) return new FormulaError('syntax', 'A part is missing.', call.place);
      requireCondition(condition, context);
      const run = (env: Env): Value =>
        loop(list, env, context.budget, (item, inner) => {
          const holds = conditionAt(condition, inner);
          if (holds instanceof FormulaError) return holds;
          return holds ? (body ? body.run(inner) : item) : undefined;
        });
      const element = list.type.kind === 'list' ? list.type.of : list.type;
      return { node: call, type: body?.type ?? element, children: [list, ...bodies], run };
    },
  }),
  define({
    name: 'COUNTA',
    family: 'lists',
    meaning: 'How many of the values, and of those in lists, are not blank.',
    params: [anyParam('value')],
    rest: anyParam('value'),
    result: integer,
    seesBlanks: true,
    examples: [
      { formula: 'COUNTA({"a", "b"})', gives: '2' },
      { formula: 'COUNTA("a", "", 0)', gives: '2' },
    ],
    range: () => ({ min: 0 }),
    source: 'ODF 1.3 part 4, 6.13.7 COUNTA; empty text counts as blank here',
    call: (values) =>
      (values as Value[])
        .flatMap((value) => (isList(value) ? value : [value]))
        .filter((value) => !isBlank(value)).length,
  }),
  define({
    name: 'INDEX',
    family: 'lists',
    meaning:
      'The element of a list at a position, from 1; from the end with a negative one; blank beyond the list.',
    params: [listParam('list'), integerParam('position')],
    result: ([list]) => (list?.kind === 'list' ? list.of : any),
    examples: [
      { formula: 'INDEX({"a", "b", "c"}, 2)', gives: '"b"' },
      { formula: 'INDEX(SPLIT("Quay 2, Northport", ","), -1)', gives: '"Northport"' },
    ],
    source: 'name from ODF 1.3 part 4, 6.14.6 INDEX; for lists only',
    call: ([list, position]) =>
      position === 0
        ? new FormulaError('value', 'Positions count from 1, or from -1 at the end; there is none at 0.')
        : (list.at(position > 0 ? position - 1 : position) ?? null),
  }),
  define({
    name: 'UNIQUE',
    family: 'lists',
    meaning: 'The list with every value once, in the order of first occurrence.',
    params: [listParam('list')],
    result: sameList,
    examples: [
      { formula: 'UNIQUE({"b", "a", "b"})', gives: '{"b", "a"}' },
      { formula: 'COUNTA(UNIQUE({1, 1.0, 2}))', gives: '2' },
    ],
    gives: (parts) => parts,
    source: 'own',
    call: ([list]) => {
      const seen = new Set<string>();
      // Equal values of one type have one text; the type keeps 1 and "1" apart.
      return list.filter((value) => {
        const key = `${typeName(value)}:${typeof value === 'object' ? canonicalJson(toJson(value)) : String(value)}`;
        if (seen.has(key)) return false;
        seen.add(key);
        return true;
      });
    },
  }),
  define({
    name: 'SORT',
    family: 'lists',
    meaning: 'The list in ascending order; text by code point.',
    params: [listParam('list')],
    result: sameList,
    examples: [
      { formula: 'SORT({3, 1, 2})', gives: '{1, 2, 3}' },
      { formula: 'SORT({"b", "a"})', gives: '{"a", "b"}' },
    ],
    gives: (parts) => parts,
    source: 'own',
    call: ([list]) => {
      let problem: FormulaError | undefined;
      const sorted = [...list].sort((a, b) => {
        const order = compareValues(a, b);
        if (typeof order === 'number') return order;
        problem ??= order;
        return 0;
      });
      return problem ?? sorted;
    },
  }),
];
