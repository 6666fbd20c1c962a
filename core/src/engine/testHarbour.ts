import type { Action } from './actions';
import type { MappingLine } from './actions/mappingLine';
import type { ChangeEvent } from '../model/event';
import type { Find } from '../model/find';
import type { Json, JsonObject } from '../model/json';
import type { StoredRecord } from '../model/record';
import type { RuleBody } from './rule';
import { Catalog, type Field, type System } from '../model/system';
import { ownDefinition } from '../model/counterpart';
import { MemoryWorkspace } from '../workspace/memory';
import type { CompiledRule } from './compiled';
import { compileRule } from './compileRule';
import { fieldsOf } from '../change/fields';
import { runEvent, type RunSetup } from './run';

/** Two small systems for tests of the engine: a book of companies, and a desk with their accounts and jobs. */
const text = (name: string, more: Partial<Field> = {}): Field => ({
  name,
  label: name,
  type: 'text',
  ...more,
});
const of = (name: string, ...fields: Field[]) => ({
  name,
  label: name.charAt(0).toUpperCase() + name.slice(1),
  plural: `${name}s`,
  idField: 'id',
  nameField: 'name',
  fields: [text('id', { readOnly: true }), ...fields],
});
const book: System = {
  key: 'book',
  tag: 'BK',
  name: 'Book',
  hue: 10,
  recordTypes: [
    of(
      'company',
      text('name'),
      text('domain'),
      text('status'),
      text('code'),
      text('old_phone'),
      text('old_fax'),
      text('old_id', { readOnly: true }),
      { name: 'size', label: 'size', type: 'integer' },
      { name: 'since', label: 'since', type: 'date' },
    ),
    of('person', text('name'), text('note'), text('status'), {
      name: 'company',
      label: 'company',
      type: 'reference',
      refersTo: ['company'],
    }),
    of('order', text('name'), {
      name: 'lines',
      label: 'Lines',
      type: 'list',
      keyField: 'no',
      fields: [
        { name: 'no', label: 'No', type: 'integer', required: true },
        text('goods'),
        { name: 'kg', label: 'Kg', type: 'decimal' },
        { name: 'due', label: 'Due', type: 'date' },
        { name: 'company', label: 'Company', type: 'reference', refersTo: ['company'] },
      ],
    }),
  ],
};
const desk: System = {
  key: 'desk',
  tag: 'DK',
  name: 'Desk',
  hue: 200,
  recordTypes: [
    of('account', text('name'), text('mail'), text('note', { maxLength: 12 }), {
      name: 'limit',
      label: 'limit',
      type: 'integer',
    }),
    of(
      'job',
      text('name', { required: true }),
      text('owner'),
      { name: 'day', label: 'day', type: 'date' },
      {
        name: 'account',
        label: 'account',
        type: 'reference',
        refersTo: ['account'],
      },
    ),
    of(
      'delivery',
      text('name'),
      {
        name: 'items',
        label: 'Items',
        type: 'list',
        keyField: 'code',
        fields: [
          text('code', { required: true, maxLength: 6 }),
          { name: 'grams', label: 'Grams', type: 'integer', max: 50_000 },
        ],
      },
      {
        name: 'place',
        label: 'Place',
        type: 'object',
        fields: [text('town'), text('gate', { maxLength: 3 })],
      },
    ),
  ],
};

export const catalog = new Catalog([book, desk, ownDefinition]);
export const surroundings = { catalog, tables: new Map() };

const places: Readonly<Record<string, string>> = {
  company: 'book',
  person: 'book',
  account: 'desk',
  job: 'desk',
  order: 'book',
  delivery: 'desk',
  counterpart: 'vast-knot',
};
export const ref = (recordType: string, id: string) => ({
  system: places[recordType] ?? '',
  recordType,
  id,
});

/** Returns a record of a type, which says its id first. */
export function stored(recordType: string, id: string, fields: JsonObject): StoredRecord {
  return { ref: ref(recordType, id), record: { id, ...fields } };
}

export const line = (field: string, formula: string, more: Partial<MappingLine> = {}): MappingLine => ({
  field,
  formula,
  policy: 'always',
  ...more,
});

/** Returns a find by one condition, changed where a test says so. */
export function find(recordType: string, field: string, formula: string, more: Partial<Find> = {}): Find {
  return {
    alias: recordType,
    system: places[recordType] ?? '',
    recordType,
    match: [{ field, is: 'equal', formula }],
    none: 'stop',
    several: 'each',
    ...more,
  };
}

/** Returns a rule that starts when a company is updated and does these actions. */
export function rule(actions: readonly Action[], more: Partial<RuleBody> = {}): RuleBody {
  return {
    name: 'rule',
    note: '',
    trigger: { system: 'book', recordType: 'company', kinds: ['updated'], watched: [] },
    guard: '',
    finds: [],
    actions,
    ...more,
  };
}

export const write = (target: string, ...lines: MappingLine[]): Action => ({ kind: 'write', target, lines });

/** Returns the event that a company was updated: what it holds now, and what of it was otherwise before. */
export function updated(now: JsonObject, before: Readonly<Record<string, Json>>): ChangeEvent {
  return {
    id: 'e1',
    source: '/book',
    kind: 'updated',
    ref: ref('company', 'C1'),
    time: '2026-03-09T09:00:00Z',
    record: { id: 'C1', ...now },
    before: { id: 'C1', ...now, ...before },
    changed: Object.keys(before),
  };
}

export function compiled(bodies: readonly RuleBody[]): readonly CompiledRule[] {
  const rules = new Map(bodies.map((body, at) => [`r${at}`, { ...body, id: `r${at}`, version: 1 }]));
  return [...rules.values()].map((each) => {
    const result = compileRule(each, { ...surroundings, rules });
    if (!result.ok)
      throw new Error(result.problems.map(({ at, error }) => `${at}: ${error.message}`).join('; '));
    return result.compiled;
  });
}

/** Runs an event through rules over records; the record of the event stands among them. */
export async function run(
  event: ChangeEvent,
  bodies: readonly RuleBody[],
  records: readonly StoredRecord[] = [],
  setup: Partial<RunSetup> = {},
) {
  const workspace = new MemoryWorkspace(catalog, [{ ref: event.ref, record: event.record }, ...records]);
  const { report, met } = await runEvent(event, { catalog, rules: compiled(bodies), workspace, ...setup });
  return { ...report, met };
}

/** Returns what is written, as `company/C1 status=open`; the first part tells of creations and removals. */
export function written(writes: Awaited<ReturnType<typeof run>>['writes']): readonly string[] {
  return writes.map(({ change }) => {
    const { recordType, id } = change.ref;
    const said = fieldsOf(change)
      .map(({ path, after }) => `${path}=${JSON.stringify(after ?? null)}`)
      .join(' ');
    if (change.kind === 'remove') return `remove ${recordType}/${id}`;
    return change.kind === 'create' ? `create ${recordType} ${said}` : `${recordType}/${id} ${said}`;
  });
}

/** A company that is updated: its status was new. */
export const company = updated(
  {
    name: 'Skerry Line',
    domain: 'skerry.example',
    status: 'open',
    size: 3,
    code: 'AB-12',
    old_phone: '1',
    old_fax: '2',
    old_id: 'k',
  },
  { status: 'new' },
);
/** Two people of the company: one is active, one has left. */
export const people = [
  stored('person', 'P1', { name: 'Runa', company: 'C1', status: 'active', note: 'old' }),
  stored('person', 'P2', { name: 'Bram', company: 'C1', status: 'left', note: null }),
];
/** The find that reaches the people of the company. */
export const reached = { finds: [find('person', 'company', 'id')] };
