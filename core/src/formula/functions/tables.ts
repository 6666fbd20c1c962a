import type { LookupTable } from '../../table/table';
import type { TableIndex } from '../../table/tableIndex';
import { isBlank } from '../compare';
import { decoderFor } from '../decode';
import { FormulaError } from '../error';
import { unknownName } from '../nearest';
import type { Env } from '../scope';
import type { Node } from '../tree';
import { any, boolean, type Type } from '../type';
import type { Typed, TypingContext } from '../typed';
import { isNumberValue, toText, type Value } from '../value';
import type { Json } from '../../model/json';
import { jsonNumber } from '../../model/jsonText';
import { defineForm } from './define';

type Call = Extract<Node, { kind: 'call' }>;

/** Returns the table that a call names in its first argument. */
function tableOf(call: Call, context: TypingContext): TableIndex | FormulaError {
  const [nameNode] = call.args;
  if (nameNode?.kind !== 'text') {
    const message = `${call.name} begins with the name of a table in quotes.`;
    return new FormulaError('syntax', message, nameNode?.place ?? call.place);
  }
  const index = context.scope.tables.get(nameNode.value);
  if (index) {
    context.tables.add(nameNode.value);
    return index;
  }
  const names = [...context.scope.tables.keys()];
  return unknownName(`There is no table “${nameNode.value}”.`, nameNode.value, names, nameNode.place);
}

function columnOf(index: TableIndex, node: Node | undefined, call: Call) {
  if (node?.kind !== 'text') {
    return new FormulaError('syntax', 'The column stands in quotes.', node?.place ?? call.place);
  }
  const column = index.column(node.value);
  if (column) return column;
  const names = index.table.columns.map(({ name }) => name);
  const message = `The table “${index.table.name}” has no column “${node.value}”.`;
  return unknownName(message, node.value, names, node.place);
}

/** Returns a key as a table holds it: numbers stay numbers, all else is text. */
function keyJson(key: Value): Json {
  if (isNumberValue(key)) return jsonNumber(toText(key));
  return typeof key === 'boolean' ? key : toText(key);
}

/** Returns keys as a table holds them. */
function keysOf(children: readonly Typed[], env: Env): readonly Json[] | null | FormulaError {
  const keys: Json[] = [];
  for (const child of children) {
    const key = child.run(env);
    if (key instanceof FormulaError) return key;
    if (isBlank(key)) return null;
    keys.push(keyJson(key));
  }
  return keys;
}

/** The day on which a row must hold: that of the event, in UTC. */
const dayOf = (env: Env): string => env.event.time.toString().slice(0, 10);

function wrongCount(index: TableIndex, given: number, call: Call): FormulaError | undefined {
  if (index.keyCount === given) return undefined;
  const message = `The table “${index.table.name}” has ${index.keyCount} key columns, and ${given} keys are given.`;
  return new FormulaError('syntax', message, call.place);
}

function typeTable(call: Call, context: TypingContext): Typed | FormulaError {
  if (call.args.length < 3) {
    return new FormulaError('syntax', 'TABLE is written TABLE("name", key, …, "column").', call.place);
  }
  const index = tableOf(call, context);
  if (index instanceof FormulaError) return index;
  const column = columnOf(index, call.args.at(-1), call);
  if (column instanceof FormulaError) return column;
  const children = call.args.slice(1, -1).map(context.type);
  const wrong = wrongCount(index, children.length, call);
  if (wrong) return wrong;
  const decode = decoderFor(column.column);
  const { table } = index;
  const miss = (keys: readonly Json[]): Value => {
    if (table.onMiss === 'blank') return null;
    if (table.onMiss === 'keep') return toText(keys[0] as Value);
    if (table.onMiss === 'default') return decode(table.defaultRow?.[column.at]);
    return new FormulaError('no row', `The table “${table.name}” has no row for “${keys.join('”, “')}”.`);
  };
  const type: Type =
    table.onMiss === 'keep' && column.column.type !== 'text' ? any : { kind: column.column.type };
  const run = (env: Env): Value => {
    const keys = keysOf(children, env);
    if (keys === null || keys instanceof FormulaError) return keys;
    const row = index.find(keys, table.validity ? dayOf(env) : '');
    return row ? decode(row[column.at]) : miss(keys);
  };
  const [only, ...others] = children;
  if (!only || others.length > 0 || !index.plain) return { node: call, type, children, run };
  // Most tables have one key and no ranges: the same as above, without lists.
  const runPlain = (env: Env): Value => {
    const value = only.run(env);
    if (value instanceof FormulaError) return value;
    if (isBlank(value)) return null;
    const key = keyJson(value);
    const row = index.findPlain(key);
    return row ? decode(row[column.at]) : miss([key]);
  };
  return { node: call, type, children, run: runPlain };
}

