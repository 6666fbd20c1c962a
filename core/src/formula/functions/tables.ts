import { Temporal } from 'temporal-polyfill';
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
import { isDate, isNumberValue, toText, typeName, type Value } from '../value';
import { isBlankJson } from '../../model/equal';
import type { Json } from '../../model/json';
import { jsonNumber, scalarText } from '../../model/jsonText';
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

/** The day on which a row must hold, as ISO date; empty in a table without validity dates. Null when the day asked for is blank. */
type DayOf = (env: Env) => string | null | FormulaError;

interface Asked {
  /** The values that are looked for. */
  readonly children: readonly Typed[];
  /** The day for which it is asked, when the call says one. */
  readonly day: Typed | undefined;
  readonly dayOf: DayOf;
}

/**
 * Returns what a call asks for: as many values as the table has keys, and behind the `rest` other arguments the day, which is
 * otherwise that of the event in UTC.
 */
function askedOf(
  index: TableIndex,
  call: Call,
  { count, rest }: { readonly count: number; readonly rest: number },
  context: TypingContext,
): Asked | FormulaError {
  const { validity, name } = index.table;
  const given = call.args.length - 1 - rest;
  const last = call.args.at(-1);
  const dayNode = given === count + 1 && last?.kind !== 'text' && (validity || rest > 0) ? last : undefined;
  if (given !== count && dayNode === undefined) {
    const message = `The table “${name}” has ${count} key ${count === 1 ? 'column' : 'columns'}, and ${given} ${given === 1 ? 'key is' : 'keys are'} given.`;
    return new FormulaError('syntax', message, call.place);
  }
  const children = call.args.slice(1, 1 + count).map(context.type);
  if (dayNode === undefined) {
    return {
      children,
      day: undefined,
      dayOf: (env) => (validity ? env.event.time.toString().slice(0, 10) : ''),
    };
  }
  if (!validity) {
    const message = `The table “${name}” has no validity dates, so that no day can be asked for.`;
    return new FormulaError('syntax', message, dayNode.place);
  }
  const day = context.type(dayNode);
  const dayOf = (env: Env): string | null | FormulaError => {
    const value = day.run(env);
    if (value instanceof FormulaError) return value;
    if (isBlank(value)) return null;
    return isDate(value)
      ? value.toString()
      : new FormulaError('type', `The day is a date, and this is ${typeName(value)}.`, dayNode.place);
  };
  return { children, day, dayOf };
}

/** Returns the parts of a call that are computed. */
const partsOf = ({ children, day }: Asked): readonly Typed[] => (day ? [...children, day] : children);

/** Returns a day as a sentence says it. */
const inWords = (day: string): string =>
  Temporal.PlainDate.from(day).toLocaleString('en-GB', { day: 'numeric', month: 'long', year: 'numeric' });

interface Missed {
  /** Which row is missed, as in “a row for NOR”. */
  readonly which: string;
  /** The day that was asked for; empty in a table without validity dates. */
  readonly day: string;
  /** Whether there is such a row on any day. */
  readonly exists: () => boolean;
}

/** Returns the error of a look-up that found nothing: whether there is no such row at all, or none that holds on the day. */
function noRow({ table }: TableIndex, { which, day, exists }: Missed): FormulaError {
  const message =
    day !== '' && exists()
      ? `The table “${table.name}” has a row ${which}, but none is valid on ${inWords(day)}.`
      : `The table “${table.name}” has no row ${which}.`;
  return new FormulaError('no row', message);
}

/** Returns the argument that names the column of TABLE: it stands behind the keys. */
const columnNode = (call: Call, index: TableIndex): Node | undefined => {
  const last = call.args.at(-1);
  return last?.kind === 'text' ? last : (call.args[1 + index.keyCount] ?? last);
};

/** Returns whether a column may give blank: for a key without a row, or in a row that leaves it open. */
function mayMiss({ table }: TableIndex, at: number): boolean {
  return (
    table.onMiss === 'blank' ||
    table.rows.some((row) => isBlankJson(row[at])) ||
    (table.onMiss === 'default' && isBlankJson(table.defaultRow?.[at]))
  );
}

