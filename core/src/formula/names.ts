import { Temporal } from 'temporal-polyfill';
import { pathReader, type JsonObject } from '../model/json';
import { fieldAt, leafFields, type Field } from '../model/system';
import { decoderFor } from './decode';
import { FormulaError } from './error';
import { nearest } from './nearest';
import { printPath } from './print';
import { reservedNames, type Env } from './scope';
import type { Node } from './tree';
import { datetime, text, typeOfField, type Type } from './type';
import type { Evaluate, Typed, TypingContext } from './typed';
import { isInstant } from './value';

type NameNode = Extract<Node, { kind: 'name' }>;

const eventParts = new Map<string, { type: Type; read: Evaluate }>([
  ['time', { type: datetime, read: (env) => env.event.time }],
  ['kind', { type: text, read: (env) => env.event.kind }],
  ['id', { type: text, read: (env) => env.event.id }],
  ['source', { type: text, read: (env) => env.event.source }],
]);

/** Finds out what a dotted name means, and how its value is read. */
export function typeName(node: NameNode, context: TypingContext): Typed | FormulaError {
  const [first = '', ...rest] = node.path;
  const { scope } = context;
  if (first === 'event') {
    const part = eventParts.get(rest.join('.'));
    if (!part) return new FormulaError('name', 'The event has time, kind, id and source.', node.place);
    return { node, type: part.type, children: [], run: part.read };
  }
  if (first === 'record' && rest.length > 0) {
    return typeField(node, context, 'record', scope.record, rest, (env) => env.record);
  }
  if (first === 'before' && rest.length > 0) {
    return typeField(node, context, 'before', scope.record, rest, (env) => env.before);
  }
  if (first === 'target' && rest.length > 0) {
    if (!scope.target) return new FormulaError('name', 'There is no target record here.', node.place);
    return typeField(node, context, 'target', scope.target, rest, (env) => env.target);
  }
  const found = scope.found.get(first);
  if (found && rest.length > 0) {
    return typeField(node, context, first, found, rest, (env) => env.found[first] ?? null);
  }
  if (found || Object.hasOwn(reservedNames, first)) {
    return new FormulaError('name', `“${first}” is a record; name one of its fields: ${first}.…`, node.place);
  }
  return typeField(node, context, 'record', scope.record, node.path, (env) => env.record);
}

function typeField(
  node: NameNode,
  context: TypingContext,
  of: string,
  fields: readonly Field[],
  path: readonly string[],
  root: (env: Env) => JsonObject | null,
): Typed | FormulaError {
  const dotted = path.join('.');
  const field = fieldAt(fields, dotted);
  if (!field) {
    const owner = of === 'record' ? 'The triggering record' : `“${of}”`;
    const names = [...leafFields(fields).map((leaf) => leaf.path), ...context.scope.found.keys()];
    const message = `${owner} has no field “${printPath(path)}”.${nearest(dotted, names)}`;
    return new FormulaError('name', message, node.place);
  }
  context.uses.push({ of, path: dotted });
  const decode = decoderFor(field);
  return { node, type: typeOfField(field), children: [], run: reader(root, path, decode) };
}

/** Reads own properties only, so that no name reaches into prototypes. */
function reader(
  root: (env: Env) => JsonObject | null,
  path: readonly string[],
  decode: ReturnType<typeof decoderFor>,
): Evaluate {
  const read = pathReader(path.join('.'));
  return (env) => decode(read(root(env)));
}

/** An event's time as an instant; what cannot be read counts as the start of 1970, and is refused at intake. */
export function eventInstant(time: string): Temporal.Instant {
  const instant = decoderFor({ type: 'datetime', label: 'time' })(time);
  return isInstant(instant) ? instant : Temporal.Instant.fromEpochMilliseconds(0);
}