function typeTableKey(call: Call, context: TypingContext): Typed | FormulaError {
  if (call.args.length !== 3) {
    return new FormulaError('syntax', 'TABLEKEY is written TABLEKEY("name", value, "column").', call.place);
  }
  const index = tableOf(call, context);
  if (index instanceof FormulaError) return index;
  const column = columnOf(index, call.args[2], call);
  if (column instanceof FormulaError) return column;
  const children = call.args.slice(1, 2).map(context.type);
  const keyAt = index.table.columns.findIndex(({ key }) => key);
  const keyColumn = index.table.columns[keyAt];
  if (!keyColumn) return new FormulaError('name', 'The table has no key column.', call.place);
  const decode = decoderFor(keyColumn);
  const run = (env: Env): Value => {
    const values = keysOf(children, env);
    if (values === null || values instanceof FormulaError) return values;
    const row = index.findByValue(column.at, values[0] ?? null, index.table.validity ? dayOf(env) : '');
    if (row) return decode(row[keyAt]);
    if (index.table.onMiss !== 'stop') return null;
    const message = `The table “${index.table.name}” has no row whose “${column.column.name}” is “${values.join()}”.`;
    return new FormulaError('no row', message);
  };
  return { node: call, type: { kind: keyColumn.type }, children, run };
}

function typeInTable(call: Call, context: TypingContext): Typed | FormulaError {
  const index = tableOf(call, context);
  if (index instanceof FormulaError) return index;
  const children = call.args.slice(1).map(context.type);
  const wrong = wrongCount(index, children.length, call);
  if (wrong) return wrong;
  const run = (env: Env): Value => {
    const keys = keysOf(children, env);
    if (keys instanceof FormulaError) return keys;
    return keys !== null && index.find(keys, index.table.validity ? dayOf(env) : '') !== undefined;
  };
  return { node: call, type: boolean, children, run };
}

/** Returns what a look-up can give: the values of the column, and those of the default row. */
function columnValues(
  _keys: readonly Typed[],
  { node }: Typed,
  tables: ReadonlyMap<string, TableIndex>,
): ReadonlySet<string> | undefined {
  if (node.kind !== 'call') return undefined;
  const [nameNode] = node.args;
  const columnNode = node.args.at(-1);
  const index = nameNode?.kind === 'text' ? tables.get(nameNode.value) : undefined;
  const column = columnNode?.kind === 'text' ? index?.column(columnNode.value) : undefined;
  if (!index || !column || index.table.onMiss === 'keep') return undefined;
  const values = new Set<string>();
  const add = (value: unknown) =>
    value !== null && value !== undefined && value !== '' && values.add(String(value));
  for (const row of index.table.rows) add(row[column.at]);
  if (index.table.onMiss === 'default') add(index.table.defaultRow?.[column.at]);
  return values;
}

const quotedName = (table: LookupTable | undefined) => `"${table?.name ?? ''}"`;
const quotedColumn = (table: LookupTable | undefined) =>
  `"${table?.columns.find(({ key }) => !key)?.name ?? ''}"`;

export const tableFunctions = [
  defineForm({
    name: 'TABLE',
    family: 'tables',
    meaning:
      'What a lookup table holds in a column, in the row with the given keys; the table says what a key without a row gives.',
    parts: '"table", key, …, "column"',
    examples: [
      { formula: 'TABLE("Ports to tariff zones", "NOR", "zone")', gives: '"N2"' },
      { formula: 'TABLE("Ports to tariff zones", "nowhere", "zone")', gives: 'blank' },
    ],
    flow: 1,
    looksUp: 'cell',
    values: columnValues,
    begins: (table) => [quotedName(table), quotedColumn(table)],
    source: 'own',
    type: typeTable,
  }),
  defineForm({
    name: 'TABLEKEY',
    family: 'tables',
    meaning: 'The look-up backwards: the first key of the first row that holds a value in a column.',
    parts: '"table", value, "column"',
    examples: [
      { formula: 'TABLEKEY("Ports to tariff zones", "N2", "zone")', gives: '"NOR"' },
      { formula: 'TABLEKEY("Ports to tariff zones", "Z9", "zone")', gives: 'blank' },
    ],
    flow: 1,
    looksUp: 'key',
    begins: (table) => [quotedName(table), quotedColumn(table)],
    source: 'own',
    type: typeTableKey,
  }),
  defineForm({
    name: 'INTABLE',
    family: 'tables',
    meaning: 'Whether a lookup table has a row with the given keys.',
    parts: '"table", key, …',
    examples: [
      { formula: 'INTABLE("Ports to tariff zones", "nor")', gives: 'TRUE' },
      { formula: 'INTABLE("Ports to tariff zones", "XXX")', gives: 'FALSE' },
    ],
    flow: 1,
    looksUp: 'presence',
    begins: (table) => [quotedName(table)],
    source: 'own',
    type: typeInTable,
  }),
];
