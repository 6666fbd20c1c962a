import {
  labelOf,
  readPointer,
  stepsOfPointer,
  type Json,
  type RecordType,
  type TypeStyle,
} from '@vast-knot/core';

/** What a press on a place of an answer can mean. */
export interface Pointing {
  readonly label: string;
  /** Returns the style in which this place has that meaning. */
  readonly style?: (style: TypeStyle) => TypeStyle;
  /** Returns the record type in which this place has that meaning. */
  readonly type?: (type: RecordType) => RecordType;
}

/** Where the list of records stands, and within one of them, where a place is. */
interface Within {
  /** The place in the record, after its envelope; undefined for what is not in a record. */
  readonly field: string | undefined;
  /** The place in the element of the list. */
  readonly inElement: string | undefined;
}

function within({ list }: TypeStyle, pointer: string): Within {
  if (!pointer.startsWith(`${list.items}/`)) return { field: undefined, inElement: undefined };
  const [, rest] = /^\/\d+(\/.*)?$/.exec(pointer.slice(list.items.length)) ?? [];
  if (rest === undefined) return { field: undefined, inElement: undefined };
  const record = list.record ?? '';
  const inRecord = rest.startsWith(`${record}/`)
    ? (stepsOfPointer(rest.slice(record.length)) ?? []).join('.')
    : undefined;
  return { field: inRecord, inElement: rest };
}

/** Returns what a place of the answer of a list can be pointed out as. */
export function pointingsAt(
  style: TypeStyle,
  type: RecordType | undefined,
  body: Json,
  pointer: string,
): readonly Pointing[] {
  const value = readPointer(body, pointer);
  const list = (change: (list: TypeStyle['list']) => TypeStyle['list']) => (known: TypeStyle) => ({
    ...known,
    list: change(known.list),
  });
  if (Array.isArray(value))
    return [
      {
        label: 'These are the records',
        style: list((known) => ({ ...withoutRecord(known), items: pointer })),
      },
    ];
  const { field, inElement } = within(style, pointer);
  if (typeof value === 'object' && value !== null)
    return inElement !== undefined && inElement !== (style.list.record ?? '')
      ? [{ label: 'Each record stands in this', style: list((known) => ({ ...known, record: inElement })) }]
      : [];
  if (field !== undefined && type) {
    const text = typeof value === 'string' || typeof value === 'number';
    return text
      ? [
          { label: 'This is its id', type: (known) => ({ ...withField(known, field), idField: field }) },
          { label: 'This is its name', type: (known) => ({ ...withField(known, field), nameField: field }) },
          {
            label: 'This is its version',
            style: (known) => ({ ...known, version: { kind: 'field', field } }),
          },
          {
            label: 'This is when it was changed',
            style: (known) => ({ ...known, version: { kind: 'field', field } }),
            type: (known) => withField(known, field),
          },
        ]
      : [];
  }
  if (typeof value === 'number')
    return [
      { label: 'So many there are in all', style: list((known) => ({ ...known, total: pointer })) },
      ...cursorAt(pointer),
    ];
  if (typeof value !== 'string') return [];
  const isAddress = /^(https?:)?\/|^\?/.test(value);
  return isAddress
    ? [
        {
          label: 'This is the address of the next page',
          style: list((known) => ({
            ...known,
            paging: { ...limitOnly(known), kind: 'address', next: pointer },
          })),
        },
      ]
    : cursorAt(pointer);
}

function cursorAt(pointer: string): readonly Pointing[] {
  return [
    {
      label: 'The next page is asked for with this',
      style: (known) => {
        const before = known.list.paging;
        const parameter = 'parameter' in before ? before.parameter : 'cursor';
        return {
          ...known,
          list: {
            ...known.list,
            paging: { ...limitOnly(known.list), kind: 'cursor', next: pointer, parameter },
          },
        };
      },
    },
  ];
}

function limitOnly({ paging }: TypeStyle['list']) {
  return 'limit' in paging && paging.limit ? { limit: paging.limit } : {};
}

function withoutRecord({ record: _before, ...list }: TypeStyle['list']): TypeStyle['list'] {
  return list;
}

/** A field that the type does not have yet comes with it. */
function withField(type: RecordType, name: string): RecordType {
  if (type.fields.some((field) => field.name === name) || name.includes('.')) return type;
  return { ...type, fields: [...type.fields, { name, label: labelOf(name), type: 'text' }] };
}

/** Returns what a style and a type point at in the answer of a list, in words. */
export function marksIn(
  style: TypeStyle,
  type: RecordType | undefined,
  body: Json,
): ReadonlyMap<string, string> {
  const { list, version } = style;
  const marks = new Map<string, string>();
  const add = (pointer: string, words: string) => {
    if (readPointer(body, pointer) === undefined) return;
    const known = marks.get(pointer);
    marks.set(pointer, known === undefined ? words : `${known}, ${words}`);
  };
  add(list.items, 'the records');
  if (list.total !== undefined) add(list.total, 'how many in all');
  if ('next' in list.paging) add(list.paging.next, 'the next page');
  const first = `${list.items}/0${list.record ?? ''}`;
  if (list.record !== undefined) add(first, 'the record');
  const place = (path: string) =>
    `${first}/${path
      .split('.')
      .map((step) => step.replaceAll('~', '~0').replaceAll('/', '~1'))
      .join('/')}`;
  if (type) {
    add(place(type.idField), 'its id');
    if (type.nameField !== type.idField) add(place(type.nameField), 'its name');
  }
  if (version.kind === 'field') add(place(version.field), 'its version');
  const asked = style.listening?.asked;
  if (asked) add(place(asked.field), 'when it changed');
  return marks;
}
