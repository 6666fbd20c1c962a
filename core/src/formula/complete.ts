import { leafFields, fieldAt, type Field } from '../model/system';
import { compile, signature } from './compile';
import { formulaFunctions, functionNamed } from './functions';
import { printPath } from './print';
import { reservedNames, type Scope } from './scope';
import { any, describeType, typeOfField, type Type } from './type';

/** Something that can stand at the cursor. */
export interface Completion {
  /** What is put in. */
  readonly insert: string;
  readonly label: string;
  readonly kind: 'field' | 'record' | 'function' | 'table' | 'column' | 'option' | 'result' | 'word';
  /** Its type or signature. */
  readonly detail: string;
  /** What it means, in a sentence. */
  readonly meaning?: string;
  /** Of a field, the path that it completes to: `['booking', 'phone']`, `['address', 'town']`. */
  readonly path?: readonly string[];
}

/** What can stand at the cursor, and from where on it replaces the text. */
interface Completions {
  readonly from: number;
  readonly options: readonly Completion[];
}

/** The function whose arguments the cursor is among. */
export interface SignatureHelp {
  readonly name: string;
  readonly signature: string;
  readonly meaning: string;
  /** The parts of the signature between its brackets. */
  readonly parts: readonly string[];
  /** Which of them the cursor is at; the last one counts for all further arguments. */
  readonly at: number;
}

interface OpenCall {
  readonly name: string;
  /** Texts among the arguments before the cursor, by position. */
  readonly texts: Map<number, string>;
  argument: number;
  /** Where its first argument begins, and where it ends. */
  readonly from: number;
  firstEnds?: number;
}

interface Cursor {
  readonly calls: readonly OpenCall[];
  /** Inside a text that is not closed: where it starts. */
  readonly text?: { readonly from: number; readonly comparedWith: readonly string[] | undefined };
  /** At the end of a name: its steps, the last of which is being written. */
  readonly path?: { readonly from: number; readonly steps: readonly string[] };
}

const word = /[\p{L}_$][\p{L}\p{N}_$]*/uy;

/** Reads the text before the cursor only as far as it says what may come next. Unfinished text is no mistake here. */
function cursorAt(source: string, position: number): Cursor {
  const calls: OpenCall[] = [];
  let steps: string[] = [];
  let stepFrom = position;
  let open = false;
  let comparedWith: readonly string[] | undefined;
  let at = 0;
  while (at < position) {
    const sign = source[at] ?? '';
    word.lastIndex = at;
    const name = word.exec(source)?.[0];
    if (sign === '"' || sign === "'") {
      const end = closing(source, at, sign);
      if (end > position) {
        if (sign === '"') return { calls, text: { from: at + 1, comparedWith } };
        return { calls, path: { from: at, steps: [...(open ? steps : []), ''] } };
      }
      const value = source.slice(at + 1, end - 1).replaceAll(sign + sign, sign);
      const call = calls.at(-1);
      if (sign === '"') call?.texts.set(call.argument, value);
      else if (open) steps.push(value);
      else steps = [value];
      open = false;
      at = end;
      continue;
    }
    if (name !== undefined) {
      const end = Math.min(at + name.length, position);
      // Pushed, because a copy for each step of a long name takes the square of its length.
      if (open) steps.push(source.slice(at, end));
      else steps = [source.slice(at, end)];
      stepFrom = at;
      open = false;
      at = end;
      continue;
    }
    if (sign === '.' && steps.length > 0) open = true;
    else {
      if (sign === '(') {
        calls.push({ name: (steps.at(-1) ?? '').toUpperCase(), texts: new Map(), argument: 0, from: at + 1 });
      } else if (sign === '{') calls.push({ name: '', texts: new Map(), argument: 0, from: at + 1 });
      else if (sign === ')' || sign === '}') calls.pop();
      else if (sign === ',' || sign === ';') {
        const call = calls.at(-1);
        if (call) {
          call.firstEnds ??= at;
          call.argument++;
        }
      }
      if (/[=<>]/.test(sign)) comparedWith = steps.length > 0 ? steps : comparedWith;
      else if (/\S/.test(sign)) comparedWith = undefined;
      if (/\S/.test(sign)) steps = [];
    }
    at++;
  }
  if (open) return { calls, path: { from: position, steps: [...steps, ''] } };
  word.lastIndex = stepFrom;
  const touches =
    steps.length > 0 && stepFrom + (word.exec(source.slice(0, position))?.[0].length ?? -1) === position;
  return touches ? { calls, path: { from: stepFrom, steps } } : { calls };
}

