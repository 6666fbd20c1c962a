import { fieldWithin } from '../../model/system';
import { FormulaError } from '../error';
import { printPath } from '../print';
import type { Env } from '../scope';
import type { Node } from '../tree';
import { boolean } from '../type';
import type { Typed, TypingContext } from '../typed';
import { defineForm } from './define';

type Call = Extract<Node, { kind: 'call' }>;

function typeChanged(call: Call, context: TypingContext): Typed | FormulaError {
  const paths: string[] = [];
  for (const part of call.args) {
    if (part.kind !== 'name') {
      return new FormulaError('syntax', 'CHANGED takes names of fields: CHANGED(phone).', part.place);
    }
    const path = (part.path[0] === 'record' ? part.path.slice(1) : part.path).join('.');
    if (!fieldWithin(context.scope.record, path)) {
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
    name: 'CHANGED',
    family: 'records',
    meaning: 'Whether any of the named fields of the triggering record changed.',
    parts: 'field, …',
    examples: [
      { formula: 'CHANGED(phone)', gives: 'TRUE' },
      { formula: 'CHANGED(name)', gives: 'FALSE' },
    ],
    says: 'changed',
    source: 'own',
    type: typeChanged,
  }),
];