function typeTable(call: Call, context: TypingContext): Typed | FormulaError {
  if (call.args.length < 3) {
    return new FormulaError('syntax', 'TABLE is written TABLE("name", key, …, "column").', call.place);
  }
  const index = tableOf(call, context);
  if (index instanceof FormulaError) return index;
  const column = columnOf(index, columnNode(call, index), call);
  if (column instanceof FormulaError) return column;
  const asked = askedOf(index, call, { count: index.keyCount, rest: 1 }, context);
  if (asked instanceof FormulaError) return asked;
  const decode = decoderFor(column.column);
  const { table } = index;
  const miss = (keys: readonly Json[], day: string): Value => {
    if (table.onMiss === 'blank') return null;
    if (table.onMiss === 'keep') return toText(keys[0] as Value);
    if (table.onMiss === 'default') return decode(table.defaultRow?.[column.at]);
    const which = `for “${keys.map(scalarText).join('”, “')}”`;
    return noRow(index, { which, day, exists: () => index.find(keys) !== undefined });
  };
  const type: Type =
    table.onMiss === 'keep' && column.column.type !== 'text' ? any : { kind: column.column.type };
  const run = (env: Env): Value => {
    const keys = keysOf(asked.children, env);
    if (keys === null || keys instanceof FormulaError) return keys;
    const day = asked.dayOf(env);
    if (day === null || day instanceof FormulaError) return day;
    const row = index.find(keys, day);
    return row ? decode(row[column.at]) : miss(keys, day);
  };
  const children = partsOf(asked);
  const missing = mayMiss(index, column.at);
  const [only, ...others] = children;
  if (!only || others.length > 0 || !index.plain) return { node: call, type, children, missing, run };
  // Most tables have one key and no ranges: the same as above, without lists.
  const runPlain = (env: Env): Value => {
    const value = only.run(env);
    if (value instanceof FormulaError) return value;
    if (isBlank(value)) return null;
    const key = keyJson(value);
    const row = index.findPlain(key);
    return row ? decode(row[column.at]) : miss([key], '');
  };
  return { node: call, type, children, missing, run: runPlain };
}

function typeTableKey(call: Call, context: TypingContext): Typed | FormulaError {
  if (call.args.length < 3) {
    return new FormulaError('syntax', 'TABLEKEY is written TABLEKEY("name", value, "column").', call.place);
  }
  const index = tableOf(call, context);
  if (index instanceof FormulaError) return index;
  const column = columnOf(index, call.args[2], call);
  if (column instanceof FormulaError) return column;
  const asked = askedOf(index, call, { count: 1, rest: 1 }, context);
  if (asked instanceof FormulaError) return asked;
  const keyAt = index.table.columns.findIndex(({ key }) => key);
  const keyColumn = index.table.columns[keyAt];
  if (!keyColumn) return new FormulaError('name', 'The table has no key column.', call.place);
  const decode = decoderFor(keyColumn);
  const run = (env: Env): Value => {
    const values = keysOf(asked.children, env);
    if (values === null || values instanceof FormulaError) return values;
    const day = asked.dayOf(env);
    if (day === null || day instanceof FormulaError) return day;
    const [value = null] = values;
    const row = index.findByValue(column.at, value, day);
    if (row) return decode(row[keyAt]);
    if (index.table.onMiss !== 'stop') return null;
    const which = `whose “${column.column.name}” is “${scalarText(value)}”`;
    return noRow(index, { which, day, exists: () => index.findByValue(column.at, value) !== undefined });
  };
  return {
    node: call,
    type: { kind: keyColumn.type },
    children: partsOf(asked),
    missing: index.table.onMiss !== 'stop',
    run,
  };
}

function typeInTable(call: Call, context: TypingContext): Typed | FormulaError {
  const index = tableOf(call, context);
  if (index instanceof FormulaError) return index;
  const asked = askedOf(index, call, { count: index.keyCount, rest: 0 }, context);
  if (asked instanceof FormulaError) return asked;
  const run = (env: Env): Value => {
    const keys = keysOf(asked.children, env);
    if (keys instanceof FormulaError) return keys;
    const day = asked.dayOf(env);
    if (day instanceof FormulaError) return day;
    return keys !== null && day !== null && index.find(keys, day) !== undefined;
  };
  return { node: call, type: boolean, children: partsOf(asked), run };
}

/** Returns what a look-up can give: the values of the column, and those of the default row. */
function columnValues(
  _keys: readonly Typed[],
  { node }: Typed,
  tables: ReadonlyMap<string, TableIndex>,
): ReadonlySet<string> | undefined {
  if (node.kind !== 'call') return undefined;
  const [nameNode] = node.args;
  const index = nameNode?.kind === 'text' ? tables.get(nameNode.value) : undefined;
  const named = index && columnNode(node, index);
  const column = named?.kind === 'text' ? index?.column(named.value) : undefined;
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
      'What a lookup table holds in a column, in the row with the given keys; the table says what a key without a row gives. A day behind the column asks a table with validity dates for its row of that day, instead of the day of the event.',
    parts: '"table", key, …, "column", [day]',
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
    meaning:
      'The look-up backwards: the first key of the first row that holds a value in a column; on a day, where one is given.',
    parts: '"table", value, "column", [day]',
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
    meaning: 'Whether a lookup table has a row with the given keys; on a day, where one is given.',
    parts: '"table", key, …, [day]',
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