/** Returns where a quoted piece ends, behind its last quote; beyond the text when it is not closed. */
function closing(source: string, start: number, quote: string): number {
  for (let at = start + 1; at < source.length; at++) {
    if (source[at] !== quote) continue;
    if (source[at + 1] === quote) at++;
    else return at + 1;
  }
  return Infinity;
}

/**
 * Returns what can be written at a position of a formula, the likeliest kinds first. Filtering by what is typed is left to the editor.
 * `gives` is the field whose value the formula makes: its options can be the result, or a part of it.
 */
export function completionsAt(source: string, position: number, scope: Scope, gives?: Field): Completions {
  const cursor = cursorAt(source, position);
  if (cursor.text) {
    const { from, comparedWith } = cursor.text;
    return { from, options: textOptions(cursor.calls.at(-1), comparedWith, scope, gives) };
  }
  const steps = cursor.path?.steps ?? [];
  const from = cursor.path?.from ?? position;
  const item = itemAt(source, cursor.calls, scope);
  if (steps.length > 1) {
    return {
      from,
      options: fieldOptions(
        fieldsBehind(steps.slice(0, -1), { ...scope, ...(item && { item }) }),
        steps.slice(0, -1),
      ),
    };
  }
  const inList = item !== undefined;
  return {
    from,
    options: [
      ...(gives?.options ?? []).map(({ value, label }): Completion => ({
        insert: `"${value.replaceAll('"', '""')}"`,
        label: `"${value}"`,
        kind: 'result',
        detail: label === value ? '' : label,
        meaning: `An option of ${gives?.label ?? ''}`,
      })),
      ...fieldOptions(scope.record, [], true),
      ...[...scope.found.keys()].map((alias): Completion => ({
        insert: `${alias}.`,
        label: alias,
        kind: 'record',
        detail: 'found record',
      })),
      ...Object.entries(reservedNames)
        .filter(([name]) => name !== 'target' || scope.target)
        .map(([name, meaning]): Completion => ({
          insert: `${name}.`,
          label: name,
          kind: 'record',
          detail: '',
          meaning,
        })),
      ...(inList
        ? [{ insert: 'item', label: 'item', kind: 'word' as const, detail: 'the element at hand' }]
        : []),
      ...formulaFunctions
        .filter(({ readsFile }) => readsFile === undefined || scope.places)
        .map((entry): Completion => ({
          insert: `${entry.name}(`,
          label: entry.name,
          kind: 'function',
          detail: signature(entry).slice(entry.name.length),
          meaning: entry.meaning,
        })),
    ],
  };
}

/** Returns the type of the element at hand: that of the innermost list that the cursor's place goes through. */
function itemAt(source: string, calls: readonly OpenCall[], scope: Scope): Type | undefined {
  return calls.reduce<Type | undefined>((outer, { name, from, firstEnds }) => {
    if (!functionNamed(name)?.loops || firstEnds === undefined) return outer;
    const list = compile(source.slice(from, firstEnds), { ...scope, ...(outer && { item: outer }) });
    if (!list.ok) return any;
    const { type } = list.formula;
    return type.kind === 'list' ? type.of : type;
  }, scope.item);
}

