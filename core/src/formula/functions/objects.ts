import { isBlankJson } from '../../model/equal';
import type { JsonObject } from '../../model/json';
import type { Field } from '../../model/system';
import { FormulaError } from '../error';
import { jsonLength } from '../jsonLength';
import { limits } from '../limits';
import type { Env } from '../scope';
import { toJson } from '../toJson';
import type { Node } from '../tree';
import type { Type } from '../type';
import type { Typed, TypingContext } from '../typed';
import type { Value } from '../value';
import { tooLong } from './bounded';
import { defineForm } from './define';

type Call = Extract<Node, { kind: 'call' }>;

/** Returns a field of an object that holds what is of a type; undefined where the type is not known. */
function fieldOf(name: string, type: Type): Field | undefined {
  const base = { name, label: name };
  switch (type.kind) {
    case 'any':
    case 'blank':
      return undefined;
    case 'choice':
      return { ...base, type: 'choice', options: type.options.map((value) => ({ value, label: value })) };
    case 'reference':
      return { ...base, type: 'reference', refersTo: type.to };
    case 'object':
      return { ...base, type: 'object', ...(!type.open && { fields: type.fields }) };
    case 'list':
      return {
        ...base,
        type: 'list',
        ...(type.of.kind === 'object' && !type.of.open && { fields: type.of.fields }),
      };
    default:
      return { ...base, type: type.kind };
  }
}

function typeObject(call: Call, context: TypingContext): Typed | FormulaError {
  if (call.args.length === 0 || call.args.length % 2 === 1) {
    return new FormulaError('syntax', 'OBJECT is written OBJECT("name", value, …).', call.place);
  }
  const names: string[] = [];
  const values: Typed[] = [];
  for (const [at, node] of call.args.entries()) {
    if (at % 2 === 1) values.push(context.type(node));
    else if (node.kind !== 'text' || node.value === '' || node.value === '__proto__')
      return new FormulaError('syntax', 'The name of a field stands in quotes.', node.place);
    else if (names.includes(node.value))
      return new FormulaError('syntax', `The object would have two fields “${node.value}”.`, node.place);
    else names.push(node.value);
  }
  const fields = names.flatMap((name, at) => fieldOf(name, values[at]?.type ?? { kind: 'any' }) ?? []);
  const run = (env: Env): Value => {
    const object: JsonObject = {};
    let filled = false;
    for (let at = 0; at < values.length; at++) {
      const value = values[at]?.run(env) ?? null;
      if (value instanceof FormulaError) return value;
      const json = toJson(value);
      if (isBlankJson(json)) continue;
      object[names[at] ?? ''] = json;
      filled = true;
    }
    if (!filled) return null;
    const length = jsonLength(object, limits.text);
    const counted = length > limits.text ? tooLong() : context.budget.made(length);
    return counted ?? object;
  };
  const open = fields.length < names.length;
  return { node: call, type: { kind: 'object', fields, ...(open && { open }) }, children: values, run };
}

/** Objects made of values, for fields that hold them and for lists of them. */
export const objectFunctions = [
  defineForm({
    name: 'OBJECT',
    family: 'lists',
    meaning:
      'An object of named values, for a field that holds one, or with EACH for a list of them; blank values are left out.',
    parts: '"name", value, …',
    examples: [
      {
        formula: 'JSONTEXT(OBJECT("code", "FRZ", "crates", 12))',
        gives: '"{""code"":""FRZ"",""crates"":12}"',
      },
      { formula: 'OBJECT("town", "")', gives: 'blank' },
    ],
    // It is blank when all of its values are.
    blank: (parts, mayBeBlank) => parts.every(mayBeBlank),
    source: 'own',
    type: typeObject,
  }),
];
