import { Temporal } from 'temporal-polyfill';
import { visitWithin } from '../model/elements';
import { isJsonObject, pathReader, type JsonObject } from '../model/json';
import { refKey } from '../model/record';
import { fieldAt, fieldWithin, leafFields, type Field } from '../model/system';
import { isBlank } from './compare';
import { decoderFor } from './decode';
import { FormulaError } from './error';
import { unknownName } from './nearest';
import { printPath } from './print';
import { reservedNames, type Env, type Scope } from './scope';
import type { Node } from './tree';
import { datetime, text, typeOfField, type Type } from './type';
import type { Evaluate, ReferenceStep, Typed, TypingContext } from './typed';
import { isInstant, type Value } from './value';

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
  if (first === 'item' && scope.item) return typeItem(node, context, scope.item, rest);
  if (first === 'event') {
    const part = eventParts.get(rest.join('.'));
    if (!part) return new FormulaError('name', 'The event has time, kind, id and source.', node.place);
    return { node, type: part.type, children: [], run: part.read };
  }
  if (first === 'record' && rest.length > 0) {
    return typeField(node, context, {
      of: 'record',
      fields: scope.record,
      path: rest,
      root: (env) => env.record,
    });
  }
  if (first === 'before' && rest.length > 0) {
    return typeField(node, context, {
      of: 'before',
      fields: scope.record,
      path: rest,
      root: (env) => env.before,
    });
  }
  if (first === 'target' && rest.length > 0) {
    if (!scope.target) return new FormulaError('name', 'There is no target record here.', node.place);
    return typeField(node, context, {
      of: 'target',
      fields: scope.target,
      path: rest,
      root: (env) => env.target,
    });
  }
  if (first === 'input' && rest.length > 0) {
    if (!scope.input) return new FormulaError('name', 'This rule asks nothing of a person.', node.place);
    return typeField(node, context, {
      of: 'input',
      fields: scope.input,
      path: rest,
      root: (env) => env.input ?? null,
    });
  }
  const found = scope.found.get(first);
  if (found && rest.length > 0) {
    return typeField(node, context, {
      of: first,
      fields: found,
      path: rest,
      root: (env) => env.found[first] ?? null,
    });
  }
  if (found || Object.hasOwn(reservedNames, first)) {
    return new FormulaError('name', `“${first}” is a record; name one of its fields: ${first}.…`, node.place);
  }
  return typeField(node, context, {
    of: 'record',
    fields: scope.record,
    path: node.path,
    root: (env) => env.record,
  });
}

/** Returns the element that EACH or KEEP is at, or a field of it. */
function typeItem(
  node: NameNode,
  context: TypingContext,
  item: Type,
  path: readonly string[],
): Typed | FormulaError {
  const read: Evaluate = (env) => env.item ?? null;
  if (path.length === 0) return { node, type: item, children: [], run: read };
  if (item.kind !== 'object') {
    return new FormulaError('type', 'The element is no object; it has no fields.', node.place);
  }
  // What an element refers to is not fetched beforehand, so that nothing can be read behind its references.
  return typeField(
    node,
    { ...context, uses: [], scope: { ...context.scope, referred: () => [] } },
    {
      of: 'item',
      fields: item.fields,
      path: path,
      root: (env) => (isJsonObject(env.item) ? env.item : null),
    },
  );
}

/** A path from a record on, whose fields are known. */
interface FieldPath {
  /** `record`, `before`, `target`, or the alias of a find. */
  readonly of: string;
  readonly fields: readonly Field[];
  readonly path: readonly string[];
  /** Returns the record of an environment. */
  readonly root: (env: Env) => JsonObject | null;
  /** The references that were followed to get there. */
  readonly after?: readonly ReferenceStep[];
}

function typeField(
  node: NameNode,
  context: TypingContext,
  { of, fields, path, root, after = [] }: FieldPath,
): Typed | FormulaError {
  const dotted = path.join('.');
  const field = fieldAt(fields, dotted);
  if (!field) {
    const inLists = fieldWithin(fields, dotted);
    if (inLists) return typeWithin(node, context, { of, fields, path, root, after }, inLists);
    const step = after.length < deepestFollow ? referenceOn(fields, path, context.scope) : undefined;
    if (step) return typeFollowed(node, context, { of, root, after, step });
    const owner = after.at(-1)?.to[0]?.type.label ?? (of === 'record' ? 'The triggering record' : `“${of}”`);
    const names = [...leafFields(fields).map((leaf) => leaf.path), ...context.scope.found.keys()];
    return unknownName(`${owner} has no field “${printPath(path)}”.`, dotted, names, node.place);
  }
  if (after.length === 0) context.uses.push({ of, path: dotted });
  const decode = decoderFor(field);
  return {
    node,
    type: typeOfField(field),
    children: [],
    run: reader(after.length === 0 ? of : '', { root, path, decode }),
    field,
  };
}

