import { fieldAt } from '../../model/system';
import type { TableIndex } from '../../model/table';
import { decoderFor } from '../decode';
import { FormulaError } from '../error';
import { nearest } from '../nearest';
import { printPath } from '../print';
import type { Env } from '../scope';
import type { Node } from '../tree';
import { boolean, type Type } from '../type';
import type { Typed, TypingContext } from '../typed';
import { toText, type Value } from '../value';
import { defineForm } from './define';

type Call = Extract<Node, { kind: 'call' }>;

function typeTable(call: Call, context: TypingContext): Typed | FormulaError {
  const [nameNode, ...rest] = call.args;
  const columnNode = rest.pop();
  if (nameNode?.kind !== 'text' || columnNode?.kind !== 'text' || rest.length === 0) {
    return new FormulaError(
      'syntax',
      'TABLE is written TABLE("name of the table", key, …, "column"); both names stand in quotes.',
      call.place,
    );
  }
  const children = rest.map(context.type);
  const index = context.scope.tables.get(nameNode.value);
  if (!index) {
    const near = nearest(nameNode.value, [...context.scope.tables.keys()]);
    return new FormulaError('name', `There is no table “${nameNode.value}”.${near}`, nameNode.place);
  }
  context.tables.add(nameNode.value);
  const column = index.column(columnNode.value);
  if (!column) {
    const near = nearest(
      columnNode.value,
      index.table.columns.map((candidate) => candidate.name),
    );
    const message = `The table “${nameNode.value}” has no column “${columnNode.value}”.${near}`;
    return new FormulaError('name', message, columnNode.place);
  }
  if (index.keyCount !== children.length) {
    const message = `The table “${nameNode.value}” has ${index.keyCount} key columns, and ${children.length} keys are given.`;
    return new FormulaError('syntax', message, call.place);
  }
  const decode = decoderFor(column.column);
  const type: Type = { kind: column.column.type };
  return { node: call, type, children, run: (env) => lookUp(index, column.at, children, decode, env) };
}

function lookUp(
  index: TableIndex,
  column: number,
  children: readonly Typed[],
  decode: ReturnType<typeof decoderFor>,
  env: Env,
): Value {
  const keys: string[] = [];
  for (const child of children) {
    const key = child.run(env);
    if (key === null || key instanceof FormulaError) return key;
    keys.push(toText(key));
  }
  const row = index.find(keys);
  if (row) return decode(row[column]);
  if (index.table.onMiss === 'blank') return null;
  return new FormulaError('no row', `The table “${index.table.name}” has no row for “${keys.join('”, “')}”.`);
}

function typeChanged(call: Call, context: TypingContext): Typed | FormulaError {
  const paths: string[] = [];
  for (const part of call.args) {
    if (part.kind !== 'name') {
      return new FormulaError('syntax', 'CHANGED takes names of fields: CHANGED(phone).', part.place);
    }
    const path = (part.path[0] === 'record' ? part.path.slice(1) : part.path).join('.');
    if (!fieldAt(context.scope.record, path)) {
      return new FormulaError(
        'name',
        `The triggering record has no field “${printPath(part.path)}”.`,
        part.place,
      );
    }
    context.uses.push({ of: 'record', path });
    paths.push(path);
  }
  if (paths.length === 0) return new FormulaError('syntax', 'CHANGED needs the name of a field.', call.place);
  const run = (env: Env) =>
    paths.some(
      (path) => env.changed.has(path) || [...env.changed].some((each) => each.startsWith(`${path}.`)),
    );
  return { node: call, type: boolean, children: [], run };
}

export const recordFunctions = [
  defineForm({
    name: 'TABLE',
    family: 'records',
    meaning: 'What a lookup table holds in a column, in the row with the given keys.',
    parts: '"table", key, …, "column"',
    examples: [
      { formula: 'TABLE("Ports to tariff zones", "NOR", "zone")', gives: '"N2"' },
      { formula: 'TABLE("Ports to tariff zones", "nowhere", "zone")', gives: 'blank' },
    ],
    source: 'own',
    type: typeTable,
  }),
  defineForm({
    name: 'CHANGED',
    family: 'records',
    meaning: 'Whether any of the named fields of the triggering record changed.',
    parts: 'field, …',
    examples: [
      { formula: 'CHANGED(phone)', gives: 'TRUE' },
      { formula: 'CHANGED(name)', gives: 'FALSE' },
    ],
    source: 'own',
    type: typeChanged,
  }),
];