/** Returns the fields that can follow a dot. */
function fieldsBehind(steps: readonly string[], scope: Scope): readonly Field[] {
  const [first = '', ...rest] = steps;
  const own = { record: scope.record, before: scope.record, target: scope.target };
  if (first === 'event') return eventFields;
  if (first === 'item' && scope.item) {
    return scope.item.kind === 'object'
      ? fieldsAlong(scope.item.fields, rest, { ...scope, referred: () => [] })
      : [];
  }
  const root =
    scope.found.get(first) ?? (Object.hasOwn(own, first) ? own[first as keyof typeof own] : undefined);
  return root ? fieldsAlong(root, rest, scope) : fieldsAlong(scope.record, steps, scope);
}

const eventFields: readonly Field[] = [
  { name: 'time', label: 'when the change happened', type: 'datetime' },
  { name: 'kind', label: 'created, updated or deleted', type: 'text' },
  { name: 'id', label: 'id of the event', type: 'text' },
  { name: 'source', label: 'where it comes from', type: 'text' },
];

/** Walks into objects and along references. */
function fieldsAlong(fields: readonly Field[], steps: readonly string[], scope: Scope): readonly Field[] {
  return steps.reduce<readonly Field[]>((inside, step) => {
    const field = inside.find(({ name }) => name === step);
    if (!field) return [];
    if (field.type === 'object' || field.type === 'list') return field.fields ?? [];
    return (scope.referred?.(field) ?? []).flatMap(({ type }) => type.fields);
  }, fields);
}

function fieldOptions(
  fields: readonly Field[],
  behind: readonly string[],
  deep = false,
): readonly Completion[] {
  const named = deep
    ? leafFields(fields)
    : fields.map((field) => ({ path: field.name, label: field.label, field }));
  return named.map(({ path, label, field }) => ({
    insert: printPath(path.split('.')),
    label: path,
    kind: 'field',
    detail: describeType(typeOfField(field)),
    meaning: label,
    path: [...behind, ...path.split('.')],
  }));
}

/**
 * Returns what a text can be: the name of a table, of a column of it, an option of the field that it is compared with, or else of the
 * field that the formula is for.
 */
function textOptions(
  call: OpenCall | undefined,
  comparedWith: readonly string[] | undefined,
  scope: Scope,
  gives: Field | undefined,
): readonly Completion[] {
  if (call && functionNamed(call.name)?.looksUp) {
    if (call.argument === 0) {
      return [...scope.tables].map(([name, { table }]) => ({
        insert: name,
        label: name,
        kind: 'table',
        detail: table.columns.map(({ name: column }) => column).join(', '),
      }));
    }
    const table = scope.tables.get(call.texts.get(0) ?? '')?.table;
    return (table?.columns ?? []).map(({ name, label, type }) => ({
      insert: name,
      label: name,
      kind: 'column',
      detail: type,
      meaning: label,
    }));
  }
  const steps = comparedWith ?? [];
  const held = fieldsBehind(steps.slice(0, -1), scope).find(({ name }) => name === steps.at(-1));
  const compared = steps.length === 1 ? fieldAt(scope.record, steps[0] ?? '') : held;
  return ((comparedWith ? compared : gives)?.options ?? []).map(({ value, label }) => ({
    insert: value,
    label: value,
    kind: 'option',
    detail: label === value ? '' : label,
  }));
}

/** Returns the innermost function around a position, and which of its arguments that is. */
export function signatureAt(source: string, position: number): SignatureHelp | undefined {
  const call = [...cursorAt(source, position).calls].reverse().find(({ name }) => functionNamed(name));
  const entry = call && functionNamed(call.name);
  if (!entry) return undefined;
  const whole = signature(entry);
  const parts = whole.slice(entry.name.length + 1, -1).split(', ');
  return {
    name: entry.name,
    signature: whole,
    meaning: entry.meaning,
    parts,
    at: Math.min(call.argument, parts.length - 1),
  };
}