/** Types a field of the elements of a list: `lines.weight` gives the list of their weights. Blanks are left out, as EACH does. */
function typeWithin(
  node: NameNode,
  context: TypingContext,
  { of, path, root, after = [] }: FieldPath,
  field: Field,
): Typed {
  if (after.length === 0) context.uses.push({ of, path: path.join('.') });
  const decode = decoderFor(field);
  const { budget } = context;
  const run: Evaluate = (env) => {
    const values: Value[] = [];
    let problem: FormulaError | undefined;
    visitWithin(root(env) ?? undefined, path, (json) => {
      const value = budget.step() ?? decode(json);
      if (value instanceof FormulaError) problem = value;
      else if (!isBlank(value)) values.push(value);
      return problem === undefined;
    });
    return problem ?? (values.length === 0 ? null : values);
  };
  return { node, type: { kind: 'list', of: typeOfField(field) }, children: [], run, field, missing: true };
}

/** How many references one name may follow, one after the other. */
const deepestFollow = 4;

interface StepOnPath extends ReferenceStep {
  /** What of the path is left behind the reference. */
  readonly rest: readonly string[];
}

/** Returns the reference that a path walks into, if one stands on it. */
function referenceOn(
  fields: readonly Field[],
  path: readonly string[],
  scope: Scope,
): StepOnPath | undefined {
  for (let length = 1; length < path.length; length++) {
    const head = path.slice(0, length).join('.');
    const field = fieldAt(fields, head);
    const to = field?.type === 'reference' ? (scope.referred?.(field) ?? []) : [];
    if (to.length > 0) return { path: head, to, rest: path.slice(length) };
  }
  return undefined;
}

/** A reference that a path walks into. */
interface Following extends Pick<FieldPath, 'of' | 'root'> {
  readonly after: readonly ReferenceStep[];
  readonly step: StepOnPath;
}

/** Types a field of the record that a reference points to: `shipper.region`. */
function typeFollowed(
  node: NameNode,
  context: TypingContext,
  { of, root, after, step }: Following,
): Typed | FormulaError {
  const { rest } = step;
  if (after.length === 0) context.uses.push({ of, path: step.path });
  // A reference that allows several types is followed to the first that has the field.
  const fits = step.to.find(({ type }) => fieldAt(type.fields, rest[0] ?? '') !== undefined) ?? step.to[0];
  if (!fits) return new FormulaError('name', `“${step.path}” points nowhere.`, node.place);
  const single: ReferenceStep = { path: step.path, to: [fits] };
  context.follows.push({ of, after, step: single });
  const linked = linkedRecord(root, single);
  return typeField(node, context, {
    of,
    fields: fits.type.fields,
    path: rest,
    root: linked,
    after: [...after, single],
  });
}

/** Returns the record that a reference points to, among those fetched beforehand. */
export function linkedRecord(
  root: (env: Env) => JsonObject | null,
  { path, to }: ReferenceStep,
): (env: Env) => JsonObject | null {
  const read = pathReader(path);
  return (env) => {
    const id = read(root(env));
    if (id === null || id === undefined || id === '') return null;
    for (const { system, type } of to) {
      const record = env.linked?.get(refKey({ system, recordType: type.name, id: String(id) }));
      if (record) return record;
    }
    return null;
  };
}

/** Returns the record of an environment that a name begins with: `record`, `before`, `target`, or the alias of a find. */
export function rootOf(env: Env, of: string): JsonObject | null {
  if (of === 'record') return env.record;
  if (of === 'before') return env.before;
  if (of === 'target') return env.target;
  if (of === 'input') return env.input ?? null;
  return env.found[of] ?? null;
}

/** Reads own properties only, so that no name reaches into prototypes. */
function reader(
  of: string,
  {
    root,
    path,
    decode,
  }: Pick<FieldPath, 'root' | 'path'> & { readonly decode: ReturnType<typeof decoderFor> },
): Evaluate {
  const [name = '', ...rest] = path;
  // Most names are fields of the record or of the element at hand: these are read without a step between.
  if (rest.length === 0 && !(name in Object.prototype)) {
    if (of === 'record') return (env) => decode(env.record[name]);
    if (of === 'item') return (env) => (isJsonObject(env.item) ? decode(env.item[name]) : null);
  }
  const read = pathReader(path.join('.'));
  return (env) => decode(read(root(env)));
}

/** Returns an event's time as an instant; what cannot be read counts as the start of 1970, and is refused at intake. */
export function eventInstant(time: string): Temporal.Instant {
  if (lately?.time === time) return lately.instant;
  const read = decoderFor({ type: 'datetime', label: 'time' })(time);
  const instant = isInstant(read) ? read : Temporal.Instant.fromEpochMilliseconds(0);
  lately = { time, instant };
  return instant;
}

/** The time that was read last: all that one event causes, and all records of one look, have the same. */
let lately: { readonly time: string; readonly instant: Temporal.Instant } | undefined;
